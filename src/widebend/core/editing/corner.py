"""Dragging a corner of a run: its two straights and the bends round it answer, every other corner stays.

A run is a line through corners: where a bend's two tangents meet, or a mitre. Between two corners stand straights and
hardware that goes straight through. The first corner slides along the start's axis, the last along the end's.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import EditError
from ..laying import LaidPiece, LaidRun, angle_between, lay_pieces, lay_run
from ..records import Bend, Design, InLine, Mitre, Piece, Run, Straight
from ..space import Pose, Vector, unit, wrapped
from ..units import Length, format_length
from .attached import carried_on
from .edits import new_piece_id, with_pieces

MOST_DEG = 150.0  # beyond it a bend's tangents meet too far off to be dragged by
LEAST_DEG = 0.05
SAME_DEG = 1e-5


@dataclass(frozen=True)
class Corner:
    """A corner of a laid run: the index of its bend or mitre, and where it is (3,)."""

    piece: int
    point: Vector


def corners(run: LaidRun) -> list[Corner]:
    """Every corner that can be dragged, along the run."""
    return [Corner(p.index, _corner(p)) for p in run.pieces if _can_be_dragged(p.piece)]


def _can_be_dragged(piece: Piece) -> bool:
    return isinstance(piece, Mitre) or (isinstance(piece, Bend) and piece.angle_deg <= MOST_DEG)


def _corner(piece: LaidPiece) -> Vector:
    return np.asarray(piece.inlet.point + piece.inlet.flow * _tangent(piece.piece))


def _tangent(piece: Piece) -> float:
    return float(piece.clr_mm) * math.tan(math.radians(piece.angle_deg) / 2) if isinstance(piece, Bend) else 0.0


def drag_corner(design: Design, run_id: str, piece_id: str, by: Sequence[float] | Vector) -> Design:
    """The design with a corner moved by (3,) [mm]. Raises EditError saying what is in the way."""
    run = design.run(run_id)
    laid = lay_run(design, run) if run else None
    if run is None or laid is None:
        raise EditError("there is no such run in this design, or it has no start")
    turns = [p for p in laid.pieces if not isinstance(p.piece, Straight) and not _goes_straight(p)]
    at = next((i for i, p in enumerate(turns) if p.piece.id == piece_id), None)
    if at is None:
        raise EditError("that piece has no corner to drag: choose a bend")
    first, last = max(0, at - 1), min(len(turns) - 1, at + 1)
    near = turns[first : last + 1]
    for piece in near:
        if not _can_be_dragged(piece.piece):
            raise EditError(f"piece {piece.index + 1} has no corner to answer with: drag another, or type its values")
        if piece.piece.locked:
            raise EditError(f"piece {piece.index + 1} is locked: unlock it to drag this corner")
    head = turns[first - 1] if first else None
    tail = turns[last + 1] if last + 1 < len(turns) else None
    points = [_corner(p) for p in near]
    points[at - first] = points[at - first] + _allowed(laid, turns, at, np.asarray(by, dtype=float))
    return with_pieces(design, run, _rebuilt(design, run, laid, _Span(head, near, tail, points)))


@dataclass(frozen=True)
class _Span:
    """The corners that answer a drag: up to three corners at their new places, between two turns (or run ends) that
    stay.
    """

    head: LaidPiece | None
    near: Sequence[LaidPiece]
    tail: LaidPiece | None
    points: Sequence[Vector]


def _goes_straight(piece: LaidPiece) -> bool:
    """Hardware that the line goes straight through."""
    if not isinstance(piece.piece, InLine):
        return False
    off = piece.outlet.point - piece.inlet.point
    along = float(off @ piece.inlet.flow)
    return bool(
        np.linalg.norm(off - along * piece.inlet.flow) < 1e-6 and piece.inlet.flow @ piece.outlet.flow > 1 - 1e-9
    )


def _allowed(laid: LaidRun, turns: Sequence[LaidPiece], at: int, by: Vector) -> Vector:
    """The first corner goes along the start's axis, the last along the end's; a single one has nowhere to go."""
    first, last = at == 0, at == len(turns) - 1
    if first and last:
        raise EditError("a run with one bend has no corner that can be dragged: both ends hold it")
    axis = laid.start.flow if first else laid.end.flow if last else None
    return by if axis is None else np.asarray(axis * float(by @ axis))


def _rebuilt(design: Design, run: Run, laid: LaidRun, span: _Span) -> list[Piece]:
    """The run's pieces through the moved corner; what follows keeps its place, its rolls counted from the new line."""
    begin = span.head.index + 1 if span.head else 0
    end = span.tail.index if span.tail else len(laid.pieces)
    start = span.head.outlet if span.head else laid.start
    old_end = span.tail.inlet if span.tail else laid.end
    line = [start.point, *span.points, old_end.point]
    ways = [unit(b - a) if np.linalg.norm(b - a) > 1e-6 else start.flow for a, b in itertools.pairwise(line)]
    if not span.tail:
        ways[-1] = laid.end.flow
    if not span.head:
        ways[0] = laid.start.flow
    turned = [_turned(p, ways[i], ways[i + 1]) for i, p in enumerate(span.near)]
    bounds = [begin - 1, *(p.index for p in span.near), end]
    pieces: list[Piece] = []
    for i in range(len(span.near) + 1):
        between = laid.pieces[bounds[i] + 1 : bounds[i + 1]]
        beside = [t for t in (turned[i - 1] if i else None, turned[i] if i < len(turned) else None) if t]
        wanted = float((line[i + 1] - line[i]) @ ways[i]) - sum(_tangent(t) for t in beside)
        pieces += _stretch(run, between, wanted, i, begin + len(pieces))
        pieces += turned[i : i + 1]
    rolled = _rolled(design, run, start, pieces, ways[1:])
    reached = lay_pieces(start, rolled, design, run.tube)[-1].outlet
    after = carried_on([p.piece for p in laid.pieces[end:]], reached.roll_of(old_end.reference))
    return [*(p.piece for p in laid.pieces[:begin]), *rolled, *after]


