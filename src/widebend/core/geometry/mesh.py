"""Triangle meshes: a scan or a printed mock-up, indexed once for exact distances, named by its content's hash.

Triangles are halved across their longest side again and again, down to LEAF at a time, into a complete binary tree of
boxes: a tree without pointers, built by array operations alone.
"""

from __future__ import annotations

import hashlib
import math
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray

from ..errors import InputError
from ..space import TriangleMesh, Vector
from .solids import TRIANGLE

MOST_TRIANGLES = 500_000
FARTHEST_MM = 50_000.0  # nothing under a vehicle is farther from its axle: the file's unit is another
LEAF = 4
Array = NDArray[np.float64]


def as_kept(corners: Array) -> bytes:
    """Triangles (n, 3, 3) [mm] as the bytes they are kept in: little-endian 4-byte floats, 0.5 um at 5 m.

    Raises InputError for none, too many, or a place that is no number or out of all proportion.
    """
    if not len(corners):
        raise InputError("the mesh has no triangles")
    if len(corners) > MOST_TRIANGLES:
        raise InputError(f"the mesh has {len(corners):,} triangles; at most {MOST_TRIANGLES:,}: thin it out first")
    if not np.isfinite(corners).all():
        raise InputError("a corner of the mesh is not a number")
    if np.abs(corners).max() > FARTHEST_MM:
        raise InputError("the mesh reaches farther than 50 m: choose the unit it was made in")
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    areas = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
    kept = corners[areas > 1e-9]
    if not len(kept):
        raise InputError("every triangle of the mesh is flat to a line: it has no surface")
    return np.ascontiguousarray(kept, dtype="<f4").tobytes()


def corners_of(kept: bytes) -> Array:
    """Triangles (n, 3, 3) [mm] from the bytes they are kept in."""
    return np.frombuffer(kept, dtype="<f4").reshape(-1, 3, 3).astype(float)


def name_of(kept: bytes) -> str:
    """The hash a mesh is kept under."""
    return hashlib.sha256(kept).hexdigest()


def is_closed(corners: Array) -> bool:
    """Whether every edge of the triangles (n, 3, 3) is met once in each direction, corners within 1 um being one."""
    cells = np.round(corners.reshape(-1, 3) * 1000.0).astype(np.int64)
    order = np.lexsort(cells.T)
    is_new = np.any(np.diff(cells[order], axis=0) != 0, axis=1)
    which = np.empty(len(cells), dtype=np.int64)
    which[order] = np.concatenate([[0], np.cumsum(is_new)])
    faces = which.reshape(-1, 3)
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    solid = starts != ends
    there = np.sort(starts[solid] * len(cells) + ends[solid])
    back = np.sort(ends[solid] * len(cells) + starts[solid])
    return bool(not np.any(np.diff(there) == 0) and np.array_equal(there, back))


def indexed(kept: bytes) -> TriangleMesh:
    """A mesh with its tree. Raises InputError for bytes that no scan is kept in: a search never ends among them."""
    corners = corners_of(kept)
    as_kept(corners)
    leaves = 1 << max(0, math.ceil(math.log2(math.ceil(len(corners) / LEAF))))
    order = _halved(corners.mean(axis=1), leaves)
    corners = corners[order[order < len(corners)]]
    low = np.full((leaves * LEAF, 3), np.inf)
    high = np.full((leaves * LEAF, 3), -np.inf)
    low[: len(corners)], high[: len(corners)] = corners.min(axis=1), corners.max(axis=1)
    lows, highs = [low.reshape(leaves, LEAF, 3).min(axis=1)], [high.reshape(leaves, LEAF, 3).max(axis=1)]
    while len(lows[0]) > 1:
        lows.insert(0, lows[0].reshape(-1, 2, 3).min(axis=1))
        highs.insert(0, highs[0].reshape(-1, 2, 3).max(axis=1))
    rows = np.column_stack([np.full(len(corners), float(TRIANGLE)), corners.reshape(-1, 9)])
    return TriangleMesh(name_of(kept), rows, np.concatenate(lows), np.concatenate(highs), is_closed(corners))


def _halved(points: Array, leaves: int) -> NDArray[np.int64]:
    """The order that halves points (n, 3) again and again across their longest side; empty places come last."""
    places = leaves * LEAF
    order = np.arange(places)
    padded = np.full((places, 3), np.inf)
    padded[: len(points)] = points
    nodes = 1
    while nodes < leaves:
        here = padded[order].reshape(nodes, -1, 3)
        real = np.isfinite(here[:, :, :1])
        size = np.where(real, here, -np.inf).max(axis=1) - np.where(real, here, np.inf).min(axis=1)
        axis = np.argmax(np.nan_to_num(size, nan=-1.0), axis=1)
        along = np.take_along_axis(here, axis[:, None, None], axis=2)[:, :, 0]
        within = np.argpartition(along, along.shape[1] // 2, axis=1)
        order = np.take_along_axis(order.reshape(nodes, -1), within, axis=1).ravel()
        nodes *= 2
    return np.asarray(order)


# --- for drawing --------------------------------------------------------------------------------------------------


def thinned(corners: Array, cells: int) -> Array:
    """Fewer triangles (m, 3, 3) for drawing: corners drawn together within 1/cells of the longest side."""
    size = float(np.ptp(corners.reshape(-1, 3), axis=0).max()) / cells or 1.0
    keys = np.floor(corners.reshape(-1, 3) / size).astype(np.int64)
    _, first, which = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    faces = which.reshape(-1, 3)
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 0] != faces[:, 2])
    faces = np.unique(np.sort(faces[whole], axis=1), axis=0)
    return np.asarray(corners.reshape(-1, 3)[first][faces])


@lru_cache(maxsize=64)
def thinned_mesh(mesh: TriangleMesh, cells: int = 40) -> Array:
    """The thinned triangles of a mesh."""
    return thinned(mesh.rows[:, 1:].reshape(-1, 3, 3), cells)


def shadow(corners: Array, axes: tuple[int, int]) -> list[Vector]:
    """Outlines (k, 2) of triangles (n, 3, 3) seen along the third axis, largest first; openings are not drawn."""
    flat = shapely.polygons(corners[:, :, axes])
    flat = flat[shapely.area(flat) > 1e-3]
    if not len(flat):
        return []
    whole = shapely.union_all(shapely.buffer(flat, 0.5, quad_segs=1))
    parts = [p for p in getattr(whole, "geoms", [whole]) if not p.is_empty]
    parts.sort(key=lambda p: -p.area)
    return [np.asarray(p.simplify(1.0).exterior.coords) for p in parts]
