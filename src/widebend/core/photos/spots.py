"""A spot without a tag: pointed at in two or three photos, it has a place; pointed at in one, a line of sight."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..space import Vector
from .lens import projected, seen_at
from .rays import meeting, ways_of
from .solving import SURE, PlacedPhoto

POINTED_PX = 4.0  # how near a finger puts it, in a photo of 4000 pixels: common practice, no source
NEAR_MM, FAR_MM, STEPS = 150.0, 3000.0, 60  # of a line of sight as it is drawn
LEAST_DEG = 5.0
ROUNDS = 12
Sight = tuple[PlacedPhoto, tuple[float, float]]


@dataclass(frozen=True)
class Spot:
    """Where a spot is (3,) [mm], the covariance of it (3, 3), and how far it is off where it was pointed at, at most
    [pixels].
    """

    place: Vector
    spread: Vector
    off_px: float

    @property
    def plus_minus_mm(self) -> float:
        """How far it may be off in the worst direction, 95 of 100 [mm]."""
        return SURE * float(np.sqrt(np.linalg.eigvalsh(self.spread)[-1]))


def spot(sights: Sequence[Sight]) -> Spot:
    """The place that sights from different photos agree on. Raises InputError where they are too few, too near to each
    other, or do not meet.
    """
    if len({photo.name for photo, _ in sights}) < 2:
        raise InputError("point at it in a second photo, taken from another side")
    ways = np.array([ways_of(np.array(at, dtype=float), photo.lens, photo.turn) for photo, at in sights])
    if np.degrees(np.arccos(np.clip((ways @ ways.T).min(), -1.0, 1.0))) < LEAST_DEG:
        raise InputError("these photos were taken from nearly the same place: point at it in one from another side")
    eyes = np.array([photo.eye for photo, _ in sights])
    place, _ = meeting(eyes, ways)
    seen = np.array([at for _, at in sights])
    for _ in range(ROUNDS):
        left, by = _left(sights, place, seen)
        place = place - np.linalg.solve(by.T @ by, by.T @ left)
    left, by = _left(sights, place, seen)
    off = float(np.abs(left).max())
    pointed = POINTED_PX * max(2.0 * float(photo.lens[1]) for photo, _ in sights) / 4000.0
    if off > 6.0 * pointed:
        raise InputError(f"these do not point at one place: {off:.0f} pixels off; let one of them go")
    return Spot(place, np.asarray(np.linalg.inv(by.T @ by) * max(pointed, off) ** 2), off)


def _left(sights: Sequence[Sight], place: Vector, seen: Vector) -> tuple[Vector, Vector]:
    rows, by = [], []
    for (photo, _), at in zip(sights, seen, strict=True):
        pixels, by_point, _ = projected(photo.turn @ place + photo.shift, photo.lens)
        rows.append(pixels - at)
        by.append(by_point @ photo.turn)
    return np.concatenate(rows), np.concatenate(by)


def line_of_sight(photo: PlacedPhoto, at: tuple[float, float], other: PlacedPhoto) -> Vector:
    """Where what is at a pixel of one photo can be in another (n, 2) [pixels], the nearest first."""
    along = np.geomspace(NEAR_MM, FAR_MM, STEPS)
    world = photo.eye + along[:, None] * ways_of(np.array(at, dtype=float), photo.lens, photo.turn)
    before = world @ other.turn.T + other.shift
    return seen_at(before[before[:, 2] > NEAR_MM], other.lens)
