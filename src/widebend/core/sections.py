"""Where a system comes apart: the lengths that are lifted in and out, between joints that can be undone."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from .bodies import System
from .cutting import tube_mass_per_metre
from .frame import Vector
from .records import Design, InLine, Part
from .route import LaidPiece, LaidRun, spaced

COMES_APART = ("slip", "v-band", "flange", "clamp")  # a butt weld does not
SAMPLE_MM = 20.0


@dataclass(frozen=True)
class Section:
    """One length that comes out in one: its pieces (numbers from 1), and what it is to handle.

    `size_mm` (3,) is the box around it along, across and up; `mass_kg` is None when a part in it has no known mass.
    `joints` are the kinds at its two ends, "end" where the run ends.
    """

    run: str
    first: int
    last: int
    length_mm: float
    size_mm: Vector
    mass_kg: float | None
    joints: tuple[str, str]


def sections(design: Design, system: System) -> list[Section]:
    """Every section of every laid run, in order."""
    return [section for run in system.runs for section in _of_run(design, run)]


def _of_run(design: Design, laid: LaidRun) -> Iterator[Section]:
    undone = {j.after: j.kind for j in laid.run.joints if j.kind in COMES_APART}
    first, before = 0, undone.get("start", "end")
    for i, piece in enumerate(laid.pieces):
        kind = undone.get(piece.piece.id) or _part_joint(design, laid, i)
        if kind is None and i + 1 < len(laid.pieces):
            continue
        yield _section(design, laid, first, i, (before, kind or "end"))
        first, before = i + 1, kind or "end"


def _part_joint(design: Design, laid: LaidRun, i: int) -> str | None:
    """A flange or V-band carried in line is itself a joint; the section before it ends with it."""
    piece = laid.pieces[i].piece
    part = design.part(piece.part) if isinstance(piece, InLine) else None
    return part.item.kind if part and part.item.kind in ("flange", "v-band") else None


def _section(design: Design, laid: LaidRun, first: int, last: int, joints: tuple[str, str]) -> Section:
    pieces = laid.pieces[first : last + 1]
    radius = max(float(p.tube.od_mm) for p in pieces) / 2
    points = np.concatenate([spaced(p, SAMPLE_MM) for p in pieces])
    size = np.ptp(points, axis=0) + 2 * radius  # as if its ends were round: never too small
    for piece in pieces:
        part = _carried(design, piece)
        if part:
            widest = max(float(max(b.width_mm, b.height_mm)) for b in part.item.bodies) if part.item.bodies else 0.0
            size = np.maximum(size, [0.0, widest, widest])
    masses = [_mass(design, p) for p in pieces]
    mass = None if any(m is None for m in masses) else sum(m for m in masses if m is not None)
    length = sum(p.length_mm for p in pieces)
    return Section(laid.run.id, first + 1, last + 1, length, np.asarray(size), mass, joints)


def _carried(design: Design, piece: LaidPiece) -> Part | None:
    return design.part(piece.piece.part) if isinstance(piece.piece, InLine) else None


def _mass(design: Design, piece: LaidPiece) -> float | None:
    part = _carried(design, piece)
    if part:
        return part.item.mass_kg
    return tube_mass_per_metre(piece.tube) * piece.length_mm / 1000.0
