"""Which port the gas goes on to from each port: by runs, through parts, and where two ports stand face to face.

A port that leads nowhere, and a pipe that meets a port of another diameter, are findings.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ...facts import PART_KINDS
from ..records import Design, InLine
from ..space import Vector
from .bodies import PlacedPort, System
from .route import LaidRun

STEP_MM = 1.5  # two diameters that differ by more than this want a reducer or an expander: common practice


@dataclass(frozen=True)
class Step:
    """Where two diameters meet without a reducer: the run (empty for port to port), the port, both ODs [mm]."""

    run: str
    port: PlacedPort
    tube_mm: float
    port_mm: float


def joins(design: Design, system: System) -> dict[str, str]:
    """For each port that something is joined to, the port at the other end, as the gas goes or against it."""
    out: dict[str, str] = {}
    for run in design.runs:
        before = run.start if isinstance(run.start, str) else ""
        for piece in run.pieces:
            if isinstance(piece, InLine):
                out[before] = f"{piece.part}.{piece.enter}"
                out[f"{piece.part}.{piece.enter}"] = before
                before = f"{piece.part}.{piece.leave}"
        if run.aim:
            out[before], out[run.aim] = run.aim, before
        elif before:
            out.setdefault(before, "")
    for a, b in system.faces:
        out.setdefault(a.name, b.name)
        out.setdefault(b.name, a.name)
    out.pop("", None)
    return out


def open_ports(design: Design, system: System) -> list[PlacedPort]:
    """Ports that lead nowhere. A tip's outlet leads to the air; the far side of a flange or ring is the vehicle's."""
    joined = joins(design, system)
    used = {name.partition(".")[0] for name in joined}
    return [
        p
        for p in system.ports
        if p.name not in joined
        and not (p.part.item.kind == "tip" and p.port.role == "out")
        and not (PART_KINDS[p.part.item.kind].joins_pipes and p.part.id in used)
    ]


def outlet_at(design: Design, system: System, place: Vector, axes: Sequence[int], within_mm: float) -> str | None:
    """The open outlet, by name, that stands at a place said on some of the axes (0 X, 1 Y, 2 Z) [mm]; the nearest."""
    near = [
        (float(np.linalg.norm(port.pose.point[list(axes)] - place)), port.name)
        for port in open_ports(design, system)
        if port.port.role != "in"
    ]
    off, name = min(near, default=(math.inf, ""))
    return name if off < within_mm else None


def steps(design: Design, system: System) -> list[Step]:
    """Where a pipe meets a port of another diameter, or two ports of different diameters stand on each other."""
    ports = {p.name: p for p in system.ports}
    out = []
    for run in system.runs:
        for name, tube in _run_ends(run):
            port = ports.get(name)
            if port and abs(tube - port.port.od_mm) > STEP_MM:
                out.append(Step(run.run.id, port, tube, float(port.port.od_mm)))
    for a, b in system.faces:
        if abs(a.port.od_mm - b.port.od_mm) > STEP_MM:
            out.append(Step("", a, float(b.port.od_mm), float(a.port.od_mm)))
    return out


def _run_ends(laid: LaidRun) -> Iterator[tuple[str, float]]:
    """Each port a run's tube is welded to, with the tube's OD there."""
    before = laid.run.start if isinstance(laid.run.start, str) else ""
    last: float | None = None
    for piece in laid.pieces:
        if isinstance(piece.piece, InLine):
            if last is not None:
                yield f"{piece.piece.part}.{piece.piece.enter}", last
            before, last = f"{piece.piece.part}.{piece.piece.leave}", None
            continue
        if last is None:
            yield before, float(piece.tube.od_mm)
        last = float(piece.tube.od_mm)
    if last is not None and laid.run.aim:
        yield laid.run.aim, last


def tube_steps(laid: LaidRun) -> list[tuple[int, float, float]]:
    """Where one tube follows another of a different diameter in a run: the second piece, both ODs [mm]."""
    pairs = zip(laid.pieces, laid.pieces[1:], strict=False)
    return [
        (b.index, float(a.tube.od_mm), float(b.tube.od_mm))
        for a, b in pairs
        if not isinstance(a.piece, InLine)
        and not isinstance(b.piece, InLine)
        and abs(a.tube.od_mm - b.tube.od_mm) > STEP_MM
    ]


def path(design: Design, system: System) -> list[list[str]]:
    """The gas, from each part that nothing feeds to where it ends: names of parts in order, one list a way."""
    joined = joins(design, system)
    parts = {part.id: part for part, _ in system.parts}
    fed = {
        joined[f"{p.id}.{port.id}"].partition(".")[0]
        for p in parts.values()
        for port in p.item.ports
        if port.role != "in" and f"{p.id}.{port.id}" in joined
    }
    ways: list[list[str]] = []

    def follow(part_id: str, way: list[str]) -> None:
        part = parts[part_id]
        here = [*way, part.name or part.item.kind]
        outs = [f"{part_id}.{p.id}" for p in part.item.ports if p.role != "in"]
        onward = [joined[o].partition(".")[0] for o in outs if joined.get(o)]
        onward = [o for o in onward if o in parts and (parts[o].name or parts[o].item.kind) not in way]
        if not onward or len(ways) > 40 or len(here) > 60:
            ways.append(here)
            return
        for next_id in onward:
            follow(next_id, here)

    for part_id, part in parts.items():
        if part_id not in fed and any(p.role != "in" for p in part.item.ports):
            follow(part_id, [])
    return ways
