"""The rear of the vehicle as the customer sees it: tips in their cut-outs, the gap all round, other sizes tried.

A cut-out is a window of the survey that looks along the vehicle. Lengths mm; (y, z) is (right, up) seen from behind.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from shapely import LineString, Point, Polygon, unary_union

from ..laying import PartBody, PlacedPort, System, window_corners
from ..records import Survey, Window
from ..space import Vector, unit

LOOKS_ALONG = 0.8  # a window whose way is nearer to the vehicle's length than this is seen from behind
CLOCKS = tuple(range(12))
STEP_DEG = 3.0  # between corners of what stands for a round outline


@dataclass(frozen=True)
class TipSeen:
    """A tip's outlet from behind, the cut-out it stands in, and the gap toward each of twelve clock directions [mm].

    Minus: it cuts into the edge. `round_gaps` is empty for a tip that floats free.
    """

    part: str
    name: str
    middle: Vector
    od_mm: float
    cut_out: str
    outline: Vector
    round_gaps: tuple[float, ...]
    least_mm: float | None
    beyond_mm: float = 0.0  # how far its lip and its pitch reach over the outlet's radius


@dataclass(frozen=True)
class Size:
    """Another size tried in a cut-out: the least gap with the tip where it is, and with it set in the middle."""

    od_mm: float
    least_mm: float
    centred_mm: float


def tips_seen(survey: Survey, system: System) -> list[TipSeen]:
    """Every tip outlet, left to right; in a cut-out as its plane cuts the tip, rolled lip and pitch and all."""
    cut_outs = [w for w in survey.windows if abs(float(unit(w.axis)[0])) > LOOKS_ALONG]
    outlets = [q for q in system.ports if q.part.item.kind == "tip" and q.port.role == "out"]
    seen = [_seen(q, system, cut_outs) for q in outlets]
    return sorted(seen, key=lambda t: float(t.middle[0]))


def _named(outlet: PlacedPort) -> str:
    """A tip by its name; one with two outlets, by which of them."""
    name, which = outlet.part.name or "tip", outlet.port.id.partition("-")[2]
    return f"{name}, {which}" if which else name


def _seen(outlet: PlacedPort, system: System, cut_outs: Sequence[Window]) -> TipSeen:
    part, name, od = outlet.part.id, _named(outlet), float(outlet.port.od_mm)
    for window in cut_outs:
        outline = window_corners(window)[:, 1:]
        hole, middle = Polygon(outline), _in_plane(window, outlet.pose.point, outlet.pose.flow)
        if middle is None or not hole.contains(Point(middle)):
            continue
        own, others = _own_and_others(window, system, middle, od)
        gaps = tuple(_toward(hole, own, others, middle, clock) for clock in CLOCKS)
        return TipSeen(
            part, name, middle, od, window.name, outline, gaps, _least(hole, own, others), _beyond(own, middle, od)
        )
    return TipSeen(part, name, outlet.pose.point[1:], od, "", np.zeros((0, 2)), (), None)


def _in_plane(window: Window, point: Vector, flow: Vector) -> Vector | None:
    """Where a line through a point meets a cut-out's plane, seen from behind (2,); None where it runs beside it."""
    normal = unit(window.axis)
    along = float(normal @ flow)
    if abs(along) < LOOKS_ALONG / 2:
        return None
    far = float(normal @ (np.asarray(window.center, dtype=float) - point)) / along
    return np.asarray((point + far * flow)[1:])


def _own_and_others(window: Window, system: System, middle: Vector, od: float) -> tuple[Polygon, list[Polygon]]:
    """Return the sections of the tip at a place by a cut-out's plane, and out of all other tips. A tip that ends ahead
    of the plane, or begins behind it, is seen as its outlet.
    """
    cut = unary_union(
        [shape for body in system.bodies if body.part.item.kind == "tip" for shape in _sections(body, window)]
    )
    found = [shape for shape in getattr(cut, "geoms", [cut]) if isinstance(shape, Polygon) and not shape.is_empty]
    own = next((shape for shape in found if shape.contains(Point(middle))), None)
    return own or Point(middle).buffer(od / 2, quad_segs=24), [shape for shape in found if shape is not own]


