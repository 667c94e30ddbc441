"""A scan-like mesh, and the gap of a tube to it by trimesh: a reference library, none of our code."""

from __future__ import annotations

import numpy as np
import trimesh

from tests.outside.scenes import centre_points, direction


def floor_pan(triangles: int, seed: int = 3) -> np.ndarray:
    """A closed slab 2000 x 1000 mm, its underside ribbed, dented, with a tunnel, of `triangles` (n, 3, 3)."""
    rng = np.random.default_rng(seed)
    n = int(np.sqrt(triangles / 8))
    x, y = np.meshgrid(np.linspace(0, 2000, 2 * n + 1), np.linspace(-500, 500, n + 1), indexing="ij")
    z = 30 * np.sin(x / 90) * np.cos(y / 70) + 140 * np.exp(-((y / 90) ** 2))
    for _ in range(12):
        cx, cy, deep = rng.uniform(0, 2000), rng.uniform(-450, 450), rng.uniform(-60, 60)
        z += deep * np.exp(-((x - cx) ** 2 + (y - cy) ** 2) / 60**2)
    low, high = np.stack([x, y, z], axis=-1), np.stack([x, y, np.full_like(z, 320.0)], axis=-1)
    sheets = [_quads(low, flip=True), _quads(high, flip=False)]
    for edge in ((slice(None), 0), (slice(None), -1), (0, slice(None)), (-1, slice(None))):
        wall = np.stack([low[edge], high[edge]], axis=1)
        sheets.append(_quads(wall, flip=edge in ((slice(None), -1), (0, slice(None)))))
    return np.concatenate(sheets)


def _quads(grid: np.ndarray, *, flip: bool) -> np.ndarray:
    a, b, c, d = grid[:-1, :-1], grid[1:, :-1], grid[1:, 1:], grid[:-1, 1:]
    faces = np.concatenate(
        [np.stack([a, b, c], axis=2).reshape(-1, 3, 3), np.stack([a, c, d], axis=2).reshape(-1, 3, 3)]
    )
    return faces[:, ::-1] if flip else faces


def reference(corners: np.ndarray) -> trimesh.Trimesh:
    mesh = trimesh.Trimesh(corners.reshape(-1, 3), np.arange(3 * len(corners)).reshape(-1, 3), process=False)
    mesh.merge_vertices()
    return mesh


def random_tube(rng: np.random.Generator) -> np.ndarray:
    """A straight or a bend near the floor pan, its ends joined to neighbours (no open end)."""
    r, p, f = rng.uniform(15, 45), rng.uniform((0, -500, -350), (2000, 500, 60)), direction(rng)
    side = np.cross(f, direction(rng))
    side /= np.linalg.norm(side)
    if rng.random() < 0.5:
        clr = rng.uniform(1.0, 3.0) * 2 * r
        return np.r_[1, clr * rng.uniform(0.3, 2.5), r, p, f, side, clr, 0]
    return np.r_[0, rng.uniform(30, 500), r, p, f, side, 0, 0]


def reference_gap(mesh: trimesh.Trimesh, seg: np.ndarray) -> float:
    """Least signed distance of the centre line less the radius: sampled, then finer round the best places."""
    spacing = seg[1] / 24
    s = np.linspace(0.0, seg[1], 25)
    best = np.inf
    for best_places in (2, 2, 2, 1, 1, 1, 1):
        points = np.array([centre_points(np.r_[seg[0], max(at, 1e-9), seg[2:]], 2)[0][-1] for at in s])
        f = -trimesh.proximity.signed_distance(mesh, points)
        best = min(best, float(f.min()))
        near = s[np.argsort(f)[:best_places]]
        s = np.unique(np.clip((near[:, None] + np.linspace(-spacing, spacing, 9)).ravel(), 0.0, seg[1]))
        spacing /= 4
    return best - seg[2]
