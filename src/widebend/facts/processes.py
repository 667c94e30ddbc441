"""Ways of welding, and what is true of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

Process = Literal["TIG", "MIG", "stick", "gas"]


@dataclass(frozen=True)
class ProcessFacts:
    """Facts about a welding process: the thinnest tube that it does not burn through [mm], arc travel [mm/min] and
    volts on thin tube (common practice, no source), and its thermal efficiency (EN 1011-1, from memory).
    """

    thinnest_mm: float
    travel_mm_min: float
    volts: float
    efficiency: float


PROCESSES: Mapping[Process, ProcessFacts] = {
    "TIG": ProcessFacts(thinnest_mm=0.5, travel_mm_min=80.0, volts=10.0, efficiency=0.6),
    "MIG": ProcessFacts(thinnest_mm=0.8, travel_mm_min=350.0, volts=17.0, efficiency=0.8),
    "stick": ProcessFacts(thinnest_mm=1.5, travel_mm_min=150.0, volts=22.0, efficiency=0.8),
    "gas": ProcessFacts(thinnest_mm=0.8, travel_mm_min=60.0, volts=0.0, efficiency=1.0),
}
