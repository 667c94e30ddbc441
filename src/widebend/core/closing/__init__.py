"""Bends and straights that lead from one end to another exactly, from the shop's angles or any.

Glossary: an *answer* is steps that meet the end, its *rank* orders answers by a cost; *ways* are what may be used
(radii, angles, shortest straight); a *sliver* is a straight so short that nobody cuts it.
"""

from .closed import Answer, BendOptions, Change, changes_that_work, close, why_not
from .cost import bend_cost
from .slivers import LEAST_ANGLE_DEG, without_slivers

__all__ = [
    "LEAST_ANGLE_DEG",
    "Answer",
    "BendOptions",
    "Change",
    "bend_cost",
    "changes_that_work",
    "close",
    "why_not",
    "without_slivers",
]
