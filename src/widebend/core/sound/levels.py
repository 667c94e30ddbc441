"""Levels as a sound meter shows them: added, weighted. IEC 61672-1, from memory."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..space import Vector

# poles of the weightings [Hz], and what brings each to 0 dB at 1 kHz
POLES = (20.598997, 107.65265, 737.86223, 12194.217)
A_AT_1K, C_AT_1K = 1.9997, 0.0619


def added_db(levels: Sequence[float]) -> float:
    """Levels of sources that do not know of each other, together [dB]: 10 lg sum 10^(L/10).

    >>> round(added_db([90.0, 90.0, 90.0]), 5)
    94.77121
    """
    return float(10 * np.log10(np.sum(10 ** (np.asarray(levels) / 10))))


def a_weighting(hz: Vector) -> Vector:
    """How a meter on A changes a tone [dB], by the poles of the standard."""
    f = np.asarray(hz) ** 2
    low, second, third, high = (pole**2 for pole in POLES)
    gain = high * f**2 / ((f + low) * np.sqrt((f + second) * (f + third)) * (f + high))
    return np.asarray(20 * np.log10(gain) + A_AT_1K)


def c_weighting(hz: Vector) -> Vector:
    """The same on C [dB]."""
    f = np.asarray(hz) ** 2
    low, high = POLES[0] ** 2, POLES[3] ** 2
    return np.asarray(20 * np.log10(high * f / ((f + low) * (f + high))) + C_AT_1K)


def overall_db(levels: Sequence[float], weights: Sequence[float]) -> float:
    """One figure of levels by band, each with its weight [dB]."""
    return added_db([level + weight for level, weight in zip(levels, weights, strict=True)])