def _turned(piece: LaidPiece, before: Vector, after: Vector) -> Bend | Mitre:
    p = piece.piece
    assert isinstance(p, Bend | Mitre)  # drag_corner saw to it
    angle = angle_between(before, after)
    if not LEAST_DEG < angle <= MOST_DEG:
        raise EditError(f"piece {piece.index + 1} would turn {angle:.1f}°: from 0 to {MOST_DEG:.0f}° can be had")
    return p.replace(**{"turn_deg" if isinstance(p, Mitre) else "angle_deg": angle})


def _stretch(run: Run, between: Sequence[LaidPiece], wanted: float, number: int, at: int) -> list[Piece]:
    """The straights between two corners made to reach: the first that is free gives or takes."""
    now = sum(p.length_mm for p in between)
    pieces = [p.piece for p in between]
    change = wanted - now
    if abs(change) < 1e-7:
        return pieces
    for i, piece in enumerate(pieces):
        if isinstance(piece, Straight) and not piece.locked and piece.length_mm + change >= -1e-9:
            pieces[i] = piece.replace(length_mm=Length(max(0.0, piece.length_mm + change)))
            return pieces
    if change > 0 and not any(isinstance(p, Straight) for p in pieces):
        return [Straight(id=f"{new_piece_id(run)}-{number}", length_mm=Length(change)), *pieces]
    raise EditError(
        f"there would be {format_length(-change)} too little straight before piece {at + len(pieces) + 1}: "
        "drag less far, or use a tighter radius"
    )


def _rolled(design: Design, run: Run, start: Pose, pieces: list[Piece], ways: Sequence[Vector]) -> list[Piece]:
    """Each bend rolled toward the way the line goes on."""
    out: list[Piece] = []
    here, k = start, 0
    for piece in pieces:
        if isinstance(piece, Bend | Mitre):
            roll = wrapped(here.roll_of(ways[k]))
            if abs(wrapped(roll - piece.roll_deg)) > SAME_DEG:
                piece = piece.replace(roll_deg=roll)
            k += 1
        out.append(piece)
        here = lay_pieces(here, [piece], design, run.tube)[-1].outlet
    return out
