"""The board: jobs by what each waits for, hours today, the coming days of lifts and people, what mends a promise."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta
from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.planning import Remedy, Task, Week, left_h, mends, planned_week, task_of
from ...store import board, hours, jobs, people, quotes
from ...store.board import BoardJob
from ..page.at_hand import in_memory, transaction
from ..page.edits import FormState
from ..page.figures import day

room = Blueprint("board", __name__, url_prefix="/board")

DAYS = 10
COLUMNS = (
    ("", "can be worked at"),
    ("part", "waits for a part"),
    ("customer", "waits for the customer"),
    ("lift", "waits for a lift"),
    ("hands", "waits for hands"),
)
WIDE_PX, NAME_PX, ROW_PX, HEAD_PX = 1240.0, 90.0, 46.0, 26.0


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


def _page(said: FormState, code: int = 200) -> ResponseReturnValue:
    today = date.today()
    with transaction() as connection:
        every, lifts = board.jobs_on_board(connection), len(jobs.bays(connection))
        staff = [p["name"] for p in people.everybody(connection) if not p["gone"] and p["role"] != "front desk"]
        today_h, running = board.hours_today(connection), hours.all_running(connection)
        day_h = quotes.pricing(connection).day_hours
    days = worked_days(today, DAYS)
    tasks = [task for job in every if (task := _task(job, days))]
    hands = staff or ["somebody"]
    week, found = _planned(tuple(tasks), tuple(hands), max(1, lifts), day_h)
    titles = {str(job.id): job for job in every}
    columns = [(key, words, [_card(job, week, days) for job in every if job.waits_on == key]) for key, words in COLUMNS]
    return render_template(
        "office/board.html",
        said=said,
        columns=columns,
        days=days,
        drawing=_draw(week, hands, days, titles),
        late=[titles[one] for one in week.late],
        mends=[_say(m, titles, days) for m in found],
        today_h=today_h,
        running=running,
        waits=board.WAITS,
        unplanned=[job for job in every if not job.planned],
        day_h=day_h,
    ), code


def _planned(tasks: tuple[Task, ...], hands: tuple[str, ...], lifts: int, day_h: float) -> tuple[Week, list[Remedy]]:
    """The plan and what mends it, kept while nothing of it changes: left hours count by halves."""

    def work() -> tuple[Week, list[Remedy]]:
        week = planned_week(tasks, hands, lifts, DAYS, day_h)
        return week, list(mends(tasks, hands, lifts, DAYS, day_h, week)) if week.late else []

    kept = in_memory("kept")
    return kept.get(("week", tasks, hands, lifts, day_h, date.today()), work)


def worked_days(first: date, count: int) -> list[date]:
    """This many days from Monday to Friday.

    >>> [d.isoformat() for d in worked_days(date(2026, 11, 27), 3)]
    ['2026-11-27', '2026-11-30', '2026-12-01']
    """
    found: list[date] = []
    while len(found) < count:
        if first.weekday() < 5:
            found.append(first)
        first += timedelta(days=1)
    return found


def _task(job: BoardJob, days: list[date]) -> Task | None:
    """Return the work left of a job; None where nobody knows how long it waits."""
    if job.waits_on in ("part", "customer") and job.waits_until is None:
        return None
    begins, promised = (day.toordinal() if day else None for day in (job.waits_until, job.promised_on))
    numbers = [day.toordinal() for day in days]
    return task_of(str(job.id), job.planned, job.taken, numbers, begins=begins, promised=promised)


def _card(job: BoardJob, week: Week, days: list[date]) -> dict[str, Any]:
    on = week.done_on.get(str(job.id))
    return {
        "job": job,
        "done": days[on] if on is not None else None,
        "late": str(job.id) in week.late,
        "left": left_h(job.planned, job.taken) if job.planned else None,
    }


def _say(mend: Remedy, titles: dict[str, BoardJob], days: list[date]) -> str:
    if mend.kind == "longer":
        more = f"{mend.figure:.0f} hour{'s' if mend.figure != 1 else ''}"
        return f"work {more} longer a day"
    if mend.kind == "hand":
        return "one more pair of hands, today and the next day"
    job = titles[mend.task]
    return f"tell {job.customer} that job {job.id} is done on {days[int(mend.figure)]:%a %d %b}"


def _draw(week: Week, hands: list[str], days: list[date], titles: dict[str, BoardJob]) -> dict[str, Any]:
    """The days as a picture: a row a person, a column a day, what they work at as wide as it takes."""
    wide = (WIDE_PX - NAME_PX) / len(days)
    most = max([1.0, *_sums(week).values()])
    blocks: list[dict[str, Any]] = []
    at: dict[tuple[str, int], float] = defaultdict(float)
    for share in week.shares:
        per = (wide - 6) / most
        blocks.append(
            {
                "x": NAME_PX + share.day * wide + at[share.person, share.day] * per,
                "w": share.hours * per,
                "y": HEAD_PX + hands.index(share.person) * ROW_PX,
                "task": share.task,
                "hours": share.hours,
                "late": share.task in week.late,
                "title": f"{titles[share.task].title}, {share.hours:g} h",
            }
        )
        at[share.person, share.day] += share.hours
    heads = [{"x": NAME_PX + k * wide, "text": f"{d:%a %d}"} for k, d in enumerate(days)]
    return {
        "blocks": blocks,
        "heads": heads,
        "tall": HEAD_PX + len(hands) * ROW_PX,
        "wide": WIDE_PX,
        "names": [{"text": name, "y": HEAD_PX + k * ROW_PX} for k, name in enumerate(hands)],
    }


def _sums(week: Week) -> dict[tuple[str, int], float]:
    sums: dict[tuple[str, int], float] = defaultdict(float)
    for share in week.shares:
        sums[share.person, share.day] += share.hours
    return sums


@room.post("/jobs/<int:job_id>")
def promise(job_id: int) -> ResponseReturnValue:
    """Set a job's promise and what it waits for."""
    said = FormState(piece=str(job_id))
    try:
        with transaction() as connection:
            jobs.get(connection, job_id)
            promised, until = (day(request.form.get(key), key) for key in ("promised_on", "waits_until"))
            board.promise(
                connection, job_id, promised, request.form.get("waits_on", ""), until, request.form.get("waits_for", "")
            )
    except EditError as exc:
        said.errors, said.typed = {exc.field: str(exc)}, request.form.to_dict()
        return _page(said, 422)
    return redirect(url_for("board.show"), 303)
