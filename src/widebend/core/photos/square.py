"""Where a square stands before a lens by its four corners: always two answers, one of them true.

A small square looks nearly the same tilted toward and away (Collins and Bartoli 2014); the second start is the first
one's face mirrored about the line of sight, and both are made as good as they get.
"""

from __future__ import annotations

import numpy as np

from ..space import Vector

ROUNDS = 12


def skew(v: Vector) -> Vector:
    """The matrix (..., 3, 3) that crosses v (..., 3) with what it multiplies."""
    out = np.zeros((*v.shape[:-1], 3, 3))
    out[..., 0, 1], out[..., 0, 2], out[..., 1, 2] = -v[..., 2], v[..., 1], -v[..., 0]
    out[..., 1, 0], out[..., 2, 0], out[..., 2, 1] = v[..., 2], -v[..., 1], v[..., 0]
    return out


def turned(by: Vector) -> Vector:
    """Rotations (..., 3, 3) of rotation vectors (..., 3) [rad], by Rodrigues' formula."""
    angle = np.linalg.norm(by, axis=-1)[..., None, None]
    safe = np.where(angle < 1e-12, 1.0, angle)
    k = skew(by) / safe
    whole = np.eye(3) + np.sin(angle) * k + (1.0 - np.cos(angle)) * (k @ k)
    return np.asarray(np.where(angle < 1e-12, np.eye(3) + skew(by), whole))


def both_ways(rays: Vector, corners: Vector) -> tuple[Vector, Vector, Vector]:
    """Turns (n, 2, 3, 3), places (n, 2, 3) and errors (n, 2) of squares before a lens, the better answer first.

    `rays` (n, 4, 2) are directions to the corners, `corners` (n, 4, 2) where these are on the square [mm]. An error
    is the root of the mean square of what is left, as a share of the distance.
    """
    turn, place = _by_homography(rays, corners)
    flat = np.concatenate([corners, np.zeros((*corners.shape[:-1], 1))], axis=-1)
    turn, place, error = _better(rays, flat, turn, place)
    sight = place / np.linalg.norm(place, axis=-1, keepdims=True)
    face = turn[..., :, 2]
    mirrored = 2.0 * (face * sight).sum(axis=-1, keepdims=True) * sight - face
    axis = np.cross(face, mirrored)
    sine = np.linalg.norm(axis, axis=-1, keepdims=True)
    angle = np.arctan2(sine, (face * mirrored).sum(axis=-1, keepdims=True))
    by: Vector = np.asarray(axis / np.maximum(sine, 1e-12) * angle, dtype=float)
    other = turned(by) @ turn
    second = _better(rays, flat, other, place)
    pairs = [np.stack([a, b], axis=1) for a, b in zip((turn, place, error), second, strict=True)]
    order = np.argsort(pairs[2], axis=1)
    rows = np.arange(len(rays))[:, None]
    return pairs[0][rows, order], pairs[1][rows, order], pairs[2][rows, order]


def _by_homography(rays: Vector, corners: Vector) -> tuple[Vector, Vector]:
    """The plane's homography from four corners, made a turn and a place."""
    n = len(rays)
    x, y, u, v = corners[..., 0], corners[..., 1], rays[..., 0], rays[..., 1]
    one, nothing = np.ones_like(x), np.zeros_like(x)
    first = np.stack([x, y, one, nothing, nothing, nothing, -u * x, -u * y], axis=-1)
    second = np.stack([nothing, nothing, nothing, x, y, one, -v * x, -v * y], axis=-1)
    rows, wanted = np.concatenate([first, second], axis=1), np.concatenate([u, v], axis=1)
    h, *_ = (np.linalg.solve(rows + 1e-12 * np.eye(8), wanted[..., None])[..., 0],)
    matrix = np.concatenate([h, np.ones((n, 1))], axis=1).reshape(n, 3, 3)
    scale = np.linalg.norm(matrix[:, :, :2], axis=1).mean(axis=-1)
    matrix = matrix / scale[:, None, None]
    a, b = matrix[:, :, 0], matrix[:, :, 1]
    u_, _, vt = np.linalg.svd(np.stack([a, b, np.cross(a, b)], axis=-1))
    turn = u_ @ vt
    turn[np.linalg.det(turn) < 0] *= -1.0
    return turn, matrix[:, :, 2]


def _better(rays: Vector, flat: Vector, turn: Vector, place: Vector) -> tuple[Vector, Vector, Vector]:
    """Gauss-Newton with a little damping on all squares at once."""
    for _ in range(ROUNDS):
        left, by = _left(rays, flat, turn, place)
        normal = by.transpose(0, 2, 1) @ by
        normal += 1e-6 * np.eye(6) * np.trace(normal, axis1=1, axis2=2)[:, None, None] / 6.0
        step = -np.linalg.solve(normal, by.transpose(0, 2, 1) @ left[..., None])[..., 0]
        step[:, :3] = np.clip(step[:, :3], -0.4, 0.4)
        turn, place = turned(np.asarray(step[:, :3], dtype=float)) @ turn, place + step[:, 3:]
        place[:, 2] = np.maximum(place[:, 2], 10.0)
    left, _ = _left(rays, flat, turn, place)
    return turn, place, np.sqrt((left**2).mean(axis=1))


def _left(rays: Vector, flat: Vector, turn: Vector, place: Vector) -> tuple[Vector, Vector]:
    """Return the residuals of directions (n, 8), and its derivative (n, 8, 6) by turn and place."""
    carried = flat @ turn.transpose(0, 2, 1)
    at = carried + place[:, None]
    z = np.maximum(at[..., 2], 1.0)
    x, y = at[..., 0] / z, at[..., 1] / z
    left = np.stack([x, y], axis=-1) - rays
    nothing = np.zeros_like(z)
    by_point = np.stack([np.stack([1 / z, nothing, -x / z], -1), np.stack([nothing, 1 / z, -y / z], -1)], -2)
    by = np.concatenate([by_point @ -skew(carried), by_point], axis=-1)
    return left.reshape(len(rays), 8), by.reshape(len(rays), 8, 6)
