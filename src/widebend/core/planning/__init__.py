"""Which job is worked at on which day, by whom: promises hold, lifts are enough, nobody does two days in one.

Glossary: a *task* is what is left of a job in hours, the day it may begin and the day it is promised for; a *share* is
hours of one person at one task on one day; a *mend* is one change by which every promise holds again.
"""

from .week import Mend, Share, Task, Week, mends, planned_week

__all__ = ["Mend", "Share", "Task", "Week", "mends", "planned_week"]
