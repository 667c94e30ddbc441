"""Side branches and chambers by their closed forms: where they bite, how long they must be."""

from __future__ import annotations

import math

# end corrections in radii: Levine and Schwinger 1948; Nomura and others; the piston's 8 / 3 pi; from memory
UNFLANGED, FLANGED, PISTON = 0.6133, 0.8217, 8.0 / (3.0 * math.pi)
FIRST_MODE = 1.84118  # k a of the first wave that is not plane: the first root of J1'


def quarter_wave_mm(hz: float, speed: float, across_mm: float = 0.0, corrected: float = 0.0) -> float:
    """How long a closed side pipe is that takes a frequency out [mm]: c / 4 f, less its end correction in radii."""
    return speed / (4.0 * hz) * 1000.0 - corrected * across_mm / 2


def helmholtz_hz(volume_l: float, neck_mm: float, across_mm: float, speed: float, corrected: float = 0.0) -> float:
    """The frequency of a volume behind a neck [Hz]: c / 2 pi sqrt(A / V l), both ends corrected by this many radii."""
    area = math.pi / 4 * (across_mm / 1000.0) ** 2
    long = (neck_mm + 2 * corrected * across_mm / 2) / 1000.0
    return speed / (2 * math.pi) * math.sqrt(area / (volume_l / 1000.0 * long))


def cut_on_hz(across_mm: float, speed: float) -> float:
    """Above this a round chamber carries more than plane waves, and these figures no longer hold [Hz]."""
    return FIRST_MODE * speed / (math.pi * across_mm / 1000.0)
