"""How gas cools along a pipe, and the film of it inside."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class Cooled:
    """What became of gas in a stretch: transfer units, how warm it leaves [C], the heat it gave up [W]."""

    units: float
    leaves_c: float
    heat_w: float


def cooled(
    kg_s: float, cp: float, across_mm: float, long_mm: float, w_m2_k: float, enters_c: float, around_c: float
) -> Cooled:  # fmt: skip
    """Gas along a pipe of constant transfer to still surroundings: T = Ta + (T0 - Ta) exp(-U A / m cp)."""
    units = w_m2_k * math.pi * across_mm / 1000.0 * long_mm / 1000.0 / (kg_s * cp)
    leaves = around_c + (enters_c - around_c) * math.exp(-units)
    return Cooled(units, leaves, kg_s * cp * (enters_c - leaves))


def nusselt_dittus_boelter(reynolds: float, prandtl: float) -> float:
    """Turbulent gas that cools in a smooth pipe: 0.023 Re^0.8 Pr^0.3."""
    return float(0.023 * reynolds**0.8 * prandtl**0.3)


def nusselt_gnielinski(reynolds: float, prandtl: float, factor: float) -> float:
    """The same by Gnielinski, with Darcy's friction factor."""
    eighth = factor / 8.0
    return float(eighth * (reynolds - 1000.0) * prandtl / (1.0 + 12.7 * math.sqrt(eighth) * (prandtl ** (2 / 3) - 1.0)))
