"""The other side: parts and runs mirrored about a lengthwise line, and what differs between a run and its twin."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import EditError
from ..laying import angle_between, fitted_of, placed_port, planned_pieces
from ..records import (
    Bend,
    Body,
    Design,
    InLine,
    Item,
    Mitre,
    Offset,
    Part,
    Piece,
    Placed,
    Port,
    Run,
    SegmentedBend,
    Straight,
)
from ..records.base import Direction, Point
from ..space import wrapped
from ..units import Length, format_angle, format_length

SAME_MM, SAME_DEG = 1.0, 0.5  # ports this near to each other are at one place: a tape shows no less


def mirrored_item(item: Item) -> Item:
    """The item of the other hand: left and right of its own middle plane exchanged."""
    ports = tuple(
        Port.model_validate(
            {**p.model_dump(), "point": _flip(p.point), "axis": _flip(p.axis), "reference": _flip(p.reference)}
        )
        for p in item.ports
    )
    bodies = tuple(
        Body.model_validate({**b.model_dump(), "start": _flip(b.start), "axis": _flip(b.axis) if b.axis else None})
        for b in item.bodies
    )
    return item.replace(ports=ports, bodies=bodies)


def _flip(point: Sequence[float]) -> tuple[float, float, float]:
    return float(point[0]), -float(point[1]) + 0.0, float(point[2])


def mirrored_placed(placed: Placed, line_y_mm: float) -> Placed:
    """The place on the other side of the lengthwise plane Y = `line_y_mm`."""
    x, y, z = placed.point
    point: Point = (x, Length(2 * line_y_mm - y), z)
    axis: Direction = _flip(placed.axis)
    reference = _flip(placed.reference) if placed.reference is not None else None
    return Placed(point=point, axis=axis, reference=reference)


def mirrored_pieces(pieces: Sequence[Piece], parts: dict[str, str]) -> tuple[Piece, ...]:
    """Pieces of the other hand: every roll the other way; carried parts exchanged for their twins by `parts`."""
    out: list[Piece] = []
    for piece in pieces:
        update: dict[str, object] = {}
        if piece.offset:
            (along, up, across), (a, b, c) = piece.offset.shift_mm, piece.offset.turn_deg
            update["offset"] = Offset(shift_mm=(along, up, Length(-across)), turn_deg=(-a, b, -c))
        if isinstance(piece, Bend | Mitre | SegmentedBend | InLine):
            update["roll_deg"] = -piece.roll_deg + 0.0
        if isinstance(piece, SegmentedBend):
            update["roll_each_deg"] = -piece.roll_each_deg + 0.0
        if isinstance(piece, InLine):
            update["part"] = parts.get(piece.part, piece.part)
        out.append(piece.replace(**update))
    return tuple(out)


def mirror_part(design: Design, part_id: str, line_y_mm: float = 0.0) -> Design:
    """The design with a placed part's twin on the other side. Raises EditError."""
    part = design.part(part_id)
    if part is None or part.placed is None:
        raise EditError("that part has no place of its own to mirror")
    return design.replace(parts=(*design.parts, _twin(design, part, line_y_mm))).validated()


def _twin(design: Design, part: Part, line_y_mm: float) -> Part:
    placed = mirrored_placed(part.placed, line_y_mm) if part.placed else None
    name = _other_side(part.name or part.item.kind)
    return Part(
        id=_free(part.id, {p.id for p in design.parts}), name=name, item=mirrored_item(part.item), placed=placed
    )


def _other_side(name: str) -> str:
    for a, b in (("left", "right"), ("right", "left")):
        if a in name:
            return name.replace(a, b)
    return f"{name}, mirrored"


def _free(wanted: str, taken: set[str]) -> str:
    return next(f"{wanted[:34]}-m{n}" for n in range(1, 1000) if f"{wanted[:34]}-m{n}" not in taken)


def mirror_run(design: Design, run_id: str, line_y_mm: float = 0.0) -> Design:
    """The design with a run's twin on the other side. Raises EditError.

    What is on the other side already is used: where a port stands at the mirrored place, of the same part (an X on the
    line has one for each side) or of another, the twin starts or ends there. Else the part gets a twin, and with it
    what stands on its other ports, as a tip does on its muffler.
    """
    run = design.run(run_id)
    if run is None or not isinstance(run.start, str):
        raise EditError("that run has no start of its own to mirror")
    changed, twins = design, dict[str, str]()
    ends: list[str | None] = []
    for end in (run.start, run.aim):
        there = _port_there(changed, end, line_y_mm) if end else None
        if end and there is None:
            changed, twins = _with_twin(changed, end.partition(".")[0], twins, line_y_mm, along=end == run.aim)
            there = f"{twins[end.partition('.')[0]]}.{end.partition('.')[2]}"
        ends.append(there)
    if (ends[0], ends[1]) == (run.start, run.aim):
        raise EditError("that run lies on the line it is mirrored about: its other side is itself")
    for piece in run.pieces:
        if isinstance(piece, InLine):
            changed, twins = _with_twin(changed, piece.part, twins, line_y_mm)
    new = run.replace(
        id=_free(run.id, {r.id for r in design.runs}),
        name=_other_side(run.name or run.id),
        start=ends[0],
        aim=ends[1],
        pieces=mirrored_pieces(planned_pieces(design, run), twins),
        twin_of=run.id,
        twin_line_mm=Length(line_y_mm),
    )
    return changed.replace(runs=(*changed.runs, new)).validated()


