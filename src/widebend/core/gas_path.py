"""Which port the gas goes on to from each port: by runs, through parts, and where two ports stand face to face.

A port that leads nowhere, and a pipe that meets a port of another diameter, are findings.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from .bodies import PlacedPort, System
from .records import Design, InLine
from .route import LaidRun, angle_between

MEETS_MM, MEETS_DEG = 2.0, 2.0  # two ports this near and this square to each other are joined
ENDS = ("flange", "v-band", "slip-joint", "clamp")  # hardware that a system may begin and end with
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
    for a, b in face_to_face(system.ports):
        out.setdefault(a.name, b.name)
        out.setdefault(b.name, a.name)
    out.pop("", None)
    return out


def face_to_face(ports: Sequence[PlacedPort]) -> Iterator[tuple[PlacedPort, PlacedPort]]:
    """Ports of two parts that stand on each other, looking opposite ways."""
    for i, a in enumerate(ports):
        for b in ports[i + 1 :]:
            near = a.part.id != b.part.id and np.linalg.norm(a.pose.point - b.pose.point) < MEETS_MM
            if near and angle_between(a.pose.flow, -b.pose.flow) < MEETS_DEG:
                yield a, b


def open_ports(design: Design, system: System) -> list[PlacedPort]:
    """Ports that lead nowhere. A tip's outlet leads to the air; the far side of a flange or ring is the vehicle's."""
    joined = joins(design, system)
    used = {name.partition(".")[0] for name in joined}
    return [
        p for p in system.ports
        if p.name not in joined and not (p.part.item.kind == "tip" and p.port.role == "out")
        and not (p.part.item.kind in ENDS and p.part.id in used)
    ]  # fmt: skip


def steps(design: Design, system: System) -> list[Step]:
    """Where a pipe meets a port of another diameter, or two ports of different diameters stand on each other."""
    ports = {p.name: p for p in system.ports}
    out = []
    for run in system.runs:
        for name, tube in _run_ends(run):
            port = ports.get(name)
            if port and abs(tube - port.port.od_mm) > STEP_MM:
                out.append(Step(run.run.id, port, tube, float(port.port.od_mm)))
    for a, b in face_to_face(system.ports):
        if abs(a.port.od_mm - b.port.od_mm) > STEP_MM:
            out.append(Step("", a, float(b.port.od_mm), float(a.port.od_mm)))
    return out


def _run_ends(laid: LaidRun) -> Iterator[tuple[str, float]]:
    """Each port a run's tube is welded to, with the tube's OD there."""
    tube, before = float(laid.run.tube.od_mm), laid.run.start if isinstance(laid.run.start, str) else ""
    has_pipe = False
    for piece in laid.pieces:
        if isinstance(piece.piece, InLine):
            if has_pipe:
                yield before, tube
                yield f"{piece.piece.part}.{piece.piece.enter}", tube
            before, has_pipe = f"{piece.piece.part}.{piece.piece.leave}", False
        else:
            has_pipe = True
    if has_pipe:
        yield before, tube
        if laid.run.aim:
            yield laid.run.aim, tube


def path(design: Design, system: System) -> list[list[str]]:
    """The gas, from each part that nothing feeds to where it ends: names of parts in order, one list a way."""
    joined = joins(design, system)
    parts = {part.id: part for part, _ in system.parts}
    fed = {joined[f"{p.id}.{port.id}"].partition(".")[0] for p in parts.values() for port in p.item.ports
           if port.role != "in" and f"{p.id}.{port.id}" in joined}  # fmt: skip
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
