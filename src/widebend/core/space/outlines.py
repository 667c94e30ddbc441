"""Flat outlines: splitting one into convex parts, and the biggest round tube that passes an opening."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import lru_cache
from itertools import pairwise
from math import dist

import numpy as np
import shapely
from shapely import Polygon

from .frame import Vector

MOST_CORNERS = 16  # of one convex part; a rounder one is cut in two
STRAIGHT_MM2 = 1e-6  # three corners whose triangle is smaller than this lie in a line

STRAIGHT = 1e-9  # sine of an angle that is no angle

Corner = tuple[float, float]
Ring = tuple[Corner, ...]


def convex_parts(outline: Iterable[Sequence[float]], holes: Iterable[Iterable[Sequence[float]]] = ()) -> list[Vector]:
    """An outline less its holes as convex parts (n, 2), corners anticlockwise; together they are exactly it."""
    ring = tuple((float(x), float(y)) for x, y in outline)
    inside = tuple(tuple((float(x), float(y)) for x, y in hole) for hole in holes)
    return [np.array(part) for part in _parts(ring, inside)]


@lru_cache(maxsize=256)
def _parts(outline: Ring, holes: tuple[Ring, ...]) -> tuple[Ring, ...]:
    whole = shapely.orient_polygons(Polygon(outline, holes))
    if not holes and _is_convex(whole):
        return tuple(_halved(_corners(whole)))
    triangles = shapely.constrained_delaunay_triangles(whole)
    parts = [shapely.orient_polygons(t) for t in triangles.geoms if t.area > STRAIGHT_MM2]
    return tuple(half for part in _joined(parts) for half in _halved(_corners(part)))


def _is_convex(polygon: Polygon) -> bool:
    return bool(abs(polygon.convex_hull.area - polygon.area) < 1e-9 * max(polygon.area, 1.0))


def _joined(parts: list[Polygon]) -> list[Polygon]:
    """Neighbours put together over their shared edge, the longest first, while the union stays convex: fewer parts,
    and deeper insides (Hertel and Mehlhorn). Each edge is looked at once.
    """
    rings = [[(float(x), float(y)) for x, y in part.exterior.coords[:-1]] for part in parts]
    into = list(range(len(rings)))  # where a part has gone

    def now(k: int) -> int:
        while into[k] != k:
            k = into[k]
        return k

    of = {edge: k for k, ring in enumerate(rings) for edge in pairwise([*ring, ring[0]])}
    shared = [(a, b) for a, b in of if a < b and (b, a) in of]
    for a, b in sorted(shared, key=lambda e: -dist(*e)):
        one, other = now(of[a, b]), now(of[b, a])
        both = _turned(rings[one], b) + _turned(rings[other], a)[1:-1]
        if one != other and _turns_left(both):
            rings[one], into[other] = both, one
    return [shapely.orient_polygons(Polygon(rings[k])) for k in range(len(rings)) if into[k] == k]


def _turned(ring: list[Corner], first: Corner) -> list[Corner]:
    """A ring written from another of its corners."""
    at = ring.index(first)
    return ring[at:] + ring[:at]


def _turns_left(ring: list[Corner]) -> bool:
    """Whether an anticlockwise ring is convex; straight on counts as that."""
    for k, (x, y) in enumerate(ring):
        (x0, y0), (x1, y1) = ring[k - 1], ring[(k + 1) % len(ring)]
        cross = (x - x0) * (y1 - y) - (y - y0) * (x1 - x)
        if cross < -STRAIGHT * dist((x0, y0), (x, y)) * dist((x, y), (x1, y1)):
            return False
    return True


def _corners(polygon: Polygon) -> Ring:
    """The outline's corners, anticlockwise, without those that lie on a straight."""
    ring = [(float(x), float(y)) for x, y in polygon.exterior.coords[:-1]]
    kept = []
    for k, (x, y) in enumerate(ring):
        (x0, y0), (x1, y1) = ring[k - 1], ring[(k + 1) % len(ring)]
        if abs((x - x0) * (y1 - y0) - (y - y0) * (x1 - x0)) > STRAIGHT_MM2:
            kept.append((x, y))
    return tuple(kept)


def _halved(ring: Ring) -> list[Ring]:
    if len(ring) <= MOST_CORNERS:
        return [ring]
    middle = len(ring) // 2
    return _halved(ring[: middle + 1]) + _halved((*ring[middle:], ring[0]))


def biggest_round(outline: Iterable[Sequence[float]], gap_mm: float) -> tuple[float, tuple[float, float]]:
    """OD [mm] of the biggest round tube that passes straight through an opening with `gap_mm` all round, and where.

    The largest circle inside the outline, less the gap on both sides; 0 when nothing passes.
    """
    line = shapely.maximum_inscribed_circle(Polygon(outline), tolerance=0.05)
    (x, y), _ = line.coords
    return max(0.0, 2 * float(line.length) - 2 * gap_mm), (float(x), float(y))


def rectangle(width_mm: float, height_mm: float) -> Ring:
    """Corners of a rectangle about its middle."""
    w, h = width_mm / 2, height_mm / 2
    return ((-w, -h), (w, -h), (w, h), (-w, h))


def oval(width_mm: float, height_mm: float, corners: int = 32) -> Ring:
    """An ellipse about its middle as a polygon, its corners on the ellipse."""
    t = np.linspace(0, 2 * np.pi, corners, endpoint=False)
    return tuple((float(width_mm / 2 * np.cos(a)), float(height_mm / 2 * np.sin(a))) for a in t)
