"""Where errors go: how far the end of a run may be off its plan, by the linear answer and by sampled builds."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..space import Vector
from .built import Chain, at_point, built, twists


@dataclass(frozen=True)
class Stack:
    """How far an end may be off: covariance of its place (3, 3) [mm], of its flow (3, 3) [radians], and the share of
    the place's variance that each error has (n, 5).
    """

    place: Vector
    flow: Vector
    shares: Vector

    @property
    def off_mm(self) -> float:
        """One deviation of the distance, all ways together [mm]."""
        return float(np.sqrt(np.trace(self.place)))


def at_end(plan: Chain, spreads: Vector, errors: Vector | None = None, spread: Vector | None = None) -> Stack:
    """The linear answer, about the plan or about errors that were found with their covariance (5 n, 5 n)."""
    off = np.zeros_like(spreads) if errors is None else errors
    frames = built(plan, off)
    by = twists(plan, off).reshape(-1, 6).T
    wide = np.diag(spreads.ravel() ** 2) if spread is None else spread
    end = frames[-1]
    place = at_point(by, end[:, 3])
    flow = np.cross(by[:3].T, end[:, 0]).T
    each = (place**2).sum(axis=0) * np.diag(wide)
    return Stack(place @ wide @ place.T, flow @ wide @ flow.T, (each / max(each.sum(), 1e-12)).reshape(spreads.shape))


def sampled_ends(plan: Chain, spreads: Vector, count: int, seed: int = 1) -> Vector:
    """The ends of this many builds with errors drawn at random (count, 3, 4)."""
    rng = np.random.default_rng(seed)
    return np.array([built(plan, rng.normal(0.0, 1.0, spreads.shape) * spreads)[-1] for _ in range(count)])
