"""The chance that a gap holds while what is built goes off its plan."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..fitting import AsBuilt, at_point
from ..space import Vector
from .gaps import distances
from .nearest import Gap

LITTLE_MM = 0.05


@dataclass(frozen=True)
class GapChance:
    """A gap, one deviation of it as built and as measured [mm], and the chances that it is as wide as is wanted, and
    that nothing touches.
    """

    gap: Gap
    deviation_mm: float
    holds: float
    clear: float


def gap_chances(gaps: tuple[Gap, ...], now: AsBuilt, wide: Vector) -> list[GapChance]:
    """Every gap of a run's pipe with its chance, the least likely first; `wide` (5 n, 5 n) is the covariance of the
    errors. A gap changes as the pipe moves along the way that leads off the thing.
    """
    out = []
    for gap in gaps:
        if gap.run != now.run.id or gap.piece is None or gap.together:
            continue
        moves = now.found.moves(now.plan.step_of(gap.piece))
        away = _away(gap)
        by = away @ at_point(moves, gap.at)
        deviation = math.hypot(math.sqrt(max(0.0, float(by @ wide @ by))), gap.obstacle.plus_minus_mm / 2)
        out.append(
            GapChance(
                gap, deviation, _over(gap.gap_mm - gap.obstacle.needed_mm, deviation), _over(gap.gap_mm, deviation)
            )
        )
    return sorted(out, key=lambda one: (one.holds, one.clear))


def _away(gap: Gap) -> Vector:
    """The way off the thing (3,), by how its distance changes."""
    steps = np.vstack([np.eye(3), -np.eye(3)]) * LITTLE_MM
    far = distances(gap.at + steps, gap.obstacle)
    way = (far[:3] - far[3:]) / (2 * LITTLE_MM)
    return np.asarray(way / max(1.0, float(np.linalg.norm(way))))


def _over(margin: float, deviation: float) -> float:
    """The chance that a normal figure is over nothing."""
    return 0.5 * math.erfc(-margin / (deviation * math.sqrt(2.0))) if deviation > 0 else float(margin >= 0)
