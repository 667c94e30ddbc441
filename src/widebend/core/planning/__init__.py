"""Which job is worked at on which day, by whom: promises hold, lifts are enough, nobody does two days in one.

Glossary: a *task* is what is left of a job in hours, the day it may begin and the day it is promised for; a *share* is
hours of one person at one task on one day; a *mend* is one change by which every promise holds again.
"""

from .days import UNPLANNED_H, left_h, task_of
from .week import Remedy, Share, Task, Week, mends, planned_week

__all__ = [
    "UNPLANNED_H",
    "Remedy",
    "Share",
    "Task",
    "Week",
    "left_h",
    "mends",
    "planned_week",
    "task_of",
]
