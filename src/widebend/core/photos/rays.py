"""Rays from lenses: the way to what is at a pixel, and where several ways come nearest to each other."""

from __future__ import annotations

import numpy as np

from ..space import Vector
from .lens import undistorted


def ways_of(pixels: Vector, lens: Vector, turn: Vector) -> Vector:
    """The ways (..., 3) in the world to what is at pixels (..., 2), of a photo that turns the world by `turn` (3,
    3).
    """
    straight = undistorted(pixels, lens)
    ways = np.concatenate([straight, np.ones((*straight.shape[:-1], 1))], axis=-1) @ turn
    return np.asarray(ways / np.linalg.norm(ways, axis=-1, keepdims=True))


def meeting(eyes: Vector, ways: Vector) -> tuple[Vector, float]:
    """The place (3,) nearest to all of some rays, from eyes (n, 3) along ways (n, 3) of length one, and how far they
    pass it, root of the mean square [mm].
    """
    across = np.eye(3) - ways[:, :, None] * ways[:, None, :]
    place = np.linalg.lstsq(across.sum(axis=0), (across @ eyes[..., None]).sum(axis=0)[:, 0], rcond=None)[0]
    off = (across @ (place - eyes)[..., None])[..., 0]
    return place, float(np.sqrt((off**2).sum(axis=1).mean()))
