"""The total of all welds of a job: one sum for the bench, the quote, the parts list and the hours."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Welds:
    """How many joints, how much is welded [mm], minutes of arc, filler [g], gas of torch and purge [l]."""

    joints: int = 0
    weld_mm: float = 0.0
    arc_min: float = 0.0
    filler_g: float = 0.0
    gas_l: float = 0.0
