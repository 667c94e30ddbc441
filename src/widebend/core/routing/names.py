"""How a way goes, in words: through which windows, on which side of each thing; and that shut, to look for another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
from shapely import Point, Polygon

from ..errors import EditError
from ..geometry import WIDTH, solid_rows
from ..laying import LaidPiece, Obstacle, spaced, window_corners
from ..records import Box, HalfSpace, Thing, Window
from ..space import Vector, pose, unit
from ..survey import bounds
from ..units import Length
from .proposals import Side

NEAR_MM = 260.0  # a thing further off than this does not name a way
CLOSE_MM = 50.0  # nearer than about this it makes no difference how near
MOST_NAMED = 3
FAR_MM = 1500.0  # a side is shut so far out
PLUG_MM = 20.0  # a window is shut at least so thick
OVER, UNDER, LEFT, RIGHT, THROUGH = "over", "under", "left of", "right of", "through"
SIDES = (OVER, UNDER, LEFT, RIGHT, THROUGH)


def sides_of(laid: Sequence[LaidPiece], around: Sequence[Obstacle], windows: Sequence[Window]) -> tuple[Side, ...]:
    """The windows that a way comes through, then on which side it passes what stands widest where it goes by."""
    points = np.concatenate([spaced(p, 15.0) for p in laid]) if laid else np.zeros((0, 3))
    passed = [w for w in windows if _comes_through(points, w)]
    opened = {w.through for w in passed}
    said = [found for thing in _things(around) if (found := _past(points, thing))]
    said = [found for found in said if found[1].thing not in opened]  # it goes through that, not past it
    said.sort(key=lambda found: -found[0])
    return (*(Side(THROUGH, w.id, w.name) for w in passed), *(side for _, side in said))[:MOST_NAMED]


def how_it_goes(sides: Sequence[Side]) -> str:
    """The same in words, empty for a way past nothing."""
    return ", ".join(side.words for side in sides)


def _things(around: Sequence[Obstacle]) -> Iterator[Thing]:
    yield from {o.thing.id: o.thing for o in reversed(around)}.values()


def _comes_through(points: Vector, window: Window) -> bool:
    """Whether a line crosses a window's middle plane inside its outline."""
    at = pose(window.center, window.axis, window.reference)
    off = points - at.point
    along, flat = off @ unit(window.axis), np.column_stack([off @ at.across, off @ at.reference])
    outline = Polygon(window.outline)
    for n in np.flatnonzero(along[:-1] * along[1:] <= 0.0):
        share = along[n] / (along[n] - along[n + 1]) if along[n] != along[n + 1] else 0.0
        if outline.contains(Point(flat[n] + share * (flat[n + 1] - flat[n]))):
            return True
    return False


def _past(points: Vector, thing: Thing) -> tuple[float, Side] | None:
    """How wide a thing stands where a way is nearest to it, and on which side of it the way is there.

    How wide: the edge of a square as big as the side that it passes, over how far off that is. Something big that is
    far off says less of how a way goes than something small that it clings to.
    """
    box = bounds(thing.shape) if not isinstance(thing.shape, HalfSpace) else None
    if box is None or not len(points):
        return None
    low, high = box
    beside = points[(points[:, 0] > low[0]) & (points[:, 0] < high[0])]
    if not len(beside):
        return None
    off = np.maximum(np.maximum(low - beside, beside - high), 0.0)
    nearest = int(np.argmin(np.linalg.norm(off, axis=1)))
    here, away = beside[nearest], off[nearest]
    if np.linalg.norm(away) > NEAR_MM:
        return None
    along, across, up = high - low
    if away[1] == away[2] == 0.0:
        side, face = THROUGH, along * max(across, up)
    elif away[1] >= away[2]:
        side, face = LEFT if here[1] < low[1] else RIGHT, along * up
    else:
        side, face = UNDER if here[2] < low[2] else OVER, along * across
    return float(np.sqrt(face) / (np.linalg.norm(away) + CLOSE_MM)), Side(side, thing.id, thing.name)


def shut(avoid: Sequence[str], around: Sequence[Obstacle], windows: Sequence[Window]) -> Vector:
    """Solids (n, WIDTH) that shut what is named as "over:thing-id" or "through:window-id". Raises EditError for what is
    not there.
    """
    rows = [np.zeros((0, WIDTH))]
    for named in avoid:
        side, _, key = named.partition(":")
        window = next((w for w in windows if side == THROUGH and w.id == key), None)
        thing = next((t for t in _things(around) if t.id == key), None)
        box = _plug(window) if window else bounds(thing.shape) if thing else None
        if box is None or side not in SIDES:
            raise EditError(f"“{named}” names no side of a thing and no window in this survey: {', '.join(SIDES)}")
        rows.append(_shut(side, box))
    return np.concatenate(rows)


def _plug(window: Window) -> tuple[Vector, Vector]:
    """The box that a window's opening fills."""
    corners = window_corners(window)
    half = np.abs(unit(window.axis)) * max(float(window.thickness_mm), PLUG_MM) / 2
    return corners.min(axis=0) - half, corners.max(axis=0) + half


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
