"""Where a hanger could be: places on what hangs, and which points of the vehicle reach them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from ...facts import PART_KINDS
from ..laying import ENGINE, HUNG, System, along_piece, goes_as, movement, part_axes
from ..records import Design, Hanger, HangPoint, InLine
from ..space import Vector
from ..units import Length

REACH_MM = 260.0  # a rod of this much to the side is bent and welded with no brace: common practice, no source
UNDER_MM = 60.0  # a pin stands so far over the middle of a pipe at least: room for the rubber
BESIDE_MM = 10.0  # and over the top of a can: the rod may come up beside it
STEP_MM = 80.0  # how close together places along a pipe are tried
MOST_PLACES, MOST_POINTS = 14, 12


def candidates(design: Design, system: System, points: Sequence[HangPoint]) -> list[tuple[int, Hanger]]:
    """Every hanger that can be reached from a point (by its number): on parts, then on pipe, the nearest first."""
    places = list(places_to_hang(design, system))
    found: list[tuple[int, Hanger]] = []
    for k, point in enumerate(points):
        at = np.array(point.point, dtype=float)
        near = []
        for place, hanger in places:
            side = float(np.hypot(*(at - place)[:2]))
            if side <= REACH_MM and at[2] - place[2] >= (BESIDE_MM if hanger.part else UNDER_MM):
                near.append((side, hanger.replace(hang_point=point.id)))
        found += [(k, hanger) for _, hanger in sorted(near, key=lambda one: one[0])[:MOST_PLACES]]
    reaching = list(dict.fromkeys(k for k, _ in found))[:MOST_POINTS]
    return [(k, h.replace(id=f"try-{n}")) for n, (k, h) in enumerate(found) if k in reaching]


def places_to_hang(design: Design, system: System) -> Iterator[tuple[Vector, Hanger]]:
    """Places on what hangs (not on what rocks with the engine): the top of every can, and along the pipe."""
    moves, _ = movement(design, system)
    for part, at in system.parts:
        bodies = [b for b in system.bodies if b.part.id == part.id]
        if not PART_KINDS[part.item.kind].is_hung or not bodies:
            continue
        if goes_as(moves.parts.get(part.id, HUNG)) == ENGINE and moves.has_flex:
            continue
        biggest = max(bodies, key=lambda b: b.bulk)
        for share in (0.15, 0.5, 0.85):
            middle = biggest.start + share * biggest.length_mm * biggest.flow
            top = middle + np.array([0.0, 0.0, float(biggest.corners[:, 2].max() - middle[2])])
            x, y, z = (Length(round(float(c), 3)) for c in part_axes(at).T @ (top - at.point))
            yield top, Hanger(id="x", part=part.id, at=(x, y, z))
    for run in system.runs:
        for piece in run.pieces:
            mover = goes_as(moves.pieces.get((run.run.id, piece.index), HUNG))
            if isinstance(piece.piece, InLine) or (mover == ENGINE and moves.has_flex) or piece.length_mm < 30.0:
                continue
            count = max(1, int(piece.length_mm // STEP_MM))
            for n in range(count):
                share = (n + 0.5) / count
                along = Length(round(share * piece.length_mm, 1))
                yield along_piece(piece, share)[0], Hanger(id="x", run=run.run.id, piece=piece.piece.id, along_mm=along)
