"""A design made otherwise: tips or bore a size up, no resonator, bends made of slices or bought. None where there is
nothing to change, or it cannot be.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..cutting import USUAL_OD_MM
from ..editing import in_one, sliced, with_other_item, with_radius
from ..errors import EditError
from ..laying import System
from ..records import Bend, Design, InLine, Item, Part, Piece, SegmentedBend, Straight
from ..units import SAME_SIZE_MM, Length

STRAIGHT_MM = 0.5  # a part whose ports are this near one line is replaced by straight pipe


def next_size_up(od_mm: float) -> float | None:
    """The next of the usual diameters [mm].

    >>> next_size_up(63.5), next_size_up(60.3), next_size_up(127.0)
    (76.2, 63.5, None)
    """
    return next((od for od in USUAL_OD_MM if od > od_mm + 1.0), None)


def tips_up(design: Design, _system: System) -> Design | None:
    """Every tip a size wider at its end, its neck as it is."""
    changed = design
    for part in design.parts:
        ends = [port.od_mm for port in part.item.ports if port.role == "out"]
        wide = next_size_up(float(max(ends))) if part.item.kind == "tip" and ends else None
        if wide:
            changed = _with_item(changed, part, _widened(part.item, float(max(ends)), wide), f"{wide:g} mm")
    return None if changed is design else changed


def bore_up(design: Design, _system: System) -> Design | None:
    """Every run a size wider, its bends as tight for their diameter as they were where the straights allow it; parts
    with a neck to match. What cleans the exhaust stays as it is: a step there is found by the review.
    """
    changed = design
    for run in design.runs:
        old = float(run.tube.od_mm)
        wide = next_size_up(old)
        if wide is None:
            return None
        changed = _wider(changed, run.id, old, wide)
    for part in design.parts:
        for old in {float(run.tube.od_mm) for run in design.runs}:
            wide = next_size_up(old)
            necks = any(abs(float(port.od_mm) - old) < SAME_SIZE_MM for port in part.item.ports)
            if wide and necks and part.item.kind != "cat":
                changed = _with_item(changed, part, _widened(part.item, old, wide), f"{wide:g} mm")
    return changed if design.runs else None


def _wider(design: Design, run_id: str, old_mm: float, wide_mm: float) -> Design:
    run = design.run(run_id)
    assert run is not None

    def of(piece: Piece) -> Piece:
        if piece.tube is None or isinstance(piece, InLine) or abs(float(piece.tube.od_mm) - old_mm) > SAME_SIZE_MM:
            return piece
        return piece.replace(tube=piece.tube.replace(od_mm=Length(wide_mm)))

    tube = run.tube.replace(od_mm=Length(wide_mm))
    wider = run.replace(tube=tube, pieces=tuple(of(piece) for piece in run.pieces))
    changed = design.replace(runs=tuple(wider if r.id == run_id else r for r in design.runs))
    radii = {float(piece.clr_mm) for piece in run.pieces if isinstance(piece, Bend)}
    if len(radii) != 1:
        return changed
    try:
        return with_radius(changed, run_id, round(radii.pop() * wide_mm / old_mm, 1))
    except EditError:  # the straights are too short for it: the radius stays
        return changed


def _widened(item: Item, old_mm: float, wide_mm: float) -> Item:
    """An item with every port and round body of one diameter at another."""

    def same(one: float) -> bool:
        return abs(one - old_mm) < SAME_SIZE_MM

    ports = tuple(port.replace(od_mm=Length(wide_mm)) if same(float(port.od_mm)) else port for port in item.ports)
    round_to = {"width_mm": Length(wide_mm), "height_mm": Length(wide_mm), "corner_mm": Length(wide_mm / 2)}
    bodies = tuple(
        body.replace(**round_to) if same(float(body.width_mm)) and same(float(body.height_mm)) else body
        for body in item.bodies
    )
    return item.replace(ports=ports, bodies=bodies)


def _with_item(design: Design, part: Part, item: Item, size: str) -> Design:
    """The design with another item in a part's place, called so that its price is asked for again."""
    name = f"{part.name or item.kind}, {size}"[:80]
    other = with_other_item(design, part.id, item)
    named = (one.replace(name=name) if one.id == part.id else one for one in other.parts)
    return other.replace(parts=tuple(named))


def without_resonator(design: Design, system: System) -> Design | None:
    """Straight pipe where a resonator is: only where its ports lie on one line."""
    gone = {p.id for p in design.parts if p.item.kind == "resonator"}
    places = {q.name: q.pose.point for q in system.ports}
    ways = {q.name: q.pose.flow for q in system.ports}
    runs, taken = [], set[str]()
    for run in design.runs:
        pieces: list[Piece] = []
        for piece in run.pieces:
            if isinstance(piece, InLine) and piece.part in gone:
                a, b = (f"{piece.part}.{port}" for port in (piece.enter, piece.leave))
                along = places[b] - places[a] if a in places and b in places else np.zeros(3)
                way = ways.get(b, np.zeros(3))
                if float(np.linalg.norm(along - (along @ way) * way)) < STRAIGHT_MM < float(np.linalg.norm(along)):
                    taken.add(piece.part)
                    long = Length(round(float(np.linalg.norm(along)), 2))
                    pieces.append(Straight(id=piece.id, length_mm=long))
                    continue
            pieces.append(piece)
        runs.append(run.replace(pieces=tuple(pieces)))
    if not taken:
        return None
    parts = tuple(p for p in design.parts if p.id not in taken)
    hangers = tuple(h for h in design.hangers if h.part not in taken)
    return design.replace(runs=tuple(runs), parts=parts, hangers=hangers)


def bends_of_slices(design: Design, _system: System) -> Design | None:
    """Every bend made of slices, as the design's rules say how far one turns."""
    turn = float(design.settings.rules.pie_turn_deg)
    return _with_pieces(design, lambda piece: sliced(piece, turn) if isinstance(piece, Bend) else piece)


def bends_bought(design: Design, _system: System) -> Design | None:
    """Every bend of slices bought in one."""
    return _with_pieces(design, lambda piece: in_one(piece) or piece if isinstance(piece, SegmentedBend) else piece)


def _with_pieces(design: Design, of: Callable[[Piece], Piece]) -> Design | None:
    runs = tuple(run.replace(pieces=tuple(of(piece) for piece in run.pieces)) for run in design.runs)
    return None if runs == design.runs else design.replace(runs=runs)
