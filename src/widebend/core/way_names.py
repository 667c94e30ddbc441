"""How a way goes, in words: which side of each thing it passes; and that side shut, so that another is looked for."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from .errors import EditError
from .frame import Vector
from .obstacles import Obstacle
from .proposals import Side
from .records import Box, HalfSpace, Thing
from .route import LaidPiece, spaced
from .shifting import bounds
from .solids import WIDTH, solid_rows
from .units import Length

NEAR_MM = 260.0  # a thing further off than this does not name a way
MOST_NAMED = 3
FAR_MM = 1500.0  # a side is shut so far out
OVER, UNDER, LEFT, RIGHT, THROUGH = "over", "under", "left of", "right of", "through"
SIDES = (OVER, UNDER, LEFT, RIGHT, THROUGH)


def sides_of(laid: Sequence[LaidPiece], around: Sequence[Obstacle]) -> tuple[Side, ...]:
    """On which side a way passes the biggest things that it comes near, biggest first."""
    points = np.concatenate([spaced(p, 15.0) for p in laid]) if laid else np.zeros((0, 3))
    said = [found for thing in _things(around) if (found := _past(points, thing))]
    said.sort(key=lambda found: -found[0])
    return tuple(side for _, side in said[:MOST_NAMED])


def how_it_goes(sides: Sequence[Side]) -> str:
    """The same in words, empty for a way past nothing."""
    return ", ".join(side.words for side in sides)


def _things(around: Sequence[Obstacle]) -> Iterator[Thing]:
    yield from {o.thing.id: o.thing for o in reversed(around)}.values()


def _past(points: Vector, thing: Thing) -> tuple[float, Side] | None:
    """How big a thing is that a way passes, and on which side of it."""
    box = bounds(thing.shape) if not isinstance(thing.shape, HalfSpace) else None
    if box is None or not len(points):
        return None
    low, high = box
    beside = points[(points[:, 0] > low[0]) & (points[:, 0] < high[0])]
    if not len(beside):
        return None
    middle = beside[len(beside) // 2]
    off = np.maximum(np.maximum(low - middle, middle - high), 0.0)
    if np.linalg.norm(off) > NEAR_MM:
        return None
    size = float(np.prod(np.maximum(high - low, 1.0)))
    if off[1] == off[2] == 0.0:
        side = THROUGH
    elif off[1] >= off[2]:
        side = LEFT if middle[1] < low[1] else RIGHT
    else:
        side = UNDER if middle[2] < low[2] else OVER
    return size, Side(side, thing.id, thing.name)


def shut(avoid: Sequence[str], around: Sequence[Obstacle]) -> Vector:
    """Solids (n, WIDTH) that shut the sides named as "over:thing-id". Raises EditError for a thing not there."""
    rows = []
    for named in avoid:
        side, _, thing_id = named.partition(":")
        thing = next((t for t in _things(around) if t.id == thing_id), None)
        box = bounds(thing.shape) if thing else None
        if thing is None or box is None or side not in SIDES:
            raise EditError(f"“{named}” names no side of a thing in this survey: one of {', '.join(SIDES)}")
        rows.append(_shut(side, box))
    return np.concatenate(rows) if rows else np.zeros((0, WIDTH))


def _shut(side: str, box: tuple[Vector, Vector]) -> Vector:
    low, high = box[0].copy(), box[1].copy()
    axis = 1 if side in (LEFT, RIGHT) else 2
    if side != THROUGH:
        across = 3 - axis
        low[across], high[across] = low[across] - NEAR_MM, high[across] + NEAR_MM
        if side in (LEFT, UNDER):
            low[axis], high[axis] = low[axis] - FAR_MM, low[axis]
        else:
            low[axis], high[axis] = high[axis], high[axis] + FAR_MM
    return solid_rows(Box(center=_three(*(low + high) / 2), size=_three(*np.maximum(high - low, 1.0))))


def _three(x: float, y: float, z: float) -> tuple[Length, Length, Length]:
    return Length(float(x)), Length(float(y)), Length(float(z))
