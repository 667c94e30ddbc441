"""The springback of a die, learnt from the shop's own test bends.

A bent tube opens by a share of its angle and a little besides: got = share x set - back, fitted by least squares. With
one test the model is proportional (reference E036: set = wanted / (1 - s / 90)), with none nothing is known. The length
on the middle line stays, so a bend that opens has a larger radius: CLR x set / got; a measured radius overrules it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..records import Die, TestBend

LEAST_SPREAD_DEG = 0.3  # what an angle finder and a clamp leave: common practice, no source
UNKNOWN_SPREAD_DEG = 3.0  # of a die nobody tested: mild steel and stainless open 1 to 4 deg at 90, common practice
CREEP = 2.0  # an unsure angle is begun under by this many spreads: bend is added, never taken back


@dataclass(frozen=True)
class Springback:
    """got = share x set - back [deg], to within `spread_deg` (one standard deviation); `tests` it is learnt from.

    `growth` is the radius that comes out over the die's.
    """

    share: float = 1.0
    back_deg: float = 0.0
    spread_deg: float = UNKNOWN_SPREAD_DEG
    tests: int = 0
    measured_growth: float | None = None

    def got(self, set_deg: float) -> float:
        """Return the angle that comes out [deg] for a setting."""
        return self.share * set_deg - self.back_deg

    def to_set(self, wanted_deg: float) -> float:
        """Return the setting [deg] for a wanted angle.

        >>> round(Springback(share=1 - 2 / 90).to_set(90.0), 6)
        92.045455
        """
        return (wanted_deg + self.back_deg) / self.share

    def growth(self, wanted_deg: float) -> float:
        """The bend's radius over the die's: as measured, else because the middle line keeps its length."""
        return self.measured_growth if self.measured_growth is not None else self.to_set(wanted_deg) / wanted_deg


def learnt(die: Die) -> Springback:
    """Return the springback by a die's test bends. Three and more give their spread; fewer cannot know it."""
    tests = [t for t in die.tests if t.got_deg > 0]
    if not tests:
        return Springback()
    share, back = _fit(tests)
    residuals = [t.got_deg - (share * t.set_deg - back) for t in tests]
    freedom = len(tests) - (2 if _has_two_angles(tests) else 1)
    spread = math.sqrt(sum(r * r for r in residuals) / freedom) if freedom > 0 else UNKNOWN_SPREAD_DEG / 2
    radii = [t.clr_mm / die.clr_mm for t in tests if t.clr_mm is not None]
    return Springback(share, back, max(spread, LEAST_SPREAD_DEG), len(tests), float(np.mean(radii)) if radii else None)


def _has_two_angles(tests: Sequence[TestBend]) -> bool:
    return max(t.set_deg for t in tests) - min(t.set_deg for t in tests) > 5.0


def _fit(tests: Sequence[TestBend]) -> tuple[float, float]:
    """Share and back [deg]: a straight line where the tests are of different angles, else through nothing."""
    set_deg, got = np.array([t.set_deg for t in tests]), np.array([t.got_deg for t in tests])
    if not _has_two_angles(tests):
        return float((set_deg @ got) / (set_deg @ set_deg)), 0.0
    share, minus_back = np.polyfit(set_deg, got, 1)
    return float(share), -float(minus_back)


def creep_steps(spring: Springback, wanted_deg: float) -> list[float]:
    """Return the settings for an angle that must not come out over: under first by two spreads, measure,
    then what is missing. One step where the die is known to within what an angle finder reads.
    """
    full = spring.to_set(wanted_deg)
    under = CREEP * spring.spread_deg / spring.share
    if spring.spread_deg <= LEAST_SPREAD_DEG:
        return [full]
    return [max(full - under, full / 2), max(full - under / 4, full / 2), full]