def _sections(body: PartBody, window: Window) -> Iterator[Polygon]:
    """Return the sections of a body by a cut-out: at its middle and at both its faces."""
    normal = unit(window.axis)
    along = float(normal @ body.flow)
    if abs(along) < LOOKS_ALONG / 2:
        return
    turns = np.radians(np.arange(0.0, 360.0, STEP_DEG))[:, None]
    cos, sin = np.cos(turns), np.sin(turns)
    round_it = (np.sign(cos) * body.half_u + body.radius_mm * cos) * body.u + (
        np.sign(sin) * body.half_v + body.radius_mm * sin
    ) * body.v
    middle = np.asarray(window.center, dtype=float)
    for half in {0.0, -float(window.thickness_mm) / 2, float(window.thickness_mm) / 2}:
        edge = body.start + round_it
        far = (middle + half * normal - edge) @ normal / along
        on = (far >= -1e-6) & (far <= body.length_mm + 1e-6)
        if int(on.sum()) > len(on) // 2:
            points = edge[on] + far[on][:, None] * body.flow
            shape = Polygon(points[:, 1:])
            yield shape if shape.is_valid else shape.convex_hull


def _least(hole: Polygon, own: Polygon, others: Sequence[Polygon]) -> float:
    """The least gap of a tip to its cut-out's edge and to the other tips; minus as deep as it cuts in."""
    outside = own.difference(hole)
    if outside.is_empty:
        edge = float(hole.exterior.distance(own))
    else:
        edge = -max(float(hole.distance(Point(at))) for at in outside.convex_hull.exterior.coords)
    return min([edge, *(float(own.distance(other)) for other in others)])


def _beyond(own: Polygon, middle: Vector, od: float) -> float:
    """How far a tip reaches over its outlet's radius: its lip, and what its pitch adds [mm]."""
    return max(0.0, max(math.dist(at, middle) for at in own.exterior.coords) - od / 2)


def _toward(hole: Polygon, own: Polygon, others: Sequence[Polygon], middle: Vector, clock: int) -> float:
    """From a tip's skin to the edge of its cut-out, or to another tip, toward a clock direction [mm]; 3 o'clock is the
    right.
    """
    turn = math.radians(30.0 * clock)
    ray = LineString([middle, middle + 3000.0 * np.array([math.sin(turn), math.cos(turn)])])
    skin = max((math.dist(at, middle) for at in _met(ray, own)), default=0.0)
    to = [min((math.dist(at, middle) for at in _met(ray, shape)), default=math.inf) for shape in (hole, *others)]
    return min(to) - skin


def _met(ray: LineString, shape: Polygon) -> list[tuple[float, float]]:
    """Where a ray meets the edge of a shape."""
    met = ray.intersection(shape.exterior)
    return [(float(one.x), float(one.y)) for one in getattr(met, "geoms", [met]) if isinstance(one, Point)]


def sizes(tip: TipSeen, ods_mm: Sequence[float]) -> list[Size]:
    """Other outside diameters in the same cut-out: where the tip is now, and in the middle of its widest circle."""
    if not len(tip.outline):
        return []
    hole = Polygon(tip.outline)
    here, widest = hole.exterior.distance(Point(tip.middle)), widest_circle(tip.outline)[1]
    reach = [od / 2 + tip.beyond_mm for od in ods_mm]
    return [Size(od, float(here) - far, widest - far) for od, far in zip(ods_mm, reach, strict=True)]


def widest_circle(outline: Vector) -> tuple[Vector, float]:
    """Middle and radius of the largest circle inside an outline (n, 2), to 0.05 mm."""
    from shapely import maximum_inscribed_circle

    line = maximum_inscribed_circle(Polygon(outline), tolerance=0.05)
    (x, y), _ = line.coords
    return np.array([x, y]), float(line.length)
