"""Plans by hand: capacity, lifts, first days and promises; and that a mend mends."""

from __future__ import annotations

import random
from collections import defaultdict

from widebend.core.planning import Task, Week, mends, planned_week


def _holds(week: Week, tasks: list[Task], people: list[str], lifts: int, day_hours: float) -> None:
    """What no plan may break, counted from its shares."""
    by_person: dict[tuple[str, int], float] = defaultdict(float)
    by_task: dict[str, float] = defaultdict(float)
    on_day: dict[int, set[str]] = defaultdict(set)
    for share in week.shares:
        by_person[share.person, share.day] += share.hours
        by_task[share.task] += share.hours
        on_day[share.day].add(share.task)
        assert share.day >= next(t.first_day for t in tasks if t.id == share.task)
        assert share.person in people
    assert max(by_person.values(), default=0) <= day_hours
    assert max((len(some) for some in on_day.values()), default=0) <= lifts
    for task in tasks:
        on = week.done_on[task.id]
        assert (on is not None) == (by_task[task.id] >= task.hours)


def test_the_promised_one_goes_first() -> None:
    tasks = [Task("free", 7.0), Task("promised", 7.0, promised_day=0)]
    week = planned_week(tasks, ["Ada"], 2, 5, 7.0)
    _holds(week, tasks, ["Ada"], 2, 7.0)
    assert week.done_on == {"promised": 0, "free": 1}
    assert week.proven


def test_one_lift_lets_one_vehicle_in_a_day() -> None:
    tasks = [Task("a", 3.0), Task("b", 3.0)]
    two = planned_week(tasks, ["Ada", "Bo"], 2, 5, 7.0)
    one = planned_week(tasks, ["Ada", "Bo"], 1, 5, 7.0)
    assert sorted(two.done_on.values()) == [0, 0]
    assert sorted(one.done_on.values()) == [0, 1]


def test_a_part_that_comes_later_makes_it_begin_later() -> None:
    week = planned_week([Task("a", 2.0, first_day=3)], ["Ada"], 1, 5, 7.0)
    assert week.done_on == {"a": 3}


def test_a_promise_that_cannot_hold_is_said_with_what_mends_it() -> None:
    """16 hours by the second day, one person of 7 hours: an hour more a day does it; so does another hand."""
    tasks = [Task("a", 16.0, promised_day=1, most_people=2)]
    week = planned_week(tasks, ["Ada"], 2, 6, 7.0)
    assert week.late == ("a",)
    found = {m.kind: m for m in mends(tasks, ["Ada"], 2, 6, 7.0, week)}
    assert found["longer"].figure == 1.0
    assert "hand" in found
    assert (found["later"].task, found["later"].figure) == ("a", 2)


def test_plans_keep_within_what_there_is() -> None:
    rng = random.Random(5)
    for _ in range(6):
        tasks = [
            Task(f"t{k}", rng.randint(2, 24) / 2, rng.randint(0, 3), rng.choice([None, 3, 5]))
            for k in range(rng.randint(2, 8))
        ]
        _holds(planned_week(tasks, ["Ada", "Bo"], 2, 10, 7.0), tasks, ["Ada", "Bo"], 2, 7.0)
