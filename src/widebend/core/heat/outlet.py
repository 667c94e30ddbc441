"""The hot gas behind a tip: how far it reaches before it is no longer hot.

A free round jet far from walls: its middle is warmer than the air by five diameters over the distance, a lighter gas
less by the root of the densities (Abramovich, Hinze; from memory); within five diameters it is as hot as it left.
"""

from __future__ import annotations

import math

from ..gas import ZERO_C

DECAY = 5.0


def jet_c(gas_c: float, across_mm: float, behind_mm: float, air_c: float) -> float:
    """The middle of the jet so far behind an outlet [C].

    >>> round(jet_c(500.0, 60.0, 100.0, 20.0)), round(jet_c(500.0, 60.0, 600.0, 20.0))
    (500, 168)
    """
    thinner = math.sqrt((air_c + ZERO_C) / (gas_c + ZERO_C))
    return air_c + (gas_c - air_c) * min(1.0, DECAY * thinner * across_mm / max(behind_mm, 1e-9))


def reach_mm(gas_c: float, across_mm: float, harmless_c: float, air_c: float) -> float:
    """How far behind an outlet its middle is still hotter than that [mm]."""
    if gas_c <= harmless_c:
        return 0.0
    thinner = math.sqrt((air_c + ZERO_C) / (gas_c + ZERO_C))
    return DECAY * thinner * across_mm * (gas_c - air_c) / (harmless_c - air_c)
