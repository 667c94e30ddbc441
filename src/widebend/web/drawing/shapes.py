"""Outlines of things seen from below, from the left and in a slice: points in mm, shape (n, 2)."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from ...core.geometry import (
    CYLINDER,
    HALFSPACE,
    LEAF,
    WIDTH,
    bar_of,
    edge_round,
    end_faces,
    is_flat_sided,
    shadow,
    signed_distance,
    thinned_mesh,
)
from ...core.laying import Obstacle, PartBody, PlacedMesh
from ...core.space import TriangleMesh

Outline = np.ndarray
_ROUND = np.radians(np.arange(0, 360, 15))


@dataclass(frozen=True)
class Silhouette:
    """A thing's outlines on two axes, outer ones first, then openings, and the box (low, high) around the first."""

    outlines: tuple[Outline, ...]
    low: tuple[float, float] = (0.0, 0.0)
    high: tuple[float, float] = (0.0, 0.0)

    @classmethod
    def of(cls, outlines: Iterable[Outline]) -> Silhouette:
        found = tuple(outlines)
        if not found:
            return cls(())
        (x0, y0), (x1, y1) = found[0].min(axis=0).tolist(), found[0].max(axis=0).tolist()
        return cls(found, (x0, y0), (x1, y1))


def silhouette_of(obstacle: Obstacle, axes: tuple[int, int]) -> Silhouette:
    """A thing projected on two axes; without outlines for a half-space."""
    if obstacle.mesh is not None:
        placed = obstacle.mesh
        return _mesh_outlines(placed.mesh, placed.turn.tobytes(), placed.shift.tobytes(), axes)
    return _solid_outlines(obstacle.solids.tobytes(), axes)


# things seldom change while a pipe is drawn among them: their outlines are kept by content
@lru_cache(maxsize=64)
def _mesh_outlines(mesh: TriangleMesh, turn: bytes, shift: bytes, axes: tuple[int, int]) -> Silhouette:
    corners = thinned_mesh(mesh) @ np.frombuffer(turn).reshape(3, 3).T + np.frombuffer(shift)
    return Silhouette.of(shadow(corners, axes))


@lru_cache(maxsize=4096)
def _solid_outlines(solids: bytes, axes: tuple[int, int]) -> Silhouette:
    return Silhouette.of(joined([silhouette(row, axes) for row in np.frombuffer(solids).reshape(-1, WIDTH)]))


def body_outline(body: PartBody, axes: tuple[int, int]) -> Silhouette:
    """A part's body projected on two axes; without outlines where it is seen as a line."""
    return _body_outline(body.corners.tobytes(), axes)


@lru_cache(maxsize=4096)
def _body_outline(corners: bytes, axes: tuple[int, int]) -> Silhouette:
    outline = hull(np.frombuffer(corners).reshape(-1, 3)[:, axes])
    return Silhouette.of([outline] if len(outline) >= 3 else [])


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
    points = np.concatenate(end_faces(row)) if is_flat_sided(row) else _round_points(row, flat=kind == CYLINDER)
    return hull(points[:, axes])


def _round_points(row: np.ndarray, *, flat: bool) -> np.ndarray:
    a, b, r = bar_of(row)
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
    """Convex hull of points (n, 2), in order round it; points in a line have none: (0, 2)."""
    around = shapely.convex_hull(shapely.multipoints(np.round(points, 4)))
    if around.geom_type != "Polygon":
        return np.zeros((0, 2))
    return np.asarray(around.exterior.coords[:-1])


def sections(obstacle: Obstacle, station: float, reach: float, middle: tuple[float, float]) -> list[Outline]:
    """The outlines (Y, Z) of a thing in the plane X = station: of a solid whole, of a half-space or a mesh's cut edges
    within `reach` mm of `middle`.
    """
    if obstacle.mesh is not None:
        return _mesh_cut(obstacle.mesh, station, reach, middle)
    if len(obstacle.solids) and int(obstacle.solids[0, 0]) == HALFSPACE:
        cut = _half_space_cut(obstacle.solids[0], station, reach, np.array(middle))
        return [cut] if len(cut) else []
    return _solid_cut(obstacle.solids.tobytes(), station)


@lru_cache(maxsize=4096)
def _solid_cut(solids: bytes, station: float) -> list[Outline]:
    rows = np.frombuffer(solids).reshape(-1, WIDTH)
    return joined([section(row, station) for row in rows if _straddles(row, station)])


def _straddles(row: np.ndarray, station: float) -> bool:
    seen = _solid_outlines(row.tobytes(), (0, 1))
    return bool(seen.outlines) and seen.low[0] <= station <= seen.high[0]


