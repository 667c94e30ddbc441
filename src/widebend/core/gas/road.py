"""From engine speed to road speed: gears, final drive, tyre."""

from __future__ import annotations

import math
import re

from ..errors import InputError
from ..records import Engine
from ..units import MM_PER_INCH

ROLLS = 0.97  # a loaded tyre rolls a little less far than it measures round: common practice, 0.96 to 0.98
TYRE = re.compile(r"(\d{3})\s*/\s*(\d{2})\s*[a-z]*\s*(\d{2}(?:[.,]5)?)")


def tyre_rolling_mm(size: str) -> float:
    """How far a tyre rolls in one turn [mm], by its size. Raises InputError.

    >>> round(tyre_rolling_mm("205/55 R16"))
    1925
    """
    found = TYRE.fullmatch(size.strip().lower())
    if not found:
        raise InputError("a tyre's size like 205/55 R16, or how far it rolls in one turn")
    wide, share, rim = int(found[1]), int(found[2]), float(found[3].replace(",", "."))
    return math.pi * (rim * MM_PER_INCH + 2 * wide * share / 100) * ROLLS


def road_kmh(engine: Engine, rpm: float, gear: int) -> float:
    """How fast it drives at an engine speed in a gear (from 1) [km/h]. Raises InputError where no gearbox is said."""
    if engine.gearbox is None:
        raise InputError("say gear ratios, final drive and tyre: they turn engine speed into road speed")
    box = engine.gearbox
    wheel = rpm / 60.0 / (box.ratios[gear - 1] * box.final)
    return wheel * box.rolling_mm / 1000.0 * 3.6
