"""The rear of the vehicle as the customer sees it: tips in their cut-outs, the gap all round, other sizes tried.

A cut-out is a window of the survey that looks along the vehicle. Lengths mm; (y, z) is (right, up) seen from behind.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from shapely import LineString, Point, Polygon

from ..laying import PlacedPort, System, window_corners
from ..records import Survey, Window
from ..space import Vector, unit

LOOKS_ALONG = 0.8  # a window whose way is nearer to the vehicle's length than this is seen from behind
CLOCKS = tuple(range(12))


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


@dataclass(frozen=True)
class Size:
    """Another size tried in a cut-out: the least gap with the tip where it is, and with it set in the middle."""

    od_mm: float
    least_mm: float
    centred_mm: float


def tips_seen(survey: Survey, system: System) -> list[TipSeen]:
    """Every tip outlet, left to right."""
    cut_outs = [w for w in survey.windows if abs(float(unit(w.axis)[0])) > LOOKS_ALONG]
    outlets = [q for q in system.ports if q.part.item.kind == "tip" and q.port.role == "out"]
    seen = [_seen(q.part.id, _named(q), q.pose.point[1:], float(q.port.od_mm), cut_outs) for q in outlets]
    return sorted(seen, key=lambda t: float(t.middle[0]))


def _named(outlet: PlacedPort) -> str:
    """A tip by its name; one with two outlets, by which of them."""
    name, which = outlet.part.name or "tip", outlet.port.id.partition("-")[2]
    return f"{name}, {which}" if which else name


def _seen(part: str, name: str, middle: Vector, od: float, cut_outs: Sequence[Window]) -> TipSeen:
    for window in cut_outs:
        outline = window_corners(window)[:, 1:]
        hole = Polygon(outline)
        if hole.contains(Point(middle)):
            gaps = tuple(_toward(hole, middle, clock) - od / 2 for clock in CLOCKS)
            least = float(hole.exterior.distance(Point(middle))) - od / 2
            return TipSeen(part, name, middle, od, window.name, outline, gaps, least)
    return TipSeen(part, name, middle, od, "", np.zeros((0, 2)), (), None)


def _toward(hole: Polygon, middle: Vector, clock: int) -> float:
    """From a tip's middle to the edge of its cut-out toward a clock direction [mm]; 3 o'clock is the right."""
    turn = math.radians(30.0 * clock)
    far = middle + 3000.0 * np.array([math.sin(turn), math.cos(turn)])
    met = LineString([middle, far]).intersection(hole.exterior)
    return float(Point(middle).distance(met)) if not met.is_empty else 0.0


def sizes(tip: TipSeen, ods_mm: Sequence[float]) -> list[Size]:
    """Other outside diameters in the same cut-out: where the tip is now, and in the middle of its widest circle."""
    if not len(tip.outline):
        return []
    hole = Polygon(tip.outline)
    here, widest = hole.exterior.distance(Point(tip.middle)), widest_circle(tip.outline)[1]
    return [Size(od, float(here) - od / 2, widest - od / 2) for od in ods_mm]


def widest_circle(outline: Vector) -> tuple[Vector, float]:
    """Middle and radius of the largest circle inside an outline (n, 2), to 0.05 mm."""
    from shapely import maximum_inscribed_circle

    line = maximum_inscribed_circle(Polygon(outline), tolerance=0.05)
    (x, y), _ = line.coords
    return np.array([x, y]), float(line.length)
