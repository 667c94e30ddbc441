"""Tasks laid into days, people and lifts: an integer program (CP-SAT) with a fixed seed and little time.

A day is an index from 0, worked days only. Of two plans the one with less lateness wins (a day late weighs as much as
WEIGH_LATE days on a lift), then the one that is done soonest on few days of lifts.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

SLOT_H = 0.5  # hours are given out by halves
WEIGH_LATE, WEIGH_OPEN, WEIGH_NEVER = 200, 3, 100
SECONDS, SEED = 0.5, 7


@dataclass(frozen=True)
class Task:
    """The work left of a job: hours, the first day it may be worked at, the last day it is promised for, if it is; how
    many people can be at it at once.
    """

    id: str
    hours: float
    first_day: int = 0
    promised_day: int | None = None
    most_people: int = 1


@dataclass(frozen=True)
class Share:
    """Hours of one person at one task on one day."""

    task: str
    day: int
    person: str
    hours: float


@dataclass(frozen=True)
class Week:
    """A plan: its shares by day, the day each task is done (None: not within the days), those that come too late."""

    shares: tuple[Share, ...]
    done_on: dict[str, int | None]
    late: tuple[str, ...]
    proven: bool


@dataclass(frozen=True)
class Remedy:
    """One change that lets every promise hold: *longer* (hours more a day), *hand* (one more for some days), *later* (a
    promise moved to a day).
    """

    kind: str
    task: str = ""
    figure: float = 0.0


def planned_week(
    tasks: Sequence[Task], people: Sequence[str], lifts: int, days: int, day_hours: float, spare: Sequence[str] = ()
) -> Week:
    """The best plan of some days; `spare` are people who help on the first two days only."""
    from ortools.sat.python import cp_model

    model = cp_model.CpModel()
    slots = max(1, round(day_hours / SLOT_H))
    everybody = [*people, *spare]
    here = {(p, d): p in people or d < 2 for p in everybody for d in range(days)}
    need = {t.id: max(1, -(-round(t.hours / SLOT_H * 1000) // 1000)) for t in tasks}
    x = {
        (t.id, d, p): model.new_int_var(0, slots if here[p, d] and d >= t.first_day else 0, f"x{k}-{d}-{q}")
        for k, t in enumerate(tasks)
        for d in range(days)
        for q, p in enumerate(everybody)
    }
    works = {(t.id, d): model.new_bool_var(f"w{k}-{d}") for k, t in enumerate(tasks) for d in range(days)}
    open_on = {(t.id, d): model.new_bool_var(f"o{k}-{d}") for k, t in enumerate(tasks) for d in range(days)}
    cost = []
    for t in tasks:
        done = [sum(x[t.id, e, p] for e in range(d + 1) for p in everybody) for d in range(days)]
        model.add(done[-1] <= need[t.id])
        for d in range(days):
            hands = [x[t.id, d, p] for p in everybody]
            model.add(sum(hands) <= slots * len(everybody) * works[t.id, d])
            model.add(sum(hands) <= slots * t.most_people)
            model.add(done[d] >= need[t.id] * (1 - open_on[t.id, d]))  # not open at the day's end: all of it is done
            cost.append((WEIGH_NEVER if d == days - 1 else WEIGH_OPEN) * open_on[t.id, d])
            cost.append(works[t.id, d])
            if t.promised_day is not None and d >= t.promised_day:
                cost.append(WEIGH_LATE * open_on[t.id, d])
    for d in range(days):
        for p in everybody:
            model.add(sum(x[t.id, d, p] for t in tasks) <= slots)
        model.add(sum(works[t.id, d] for t in tasks) <= lifts)
    model.minimize(sum(cost))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds, solver.parameters.random_seed = SECONDS, SEED
    solver.parameters.num_workers = 1
    state = solver.solve(model)
    if state not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Week((), {t.id: None for t in tasks}, tuple(t.id for t in tasks if t.promised_day is not None), False)
    shares = tuple(Share(t, d, p, value * SLOT_H) for (t, d, p), var in x.items() if (value := solver.value(var)))
    done_on = {t.id: next((d for d in range(days) if not solver.value(open_on[t.id, d])), None) for t in tasks}
    late = tuple(
        t.id for t in tasks if t.promised_day is not None and ((on := done_on[t.id]) is None or on > t.promised_day)
    )
    return Week(
        tuple(sorted(shares, key=lambda s: (s.day, s.person, s.task))), done_on, late, state == cp_model.OPTIMAL
    )


def mends(
    tasks: Sequence[Task], people: Sequence[str], lifts: int, days: int, day_hours: float, week: Week
) -> Iterator[Remedy]:
    """Return remedies that let every promise hold, the least first: an hour or two more a day, one more hand for two
    days, one promise moved.
    """
    for more in (1.0, 2.0):
        if not planned_week(tasks, people, lifts, days, day_hours + more).late:
            yield Remedy("longer", figure=more)
            break
    if not planned_week(tasks, people, lifts, days, day_hours, ["one more"]).late:
        yield Remedy("hand", figure=2)
    for late in week.late:
        moved = [replace(t, promised_day=None) if t.id == late else t for t in tasks]
        other = planned_week(moved, people, lifts, days, day_hours)
        on = other.done_on[late]
        if not other.late and on is not None:
            yield Remedy("later", late, on)
