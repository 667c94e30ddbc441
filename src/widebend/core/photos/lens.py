"""A phone's lens: points before it to pixels, with exact derivatives.

Pinhole with two terms of radial distortion (Brown 1966, the first two of OpenCV's): x right, y down, z ahead. Its five
figures are focal length, middle (2) [pixels] and the two terms.
"""

from __future__ import annotations

import numpy as np

from ..space import Vector

FIGURES = 5  # f, cx, cy, k1, k2
LEAST_AHEAD_MM = 1.0


def seen_at(points: Vector, lens: Vector) -> Vector:
    """Points before the lens (..., 3) as pixels (..., 2)."""
    z = np.maximum(points[..., 2], LEAST_AHEAD_MM)
    x, y = points[..., 0] / z, points[..., 1] / z
    r2 = x * x + y * y
    d = (1.0 + lens[..., 3] * r2 + lens[..., 4] * r2 * r2) * lens[..., 0]
    return np.stack([x * d + lens[..., 1], y * d + lens[..., 2]], axis=-1)


def projected(points: Vector, lens: Vector) -> tuple[Vector, Vector, Vector]:
    """Points before the lens (..., 3) as pixels (..., 2), their derivatives by the point (..., 2, 3) and by the lens's
    figures (..., 2, 5); `lens` is (..., 5).
    """
    z = np.maximum(points[..., 2], LEAST_AHEAD_MM)
    x, y = points[..., 0] / z, points[..., 1] / z
    f, cx, cy, k1, k2 = (lens[..., k] for k in range(FIGURES))
    r2 = x * x + y * y
    d, dd = 1.0 + k1 * r2 + k2 * r2 * r2, k1 + 2.0 * k2 * r2
    pixels = np.stack([f * x * d + cx, f * y * d + cy], axis=-1)
    xx, xy, yy = f * (d + 2.0 * x * x * dd), f * 2.0 * x * y * dd, f * (d + 2.0 * y * y * dd)
    by_point = np.stack([
        np.stack([xx / z, xy / z, -(xx * x + xy * y) / z], axis=-1),
        np.stack([xy / z, yy / z, -(xy * x + yy * y) / z], axis=-1),
    ], axis=-2)  # fmt: skip
    one, nothing = np.ones_like(x), np.zeros_like(x)
    by_lens = np.stack([
        np.stack([x * d, one, nothing, f * x * r2, f * x * r2 * r2], axis=-1),
        np.stack([y * d, nothing, one, f * y * r2, f * y * r2 * r2], axis=-1),
    ], axis=-2)  # fmt: skip
    return pixels, by_point, by_lens


def undistorted(pixels: Vector, lens: Vector) -> Vector:
    """Pixels (..., 2) as directions (..., 2) x / z, y / z, by Newton-like steps back; `lens` is (..., 5)."""
    f, cx, cy, k1, k2 = (lens[..., k] for k in range(FIGURES))
    bent = np.stack([(pixels[..., 0] - cx) / f, (pixels[..., 1] - cy) / f], axis=-1)
    straight = bent.copy()
    for _ in range(8):
        r2 = (straight**2).sum(axis=-1)
        straight = bent / (1.0 + k1 * r2 + k2 * r2 * r2)[..., None]
    return np.asarray(straight)
