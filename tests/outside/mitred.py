"""The mitred body of straights cut on the planes where they meet, sampled: numpy, none of our code."""

from __future__ import annotations

import itertools

import numpy as np

from tests.outside.scenes import signed


def skin(corners: np.ndarray, radius: float, ends: tuple[np.ndarray, np.ndarray], step: float = 0.6) -> np.ndarray:
    """Points (n, 3) on the outside of a line of straights, corners (k, 3), each cut on the plane halfway to its
    neighbour; `ends` are the normals of the first and the last face.
    """
    ways = np.diff(corners, axis=0)
    lengths = np.linalg.norm(ways, axis=1)
    ways = ways / lengths[:, None]
    planes = [ends[0], *[(a + b) / np.linalg.norm(a + b) for a, b in itertools.pairwise(ways)], ends[1]]
    turns = np.linspace(0.0, 2 * np.pi, int(2 * np.pi * radius / step), endpoint=False)[:, None]
    out = []
    for k, way in enumerate(ways):
        u = np.cross(way, [1.0, 0, 0] if abs(way[0]) < 0.8 else [0, 1.0, 0])
        u /= np.linalg.norm(u)
        rim = radius * (np.cos(turns) * u + np.sin(turns) * np.cross(way, u))
        low = -(rim @ planes[k]) / (way @ planes[k])
        high = lengths[k] - (rim @ planes[k + 1]) / (way @ planes[k + 1])
        share = np.linspace(0.0, 1.0, max(2, int((lengths[k] + 2 * radius) / step)))
        along = low[:, None] + share * (high - low)[:, None]
        out.append((corners[k] + rim[:, None, :] + along[:, :, None] * way).reshape(-1, 3))
    faces = np.linspace(0.0, 1.0, max(2, int(radius / step)))[:, None, None]
    first = out[0].reshape(len(turns), -1, 3)[:, 0]
    last = out[-1].reshape(len(turns), -1, 3)[:, -1]
    out += [(c + faces * (rim - c)).reshape(-1, 3) for c, rim in ((corners[0], first), (corners[-1], last))]
    return np.concatenate(out)


def gap(points: np.ndarray, row: np.ndarray) -> float:
    """Distance of a sampled skin to a solid; minus when it pokes in."""
    return float(signed(row, points).min())