def _port_there(design: Design, port_name: str, line_y_mm: float) -> str | None:
    """The port that stands where the mirror image of this one would, and looks the same way; none yet."""
    here, kind = placed_port(design, port_name), design.find_port(port_name)
    if here is None or kind is None:
        return None
    point = np.array([here.point[0], 2 * line_y_mm - here.point[1], here.point[2]])
    flow = here.flow * [1.0, -1.0, 1.0]
    for part in design.parts:
        for port in (p for p in part.item.ports if (p.role == "out") == (kind[1].role == "out")):
            other = placed_port(design, f"{part.id}.{port.id}")
            near = other is not None and np.linalg.norm(other.point - point) < SAME_MM
            if near and other is not None and angle_between(other.flow, flow) < SAME_DEG:
                return f"{part.id}.{port.id}"
    return None


def _with_twin(
    design: Design, part_id: str, twins: dict[str, str], line_y_mm: float, *, along: bool = False
) -> tuple[Design, dict[str, str]]:
    """The design with a part's twin, if it has none yet; `along` takes with it what stands on its ports."""
    part = design.part(part_id)
    if part is None or part_id in twins:
        return design, twins
    twin = _twin(design, part, line_y_mm)
    changed, known = design.replace(parts=(*design.parts, twin)), {**twins, part_id: twin.id}
    for other in _standing_on(design, part) if along else ():
        there = any(_port_there(design, f"{other.id}.{port.id}", line_y_mm) for port in other.item.ports)
        if other.id not in known and not there:
            changed, known = _with_twin(changed, other.id, known, line_y_mm, along=True)
    return changed, known


def _standing_on(design: Design, part: Part) -> list[Part]:
    """Placed parts whose port meets one of this part's ports face to face."""
    mine = [placed_port(design, f"{part.id}.{p.id}") for p in part.item.ports]
    out = []
    for other in design.parts:
        theirs = [placed_port(design, f"{other.id}.{p.id}") for p in other.item.ports]
        pairs = [(a, b) for a in mine for b in theirs if a is not None and b is not None]
        if other.id != part.id and any(np.linalg.norm(a.point - b.point) < SAME_MM for a, b in pairs):
            out.append(other)
    return out


def differences(run: Run, twin: Run) -> list[str]:
    """In what a run and its mirror image differ, piece by piece, in words; nothing when they are each other's image."""
    said = []
    image = mirrored_pieces(run.pieces, {})
    if len(image) != len(twin.pieces):
        said.append(f"{len(run.pieces)} pieces on the one side, {len(twin.pieces)} on the other")
    for n, (wanted, found) in enumerate(zip(image, twin.pieces, strict=False), 1):
        words = _difference(wanted, found)
        if words:
            said.append(f"piece {n}: {words}")
    if run.tube != twin.tube:
        said.append("the tube")
    return said


def _difference(wanted: Piece, found: Piece) -> str:
    if wanted.kind != found.kind:
        return f"{wanted.kind} here, {found.kind} there"
    if isinstance(wanted, Straight) and isinstance(found, Straight) and abs(wanted.length_mm - found.length_mm) > 0.05:
        return f"{format_length(wanted.length_mm)} here, {format_length(found.length_mm)} there"
    if isinstance(wanted, Bend) and isinstance(found, Bend):
        if abs(wanted.angle_deg - found.angle_deg) > 0.05:
            return f"turns {format_angle(wanted.angle_deg)} here, {format_angle(found.angle_deg)} there"
        if abs(wrapped(wanted.roll_deg - found.roll_deg)) > 0.05:
            return "rolled otherwise"
    return ""


def mixed_up(design: Design) -> list[str]:
    """Pairs of the two sides that look alike but differ, or could go on either side: what to mark, in words."""
    said = []
    for twin in design.runs:
        run = design.run(twin.twin_of) if twin.twin_of else None
        if run is None:
            continue
        names = f"{run.name or run.id} and {twin.name or twin.id}"
        unlike = differences(run, twin)
        if unlike:
            said.append(f"{names} look alike but differ ({unlike[0]}): mark left and right on each piece")
        halves = [[_side_of(design, r, end) for end in (0, 1)] for r in (run, twin)]
        if halves[0] == halves[1] and any(halves[0]):
            said.append(
                f"{names} have their V-bands the same way round: turn one side's, male for female, "
                "so that each only goes on its own side"
            )
    return said


def _side_of(design: Design, run: Run, end: int) -> str:
    """Which half of a V-band is ahead at a run's start or aim; empty where there is none."""
    port = (run.start, run.aim)[end]
    part = design.part(port.partition(".")[0]) if isinstance(port, str) else None
    return part.item.side if part else ""


def follow_twins(design: Design, run_id: str) -> Design:
    """The design with every linked twin of a run made its mirror image again, as it was drawn: what was found on one
    side is not so on the other. A twin with something on the vehicle stays as it is.
    """
    run = design.run(run_id)
    twins = [r for r in design.runs if run and r.twin_of == run_id and r.twin_linked and not fitted_of(design, r.id)]
    if run is None or not twins:
        return design
    runs = list(design.runs)
    for twin in twins:
        carried = [p.part for p in run.pieces if isinstance(p, InLine)]
        theirs = [p.part for p in twin.pieces if isinstance(p, InLine)]
        pieces = mirrored_pieces(planned_pieces(design, run), dict(zip(carried, theirs, strict=False)))
        kept = {p.id for p in pieces} | {"start"}
        joints = tuple(j for j in run.joints if j.after in kept)
        runs[runs.index(twin)] = twin.replace(pieces=pieces, joints=joints, tube=run.tube)
    return design.replace(runs=tuple(runs))
