"""The work left of a job as a task on the days that are worked; a day is its number, as a calendar counts them."""

from __future__ import annotations

from collections.abc import Sequence

from .week import SLOT_H, Task

UNPLANNED_H = 8.0  # of a job nobody has estimated: a day, to be seen at all. Common practice, no source
TOGETHER = 2  # people at one vehicle at once: the same


def left_h(planned_h: float, taken_h: float) -> float:
    """Hours left of a job, by halves and never less than one: it is not done before somebody says so.

    >>> left_h(10.0, 3.3), left_h(0.0, 1.0), left_h(4.0, 9.0)
    (6.5, 7.0, 0.5)
    """
    return max(SLOT_H, round(((planned_h or UNPLANNED_H) - taken_h) / SLOT_H) * SLOT_H)


def task_of(
    name: str, planned_h: float, taken_h: float, days: Sequence[int], *, begins: int | None, promised: int | None
) -> Task:
    """Return the work left of a job on these days: not before it can begin; a promise beyond them binds nothing yet.

    >>> task = task_of("a", 3.0, 0.0, [10, 11, 14], begins=12, promised=13)
    >>> task.first_day, task.promised_day
    (2, 1)
    """
    last = len(days) - 1
    first = next((k for k, day in enumerate(days) if day >= begins), last) if begins is not None else 0
    by = None
    if promised is not None and promised <= days[-1]:
        by = max((k for k, day in enumerate(days) if day <= promised), default=0)
    return Task(name, left_h(planned_h, taken_h), first, by, TOGETHER)
