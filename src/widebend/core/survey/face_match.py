"""Two tube ends that should meet but are not quite round or square: the step and the gap, and the best rotation.

A tube end out of round is taken as an oval, r(phi) = mean + half the difference cos 2 phi; a face off square as a
plane, high at one place. Both are what a caliper and a square show: common practice, no source.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..space import Vector

_AROUND = np.radians(np.arange(0.0, 360.0, 2.0))


@dataclass(frozen=True)
class End:
    """A measured tube end: widest and narrowest OD [mm], where the widest lies and where its face stands highest [deg
    from its mark, clockwise looking at the face], and how far it is off square across its diameter [mm].
    """

    widest_mm: float
    narrowest_mm: float
    widest_at_deg: float = 0.0
    off_square_mm: float = 0.0
    highest_at_deg: float = 0.0

    def radius(self, around: Vector) -> Vector:
        """Outside radius (n,) [mm] at angles from the mark [rad]."""
        mean, half = (self.widest_mm + self.narrowest_mm) / 4, (self.widest_mm - self.narrowest_mm) / 4
        return np.asarray(mean + half * np.cos(2 * (around - np.radians(self.widest_at_deg))))

    def height(self, around: Vector) -> Vector:
        """How far the face stands out (n,) [mm] at angles from the mark [rad]."""
        return np.asarray(self.off_square_mm / 2 * np.cos(around - np.radians(self.highest_at_deg)))


@dataclass(frozen=True)
class Match:
    """Two ends at one rotation: the largest step outside and the widest gap [mm]."""

    rotation_deg: float
    step_mm: float
    gap_mm: float


def match(first: End, second: End) -> tuple[Match, Match]:
    """The best and the worst rotation of the second end about the first, from mark to mark, clockwise looking at the
    first's face. Raises InputError.

    Set face to face the two are looked at from opposite sides: what is clockwise on one is anticlockwise on the other.
    The gap is what stays open when the faces touch at their nearest place.
    """
    for end in (first, second):
        if not 0 < end.narrowest_mm <= end.widest_mm:
            raise InputError("the widest is at least the narrowest, and both more than nothing")
    tried = [_at(first, second, float(deg)) for deg in range(0, 360, 2)]
    by_fit = sorted(tried, key=lambda m: (round(m.step_mm + m.gap_mm, 6), m.rotation_deg))
    return by_fit[0], by_fit[-1]


def _at(first: End, second: End, deg: float) -> Match:
    theirs = np.radians(deg) - _AROUND
    step = float(np.abs(first.radius(_AROUND) - second.radius(theirs)).max())
    stand = first.height(_AROUND) + second.height(theirs)
    return Match(deg, step, float(stand.max() - stand.min()))
