"""Argon inside a pipe before and while its root is welded: how much, how long.

Flushing by well-mixed dilution, C = C0 exp(-Q t / V); practice flushes five to ten volumes (AWS D10.11, from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import InputError

AIR_PPM = 209_500.0
FLUSH_VOLUMES, FLUSH_L_MIN, HOLD_L_MIN = 8.0, 10.0, 4.0  # common practice within D10.11's five to ten


@dataclass(frozen=True)
class Purge:
    """A purge: what is flushed [l], how long [min], gas for that and while it is held [l]."""

    inside_l: float
    flush_min: float
    gas_l: float


def inside_l(inside_mm: float, long_mm: float) -> float:
    """Return the volume of a stretch of pipe [l]."""
    return math.pi / 4 * inside_mm**2 * long_mm / 1e6


def volumes_to(ppm: float) -> float:
    """How many volumes of argon take air down to so much oxygen, perfectly mixed. Raises InputError for none at all."""
    if not 0 < ppm < AIR_PPM:
        raise InputError("oxygen goes from air's 20.95 % down to some parts a million, never to none")
    return math.log(AIR_PPM / ppm)


def purge_for(
    inside_mm: float, long_mm: float, weld_min: float, volumes: float = FLUSH_VOLUMES, l_min: float = FLUSH_L_MIN
) -> Purge:
    """Flush between two plugs so far apart, then hold while it is welded."""
    holds = inside_l(inside_mm, long_mm)
    flush = volumes * holds / l_min
    return Purge(holds, flush, volumes * holds + weld_min * HOLD_L_MIN)
