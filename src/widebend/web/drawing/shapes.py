"""Outlines of things seen from below, from the left and in a slice: points in mm, shape (n, 2)."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely

from ...core.mesh import shadow, thinned_by_name
from ...core.obstacles import Obstacle, PlacedMesh
from ...core.solids import BOX, CYLINDER, HALFSPACE, PRISM, signed_distance

Outline = np.ndarray
_ROUND = np.radians(np.arange(0, 360, 15))


def silhouettes(obstacle: Obstacle, axes: tuple[int, int]) -> list[Outline]:
    """The outlines of a thing projected on two axes, the outer ones and those of openings; none for a half-space."""
    if obstacle.mesh is not None:
        mesh, turn, shift = obstacle.mesh.mesh, obstacle.mesh.turn, obstacle.mesh.shift
        return shadow(thinned_by_name(mesh.sha256) @ turn.T + shift, axes)
    return joined([silhouette(row, axes) for row in obstacle.solids])


def joined(outlines: list[Outline]) -> list[Outline]:
    """Outlines that touch or overlap as one: outer rings first, then openings."""
    flat = [o for o in outlines if len(o) >= 3]
    if len(flat) < 2:
        return flat
    whole = shapely.union_all(shapely.buffer([shapely.Polygon(o) for o in flat], 0.05, join_style="mitre"))
    polygons = list(getattr(whole, "geoms", [whole]))
    rings = [p.exterior for p in polygons] + [ring for p in polygons for ring in p.interiors]
    return [np.asarray(ring.coords) for ring in rings]


def silhouette(row: np.ndarray, axes: tuple[int, int]) -> Outline:
    """The outline of a bounded solid projected on two axes (0 = X, 1 = Y, 2 = Z). A half-space has none: (0, 2)."""
    kind = int(row[0])
    if kind == HALFSPACE:
        return np.zeros((0, 2))
    if kind == BOX:
        signs = np.array([[i, j, k] for i in (-1, 1) for j in (-1, 1) for k in (-1, 1)])
        points = row[1:4] + (signs * row[4:7]) @ row[7:16].reshape(3, 3)
    elif kind == PRISM:
        flat = row[16 : 16 + 2 * int(row[5])].reshape(-1, 2)
        corners = [np.column_stack([flat, np.full(len(flat), end)]) for end in (-row[4], row[4])]
        points = row[1:4] + np.concatenate(corners) @ row[7:16].reshape(3, 3)
    else:
        points = _round_points(row, flat=kind == CYLINDER)
    return hull(points[:, axes])


def _round_points(row: np.ndarray, *, flat: bool) -> np.ndarray:
    a, b, r = row[1:4], row[4:7], row[7]
    if not flat:
        # a ball's outline is the same circle on any axis: three circles hold every projection's extreme points
        c, s, z = np.cos(_ROUND), np.sin(_ROUND), np.zeros_like(_ROUND)
        ring = np.concatenate([np.column_stack(p) for p in ((c, s, z), (c, z, s), (z, c, s))])
        return np.concatenate([a + r * ring, b + r * ring])
    axis = (b - a) / np.linalg.norm(b - a)
    u = np.cross(axis, [0.0, 0.0, 1.0] if abs(axis[2]) < 0.9 else [1.0, 0.0, 0.0])
    u /= np.linalg.norm(u)
    v = np.cross(axis, u)
    ring = r * (np.cos(_ROUND)[:, None] * u + np.sin(_ROUND)[:, None] * v)
    return np.concatenate([a + ring, b + ring])


def hull(points: np.ndarray) -> Outline:
    """Convex hull of points (n, 2), anticlockwise (Andrew's monotone chain)."""
    ordered = sorted({(round(float(x), 4), round(float(y), 4)) for x, y in points})
    if len(ordered) < 3:
        return np.array(ordered).reshape(-1, 2)

    def half(path: list[tuple[float, float]]) -> list[tuple[float, float]]:
        out: list[tuple[float, float]] = []
        for p in path:
            while len(out) >= 2 and _cross(out[-2], out[-1], p) <= 0:
                out.pop()
            out.append(p)
        return out[:-1]

    return np.array(half(ordered) + half(ordered[::-1]))


def _cross(o: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    return (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0])


def sections(obstacle: Obstacle, station: float, reach: float, middle: tuple[float, float]) -> list[Outline]:
    """The outlines (Y, Z) of a thing in the plane X = station, as `section`; of a mesh, its cut edges."""
    if obstacle.mesh is not None:
        return _mesh_cut(obstacle.mesh, station, reach, middle)
    return joined([section(row, station, reach, middle) for row in obstacle.solids])


def _mesh_cut(placed: PlacedMesh, station: float, reach: float, middle: tuple[float, float]) -> list[Outline]:
    corners = placed.mesh.rows[:, 1:].reshape(-1, 3, 3) @ placed.turn.T + placed.shift
    crossed = corners[(corners[:, :, 0].min(axis=1) < station) & (corners[:, :, 0].max(axis=1) >= station)]
    edges = []
    for triangle in crossed:
        ends = []
        for k in range(3):
            a, b = triangle[k], triangle[(k + 1) % 3]
            if (a[0] < station) != (b[0] < station):
                ends.append((a + (b - a) * (station - a[0]) / (b[0] - a[0]))[1:])
        if len(ends) == 2 and np.abs(np.array(ends) - middle).max() < reach:
            edges.append(shapely.LineString(ends))
    if not edges:
        return []
    merged = shapely.line_merge(shapely.union_all(edges, grid_size=0.01))
    lines = [g for g in getattr(merged, "geoms", [merged]) if not g.is_empty]
    return [np.asarray(line.simplify(0.3).coords) for line in lines]


def section(row: np.ndarray, station: float, reach: float, middle: tuple[float, float]) -> Outline:
    """The outline (Y, Z) of a solid in the plane X = station, within `reach` mm of `middle`; empty where it misses.

    Every solid is convex: from one point inside, its edge is found along rays by bisection.
    """
    grad = np.empty(3)

    def depth(y: float, z: float) -> float:
        return float(signed_distance(row, station, y, z, grad))

    y, z = _deepest(middle, depth, grad)
    if depth(y, z) >= 0:
        return np.zeros((0, 2))
    points = _edge_from((y, z), depth, reach)
    # from one place rays miss the far corners of a long thin section: look again from near each end
    for far in (min(points), max(points)):
        points += _edge_from((y + 0.96 * (far[0] - y), z + 0.96 * (far[1] - z)), depth, reach)
    return hull(np.array(points))


def _edge_from(
    inside: tuple[float, float], depth: Callable[[float, float], float], reach: float
) -> list[tuple[float, float]]:
    """Points on the edge of a convex section, along rays from a place inside it."""
    (y, z), out = inside, []
    for angle in np.linspace(0, 2 * math.pi, 49)[:-1]:
        low, high, c, s = 0.0, reach, math.cos(angle), math.sin(angle)
        if depth(y + high * c, z + high * s) > 0:
            for _ in range(13):
                mid = (low + high) / 2
                if depth(y + mid * c, z + mid * s) < 0:
                    low = mid
                else:
                    high = mid
        out.append((y + high * c, z + high * s))
    return out


def _deepest(
    middle: tuple[float, float], depth: Callable[[float, float], float], grad: np.ndarray
) -> tuple[float, float]:
    """A point of the plane well inside the solid: a few steps down the signed distance."""
    y, z = middle
    step = 200.0
    best = (depth(y, z), y, z)
    for _ in range(60):
        value = depth(y, z)
        if value < best[0]:
            best = (value, y, z)
        slope = math.hypot(grad[1], grad[2])
        if slope < 1e-9:
            break
        y, z = y - step * grad[1] / slope, z - step * grad[2] / slope
        step = max(step * 0.85, 0.5)
    return best[1], best[2]
