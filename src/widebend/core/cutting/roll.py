"""A place round the tube, taped from the run's reference line."""

from __future__ import annotations

from dataclasses import dataclass

from ..space import wrapped
from .tube import round_the_tube


@dataclass(frozen=True)
class RollMark:
    """Where a bend's throat or a boss's middle lies, taped round the tube from the run's reference line."""

    roll_deg: float
    tape_mm: float
    way: str  # "clockwise", "anticlockwise" (looking against the flow), or "on the line"


def roll_mark(od_mm: float, roll_deg: float) -> RollMark:
    """The short way round the tube from the reference line to a roll.

    >>> roll_mark(63.5, 350).way, round(roll_mark(63.5, 350).tape_mm, 2)
    ('anticlockwise', 5.54)
    """
    short = wrapped(roll_deg)
    if abs(short) < 0.05:
        return RollMark(roll_deg, 0.0, "on the line")
    return RollMark(roll_deg, round_the_tube(od_mm, abs(short)), "clockwise" if short > 0 else "anticlockwise")
