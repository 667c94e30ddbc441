"""Figures of a sound log: one figure of several readings, whether they count, and how far a prediction was off."""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from ..records import Design, SoundLimit, SoundReading
from .stationary import STATIONARY

LEAST_OFF_DB, FAR_OFF_DB = 3.0, 8.0  # how far a forecast may be off, with many tests and with none: common practice
AS_BUILT = "as built"  # what was on when the system was finished: this corrects the next forecast


@dataclass(frozen=True)
class Judged:
    """A test's figure, rounded as the standard has it [dB(A)], and what speaks against it in words."""

    reading: SoundReading
    db_a: int
    faults: tuple[str, ...]


def judged(reading: SoundReading) -> Judged:
    """Readings of one test as one figure: their mean, rounded. ISO 5130, from memory: three within 2 dB, all else
    10 dB quieter.
    """
    faults = []
    if len(reading.readings) < STATIONARY.readings:
        faults.append(f"{len(reading.readings)} of the {STATIONARY.readings} readings wanted")
    spread = max(reading.readings) - min(reading.readings)
    if spread > STATIONARY.within_db:
        faults.append(f"they lie {spread:.1f} dB apart: within {STATIONARY.within_db:g} is wanted")
    mean = statistics.fmean(reading.readings)
    if reading.around_db is not None and mean - reading.around_db < STATIONARY.quieter_db:
        faults.append(
            f"it was only {mean - reading.around_db:.1f} dB quieter around: {STATIONARY.quieter_db:g} is wanted"
        )
    return Judged(reading, int(mean + 0.5), tuple(faults))


def over(judged_: Judged, limits: Sequence[SoundLimit]) -> list[tuple[SoundLimit, float]]:
    """Each limit of the same test with how far the figure is over it; under it is less than nothing."""
    return [(limit, judged_.db_a - float(limit.db_a)) for limit in limits if limit.test == judged_.reading.test]


def off_by(readings: Sequence[SoundReading]) -> list[float]:
    """How much louder than calculated each system was as it was built [dB]; tests in the cabin do not count."""
    return [
        judged(r).db_a - float(r.reckoned_db)
        for r in readings
        if r.fitted == AS_BUILT and r.reckoned_db is not None and r.test != "cruise in the cabin"
    ]


@dataclass(frozen=True)
class Forecast:
    """The predicted level of a test, with its range [dB(A)]."""

    low: float
    usual: float
    high: float


def forecast(reckoned_db: float, off: Sequence[float]) -> Forecast:
    """Return the predicted level corrected by how far finished systems were off it; the more there are the surer."""
    usual = reckoned_db + (statistics.fmean(off) if off else 0.0)
    doubt = max(LEAST_OFF_DB, FAR_OFF_DB / math.sqrt(1 + len(off)))
    return Forecast(usual - doubt, usual, usual + doubt)


def noted(design: Design, reading: SoundReading) -> Design:
    """The design with a test in its log. Raises EditError."""
    return design.replace(sounds=(*design.sounds, reading)).validated()


def struck(design: Design, reading_id: str) -> Design:
    """The design without a test. Raises EditError."""
    return design.replace(sounds=tuple(s for s in design.sounds if s.id != reading_id)).validated()


def free_id(design: Design) -> str:
    """Return the name of the next test."""
    taken = {s.id for s in design.sounds}
    return next(f"s{n}" for n in range(1, 200) if f"s{n}" not in taken)
