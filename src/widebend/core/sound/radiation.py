"""How an open end sends sound out: what the line sees there, and how loud it is at a distance.

Levine and Schwinger's unflanged end by Davies' fit of its reflection (1980, good to k a of 1.5), from memory; a point
source over hard ground.
"""

from __future__ import annotations

import math

import numpy as np

from ..space import Vector
from .lines import Medium
from .resonators import UNFLANGED

FIT = (1.0, 0.01336, -0.59079, 0.33576, 0.0, -0.06432)
MOST_KA = 1.5
QUIETEST_PA = 20e-6


def end_impedance(hz: Vector, across_mm: float, gas: Medium) -> Vector:
    """The impedance that the line sees at an open end [Pa s/m3]."""
    radius = across_mm / 2000.0
    ka = np.minimum(2 * math.pi * np.asarray(hz) / gas.speed * radius, MOST_KA)
    size = sum(c * ka**i for i, c in enumerate(FIT))
    size = np.clip(size * (1 - gas.mach), 0.05, 0.9999)  # the flow carries some of the echo away
    correction = radius * (UNFLANGED - 0.1168 * ka**2)
    reflects = -size * np.exp(-2j * 2 * math.pi * np.asarray(hz) / gas.speed * correction)
    return np.asarray(gas.impedance(across_mm) * (1 + reflects) / (1 - reflects))


def level_db(volume_velocity: Vector, hz: Vector, away_m: float, density: float = 1.2) -> Vector:
    """The level of a small source over hard ground [dB], from its volume velocity's amplitude [m3/s]."""
    amplitude = density * np.asarray(hz) * np.abs(volume_velocity) / away_m  # omega rho U / 4 pi r, doubled
    return np.asarray(20 * np.log10(np.maximum(amplitude / math.sqrt(2), 1e-12) / QUIETEST_PA))
