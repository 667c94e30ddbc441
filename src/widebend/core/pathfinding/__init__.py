"""The search for ways of bends and straights between two ends past everything.

Glossary: a *task* is what is asked in numbers, a *way* a line through corner points, each rounded by its bend; the
*field* says how much room is at a place; a way is *polished* when it is made as cheap as it gets, *snapped* when
its angles are of the set.
"""

from .field import solid_boxes
from .pieces import pieces_of
from .polish import FINE, WIDE, all_polished
from .search import ATTEMPTS, fewer, find
from .snap import Snapped, snapped
from .task import MISFITS_BELOW, RouteCandidate, Task, apart, at_equal_shares, distinct, judged, task_of

__all__ = [
    "ATTEMPTS",
    "FINE",
    "MISFITS_BELOW",
    "WIDE",
    "RouteCandidate",
    "Snapped",
    "Task",
    "all_polished",
    "apart",
    "at_equal_shares",
    "distinct",
    "fewer",
    "find",
    "judged",
    "pieces_of",
    "snapped",
    "solid_boxes",
    "task_of",
]
