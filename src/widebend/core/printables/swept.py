"""Closed surfaces made by sweeping: a closed contour carried round a line, or a flat outline carried straight."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon, constrained_delaunay_triangles
from shapely.geometry.polygon import orient

from ..laying import Surface
from ..space import Vector

Grid = NDArray[np.float64]  # (rings, round, 3)


def closed_round(grid: Grid) -> tuple[Vector, NDArray[np.int64]]:
    """A grid closed in both directions, as of a torus: corners (n, 3) and triangles (m, 3).

    Rings run along the contour, each point of a ring round the line; outside is where the triangles look when the
    contour runs outside forward and the ring goes round clockwise seen along the line.
    """
    rings, count = grid.shape[:2]
    at = np.arange(rings * count).reshape(rings, count)
    a, b = at, np.roll(at, -1, axis=1)
    c, d = np.roll(at, -1, axis=0), np.roll(np.roll(at, -1, axis=0), -1, axis=1)
    faces = np.concatenate([np.stack([a, b, d], axis=-1).reshape(-1, 3), np.stack([a, d, c], axis=-1).reshape(-1, 3)])
    return grid.reshape(-1, 3), _outward(grid.reshape(-1, 3), faces)


def open_round(grid: Grid) -> tuple[Vector, NDArray[np.int64]]:
    """A grid closed along the contour only, with flat ends where the ring stops: as of a sleeve cut open.

    The contour runs out over one half of its points and back over the other, point against point.
    """
    rings, count = grid.shape[:2]
    at = np.arange(rings * count).reshape(rings, count)
    a, b = at[:, :-1], at[:, 1:]
    after = np.roll(at, -1, axis=0)
    c, d = after[:, :-1], after[:, 1:]
    faces = [np.stack([a, b, d], axis=-1).reshape(-1, 3), np.stack([a, d, c], axis=-1).reshape(-1, 3)]
    half = rings // 2
    for end, turned in ((0, True), (count - 1, False)):
        out, back = at[:half, end], at[half:, end][::-1]  # the same stations, outside and inside
        quads = [np.stack([out[:-1], back[:-1], back[1:]], axis=-1), np.stack([out[:-1], back[1:], out[1:]], axis=-1)]
        faces += [q[:, ::-1] if turned else q for q in quads]
    every = np.concatenate(faces)
    return grid.reshape(-1, 3), _outward(grid.reshape(-1, 3), every)


def prism(outline: Vector, long_mm: float) -> tuple[Vector, NDArray[np.int64]]:
    """A flat outline (n, 2) carried `long_mm` along +z."""
    shape = orient(Polygon(outline))
    ring = np.array(shape.exterior.coords)[:-1]
    n = len(ring)
    corners = np.vstack([np.column_stack([ring, np.zeros(n)]), np.column_stack([ring, np.full(n, long_mm)])])
    index = {tuple(np.round(p, 9)): i for i, p in enumerate(ring)}
    caps = np.array(
        [
            [index[tuple(np.round(p, 9))] for p in np.array(orient(t).exterior.coords)[:3]]
            for t in constrained_delaunay_triangles(shape).geoms
        ]
    )
    i = np.arange(n)
    j = (i + 1) % n
    sides = np.concatenate([np.stack([i, j, j + n], axis=-1), np.stack([i, j + n, i + n], axis=-1)])
    return corners, np.concatenate([caps[:, ::-1], caps + n, sides])


def named(name: str, made: tuple[Vector, NDArray[np.int64]]) -> Surface:
    return Surface(name, "part", "", *made)


def _outward(corners: Vector, faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """The triangles the way that encloses a volume over nothing: a closed surface has one such way."""
    a, b, c = (corners[faces[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6.0
    return faces if volume > 0 else faces[:, ::-1]
