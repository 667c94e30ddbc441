"""Metals at joints: which joints cannot be welded, and which want something done first.

Sources: docs/sources.md, "Metals at a joint".
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ...facts import JOINTS, METALS, JointKind, Metal
from ..laying import LaidRun, System
from ..records import Design, InLine, Item, Part, Tube
from ..space import Vector
from .findings import Finding, point


@dataclass(frozen=True)
class Side:
    """One side of a joint."""

    name: str
    metal: Metal
    wall_mm: float | None
    surface: str


@dataclass(frozen=True)
class Meeting:
    """Two sides that meet, and how."""

    run: str
    piece: int
    part: str
    kind: JointKind
    at: Vector
    sides: tuple[Side, Side]


def metal_findings(design: Design, system: System) -> Iterator[Finding]:
    """For each joint that is welded: metals that do not weld, coatings, rust, thick against thin."""
    limit = design.settings.rules.thick_to_thin
    for meeting in (m for run in system.runs for m in meetings(design, run)):
        if JOINTS[meeting.kind].joins_any_metal:
            continue
        a, b = meeting.sides
        if METALS[a.metal].family != METALS[b.metal].family:
            yield _say("no-weld", meeting, METALS[a.metal].name, METALS[b.metal].name)
            continue
        for side in (a, b):
            if side.surface == "rusted":
                yield _say("rusted", meeting, side.name)
            elif side.surface == "coated" or METALS[side.metal].is_coated:
                yield _say("strip-coat", meeting, side.name)
        if a.wall_mm and b.wall_mm and max(a.wall_mm, b.wall_mm) > limit * min(a.wall_mm, b.wall_mm):
            thick = max((a, b), key=lambda s: s.wall_mm or 0.0)
            yield _say("thick-thin", meeting, thick.name, figures=(a.wall_mm, b.wall_mm))


def _say(code: str, meeting: Meeting, *names: str, figures: tuple[float, ...] = ()) -> Finding:
    return Finding(code, meeting.run, meeting.piece, meeting.part, names=names, figures=figures, at=point(meeting.at))


def meetings(design: Design, laid: LaidRun) -> Iterator[Meeting]:
    """Every place where a run's pipe meets hardware, or pipe of another tube."""
    run = laid.run
    kinds = {j.after: j.kind for j in run.joints}
    before: tuple[Part | None, Tube | None] = (_part(design, run.start), None)
    key = "start"
    for piece in laid.pieces:
        part = design.part(piece.piece.part) if isinstance(piece.piece, InLine) else None
        here: tuple[Part | None, Tube | None] = (part, None if part else piece.tube)
        meeting = _meeting(laid, piece.index, kinds.get(key, "butt"), piece.inlet.point, before, here)
        if meeting:
            yield meeting
        before, key = here, piece.piece.id
    aim = _part(design, run.aim)
    if aim and laid.pieces:
        meeting = _meeting(laid, len(laid.pieces) - 1, kinds.get(key, "butt"), laid.end.point, before, (aim, None))
        if meeting:
            yield meeting


def _part(design: Design, end: object) -> Part | None:
    return design.part(end.partition(".")[0]) if isinstance(end, str) else None


def _meeting(
    laid: LaidRun,
    piece: int,
    kind: JointKind,
    at: Vector,
    before: tuple[Part | None, Tube | None],
    here: tuple[Part | None, Tube | None],
) -> Meeting | None:
    sides = _side(before, laid.run.tube), _side(here, laid.run.tube)
    if sides[0] is None or sides[1] is None or before == here:
        return None
    part = before[0] or here[0]
    return Meeting(laid.run.id, piece, part.id if part else "", kind, at, (sides[0], sides[1]))


def _side(of: tuple[Part | None, Tube | None], usual: Tube) -> Side | None:
    part, tube = of
    if part:
        item: Item = part.item
        wall = float(item.wall_mm) if item.wall_mm else None
        return Side(part.name or item.kind, item.metal or usual.material, wall, item.surface)
    return Side("pipe", tube.material, float(tube.wall_mm), "bare") if tube else None
