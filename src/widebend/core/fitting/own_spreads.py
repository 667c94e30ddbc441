"""The shop's own spreads, from what its fit log found: how far its cuts, bends, clocks and joints really go off."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..space import chain
from .log import AsBuilt

Operation = Literal["cut", "bend", "clock", "joint"]
ENOUGH = 12  # this many of an operation must have been found before they say anything: common practice, no source
TOLD = 0.5  # an error counts when readings left less than this share of the variance assumed for it


@dataclass(frozen=True)
class OwnSpread:
    """One deviation of an operation as found [mm of cuts and clocks, deg of bends and joints], from how many."""

    operation: Operation
    deviation: float
    count: int

    @property
    def enough(self) -> bool:
        return self.count >= ENOUGH


def learned_spreads(found: Iterable[AsBuilt]) -> list[OwnSpread]:
    """Return the evidence of errors on fitted pieces: the mean square of each with its own variance (the maximisation
    step of Dempster, Laird and Rubin), of those that the readings really told of.
    """
    squares: dict[Operation, list[float]] = {"cut": [], "bend": [], "clock": [], "joint": []}
    for now in found:
        variance = np.diag(now.found.spread).reshape(now.spreads.shape)
        for k, piece in enumerate(now.plan.piece):
            if piece >= now.front or not now.plan.whole(k):
                continue
            for column, (operation, scale) in _operations(now, k).items():
                was = now.spreads[k, column] ** 2
                if was > 0 and variance[k, column] < TOLD * was:
                    squares[operation].append(scale**2 * float(now.found.errors[k, column] ** 2 + variance[k, column]))
    return [OwnSpread(name, float(np.sqrt(np.mean(some))), len(some)) for name, some in squares.items() if some]


def _operations(now: AsBuilt, step: int) -> dict[int, tuple[Operation, float]]:
    """By column of the errors, which operation it is and what makes it one [mm or deg]."""
    kind = now.plan.steps[step, 0]
    out: dict[int, tuple[Operation, float]] = {3: ("joint", 1.0), 4: ("joint", 1.0)}
    if kind == chain.LEG:
        out[0] = ("cut", 1.0)
    if kind == chain.BEND:
        out[0], out[2] = ("bend", 1.0), ("clock", float(np.radians(now.plan.od_mm[step] / 2)))
    return out