def _half_space_cut(row: np.ndarray, station: float, reach: float, middle: np.ndarray) -> Outline:
    """Return the part of a square round `middle` that lies in a half-space."""
    square = middle + reach * np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
    off = station * row[1] + square @ row[2:4] - row[4]
    after, off_after = np.roll(square, -1, axis=0), np.roll(off, -1)
    crossed = (off < 0) != (off_after < 0)
    share = (off / np.where(crossed, off - off_after, 1.0))[:, None]
    return hull(np.concatenate([square[off < 0], (square + (after - square) * share)[crossed]]))


def _mesh_cut(placed: PlacedMesh, station: float, reach: float, middle: tuple[float, float]) -> list[Outline]:
    corners = _near_plane(placed, station)
    off = corners @ placed.turn[0] + (placed.shift[0] - station)
    crossed = (off.min(axis=1) < 0) & (off.max(axis=1) >= 0)
    off, triangles = off[crossed], corners[crossed] @ placed.turn.T + placed.shift
    after, off_after = np.roll(triangles, -1, axis=1), np.roll(off, -1, axis=1)
    meets = (off < 0) != (off_after < 0)
    share = np.where(meets, off / np.where(meets, off - off_after, 1.0), 0.0)[:, :, None]
    ends = (triangles + (after - triangles) * share)[meets].reshape(-1, 2, 3)[:, :, 1:]
    near = np.abs(ends - middle).max(axis=(1, 2)) < reach if len(ends) else np.zeros(0, dtype=bool)
    if not near.any():
        return []
    merged = shapely.line_merge(shapely.multilinestrings(shapely.linestrings(np.round(ends[near], 2))))
    lines = [g for g in getattr(merged, "geoms", [merged]) if not g.is_empty]
    return [np.asarray(line.simplify(0.3).coords) for line in lines]


def _near_plane(placed: PlacedMesh, station: float) -> np.ndarray:
    """The triangles (n, 3, 3) of a mesh, in its own frame, whose leaf of the tree the plane passes."""
    mesh = placed.mesh
    first = mesh.leaves - 1
    used = math.ceil(len(mesh.rows) / LEAF)
    low, high = mesh.low[first : first + used], mesh.high[first : first + used]
    middle = (low + high) / 2 @ placed.turn[0] + placed.shift[0] - station
    passed = np.abs(middle) <= (high - low) / 2 @ np.abs(placed.turn[0]) + 1e-6
    index = (np.flatnonzero(passed)[:, None] * LEAF + np.arange(LEAF)).ravel()
    return np.asarray(mesh.rows[index[index < len(mesh.rows)], 1:].reshape(-1, 3, 3))


def section(row: np.ndarray, station: float) -> Outline:
    """The outline (Y, Z) of a bounded solid in the plane X = station; empty where it misses.

    A box or prism by where the plane crosses its edges. A bar or ball is convex too: from one point inside, its edge is
    found along rays by bisection.
    """
    if is_flat_sided(row):
        return _crossed_edges(row, station)
    a, b, radius = bar_of(row)
    inside = _deepest(row, station, a, b, radius)
    if inside is None:
        return np.zeros((0, 2))
    reach = float(np.linalg.norm(b - a)) + 2 * radius
    points = edge_round(row, station, inside, reach)
    # from one place rays miss the far corners of a long thin section: look again from near each end
    order = np.argsort(points[:, 0])
    for far in (points[order[0]], points[order[-1]]):
        near_end = inside + 0.96 * (far - inside)
        points = np.concatenate([points, edge_round(row, station, near_end, reach)])
    return hull(points)


def _crossed_edges(row: np.ndarray, station: float) -> Outline:
    low, high = end_faces(row)
    starts = np.concatenate([low, high, low])
    ends = np.concatenate([np.roll(low, -1, axis=0), np.roll(high, -1, axis=0), high])
    off, after = starts[:, 0] - station, ends[:, 0] - station
    crossed = (off < 0) != (after < 0)
    if not crossed.any():
        return np.zeros((0, 2))
    share = (off / np.where(crossed, off - after, 1.0))[:, None]
    return hull((starts + (ends - starts) * share)[crossed][:, 1:])


def _deepest(row: np.ndarray, station: float, a: np.ndarray, b: np.ndarray, radius: float) -> np.ndarray | None:
    """A point (2,) of the plane well inside a bar from a to b, by a few steps down the signed distance from where its
    axis passes; None when it misses.
    """
    along = b[0] - a[0]
    share = 0.5 if abs(along) < 1e-9 else min(max((station - a[0]) / along, 0.0), 1.0)
    grad = np.empty(3)
    y, z = (a + share * (b - a))[1:]
    step = float(radius)
    best = (0.0, y, z)
    for _ in range(40):
        value = float(signed_distance(row, station, y, z, grad))
        if value < best[0]:
            best = (value, y, z)
        slope = math.hypot(grad[1], grad[2])
        if slope < 1e-9:
            break
        y, z = y - step * grad[1] / slope, z - step * grad[2] / slope
        step = max(step * 0.85, 0.1)
    return np.array(best[1:]) if best[0] < 0 else None
