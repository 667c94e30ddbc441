"""A bend made of slices, or slices made one bend, with both ends where they are."""

from __future__ import annotations

import math

from ..records import Bend, Pie
from ..units import Length


def sliced(bend: Bend, turn_deg: float) -> Pie:
    """A bend made of slices that each turn at most so much [degrees]."""
    slices = math.ceil(bend.angle_deg / turn_deg - 1e-9)
    turn = bend.angle_deg / slices
    clr = Length(float(bend.clr_mm) * math.cos(math.radians(turn) / 2))  # whole wedges end at CLR / cos(turn / 2)
    return Pie(id=bend.id, locked=bend.locked, tube=bend.tube, slices=slices, turn_each_deg=turn, clr_mm=clr,
               roll_deg=bend.roll_deg)  # fmt: skip


def in_one(pie: Pie) -> Bend | None:
    """Slices made one bend; None where they turn about each other, or more than half a turn."""
    if pie.roll_each_deg or pie.turn_deg > 180.0:
        return None
    clr = Length(float(pie.clr_mm) / math.cos(math.radians(pie.turn_each_deg) / 2))
    return Bend(id=pie.id, locked=pie.locked, tube=pie.tube, angle_deg=pie.turn_deg, clr_mm=clr, roll_deg=pie.roll_deg)
