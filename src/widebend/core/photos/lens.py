"""A phone's lens: points before it to pixels, with exact derivatives.

Pinhole with three terms of radial and two of tangential distortion (Brown 1966, as OpenCV has them): x right, y down, z
ahead. Its figures are focal length, middle (2) [pixels], the three radial terms and the two tangential ones.
"""

from __future__ import annotations

import numpy as np

from ..space import Vector

FIGURES = 8  # f, cx, cy, k1, k2, k3, p1, p2
LEAST_AHEAD_MM = 1.0


def lens_of(*figures: float) -> Vector:
    """A lens by its first figures, the rest nothing: (8,)."""
    return np.array([*figures, *(0.0,) * (FIGURES - len(figures))])


def seen_at(points: Vector, lens: Vector) -> Vector:
    """Points before the lens (..., 3) as pixels (..., 2)."""
    z = np.maximum(points[..., 2], LEAST_AHEAD_MM)
    x, y = points[..., 0] / z, points[..., 1] / z
    return _bent(x, y, lens) * lens[..., :1] + lens[..., 1:3]


def _bent(x: Vector, y: Vector, lens: Vector) -> Vector:
    """Where the lens bends directions x / z, y / z to (..., 2)."""
    aside = _aside(x, y, lens)
    radial = _radial(x * x + y * y, lens)
    return np.stack([x * radial + aside[0], y * radial + aside[1]], axis=-1)


def _radial(r2: Vector, lens: Vector) -> Vector:
    return np.asarray(1.0 + r2 * (lens[..., 3] + r2 * (lens[..., 4] + r2 * lens[..., 5])))


def _aside(x: Vector, y: Vector, lens: Vector) -> tuple[Vector, Vector]:
    """Return the tangential distortion of directions."""
    p1, p2, r2 = lens[..., 6], lens[..., 7], x * x + y * y
    return 2.0 * p1 * x * y + p2 * (r2 + 2.0 * x * x), p1 * (r2 + 2.0 * y * y) + 2.0 * p2 * x * y


def projected(points: Vector, lens: Vector) -> tuple[Vector, Vector, Vector]:
    """Points before the lens (..., 3) as pixels (..., 2), their derivatives by the point (..., 2, 3) and by the lens's
    figures (..., 2, 8); `lens` is (..., 8).
    """
    z = np.maximum(points[..., 2], LEAST_AHEAD_MM)
    x, y = points[..., 0] / z, points[..., 1] / z
    f, _, _, k1, k2, k3, p1, p2 = (lens[..., k] for k in range(FIGURES))
    r2 = x * x + y * y
    d, dd = _radial(r2, lens), k1 + r2 * (2.0 * k2 + 3.0 * k3 * r2)
    bent = _bent(x, y, lens)
    pixels = bent * lens[..., :1] + lens[..., 1:3]
    xx = f * (d + 2.0 * x * x * dd + 2.0 * p1 * y + 6.0 * p2 * x)
    xy = f * (2.0 * x * y * dd + 2.0 * p1 * x + 2.0 * p2 * y)
    yy = f * (d + 2.0 * y * y * dd + 6.0 * p1 * y + 2.0 * p2 * x)
    by_point = np.stack(
        [
            np.stack([xx / z, xy / z, -(xx * x + xy * y) / z], axis=-1),
            np.stack([xy / z, yy / z, -(xy * x + yy * y) / z], axis=-1),
        ],
        axis=-2,
    )
    one, nothing, r4, cross = np.ones_like(x), np.zeros_like(x), r2 * r2, 2.0 * f * x * y
    by_lens = np.stack(
        [
            np.stack(
                [bent[..., 0], one, nothing, f * x * r2, f * x * r4, f * x * r4 * r2, cross, f * (r2 + 2.0 * x * x)],
                axis=-1,
            ),
            np.stack(
                [bent[..., 1], nothing, one, f * y * r2, f * y * r4, f * y * r4 * r2, f * (r2 + 2.0 * y * y), cross],
                axis=-1,
            ),
        ],
        axis=-2,
    )
    return pixels, by_point, by_lens


def undistorted(pixels: Vector, lens: Vector) -> Vector:
    """Pixels (..., 2) as directions (..., 2) x / z, y / z, by Newton-like steps back; `lens` is (..., 8)."""
    bent = (pixels - lens[..., 1:3]) / lens[..., :1]
    straight = bent.copy()
    for _ in range(8):
        x, y = straight[..., 0], straight[..., 1]
        aside = np.stack(_aside(x, y, lens), axis=-1)
        straight = (bent - aside) / _radial(x * x + y * y, lens)[..., None]
    return np.asarray(straight)
