"""Hours and log of a job: the clock of each step by one touch, forgotten clocks asked about, what was noted."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from flask import Blueprint, Response, abort, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.quoting import STEPS
from ...formats.photo_files import read_photo
from ...store import files, hours, quotes
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from ..page.figures import number, whole
from ..page.money import parse_money
from ..page.people import who_is_here
from .edits import office_edit

room = Blueprint("hours", __name__, url_prefix="/jobs/<int:job_id>/hours")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _page(here, FormState())


def _page(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    who = who_is_here()
    with transaction() as connection:
        planned, clocks = hours.planned(connection, here.job.id), hours.clocks(connection, here.job.id)
        mine = hours.running(connection, who) if who else None
        log, currency = hours.log(connection, here.job.id), quotes.pricing(connection).currency
    took: dict[str, float] = {}
    for clock in clocks:
        took[clock.step] = took.get(clock.step, 0.0) + clock.minutes
    rows = [
        {
            "step": step,
            "planned": planned.get(step, 0.0),
            "took": took.get(step, 0.0),
            "runs": [c.who for c in clocks if c.step == step and c.ended_at is None],
        }
        for step in STEPS
    ]
    forgotten = mine if mine and hours.is_forgotten(mine, datetime.now(UTC)) else None
    return render_template(
        "office/hours.html",
        here=here,
        step="hours",
        said=said,
        rows=rows,
        who=who,
        mine=mine,
        forgotten=forgotten,
        clocks=clocks[:12],
        log=log,
        currency=currency,
        causes=hours.CAUSES,
        kinds=hours.LOG_KINDS,
        took=sum(took.values()),
        planned=sum(planned.values()),
        most=max([*planned.values(), *took.values(), 1.0]),
    ), code


def _edit(job_id: int, change: Callable[[Connection, str], None]) -> ResponseReturnValue:
    back = url_for("hours.show", job_id=job_id)
    return office_edit(job_id, lambda connection, _, who: change(connection, who), _page, back)


@room.post("/start")
def start(job_id: int) -> ResponseReturnValue:
    """One touch: this step begins, what the same person worked at ends."""
    return _edit(job_id, lambda connection, who: hours.start(connection, job_id, request.form.get("step", ""), who))


@room.post("/stop")
def stop(job_id: int) -> ResponseReturnValue:
    """Stop the clock of this person: now, or as long after its start as a forgotten clock should have run."""

    def change(connection: Connection, who: str) -> None:
        mine, at = hours.running(connection, who), None
        if mine and request.form.get("ran"):
            ran = number(request.form.get("ran"), -1.0)
            if not 0 < ran <= 24 * 60:
                raise EditError("minutes, from 1 to a day's", "ran")
            at = min(mine["started_at"] + timedelta(minutes=ran), datetime.now(UTC))
        hours.stop(connection, who, at)

    return _edit(job_id, change)


@room.post("/correct")
def correct(job_id: int) -> ResponseReturnValue:
    """An ended clock ran for another time: forgotten, or stopped too soon."""
    clock, ran = whole(request.form.get("clock")), number(request.form.get("ran"), -1.0)
    return _edit(job_id, lambda connection, _: hours.correct_clock(connection, job_id, clock, ran))


@room.post("/drop")
def drop(job_id: int) -> ResponseReturnValue:
    """A clock that was never meant."""
    clock = whole(request.form.get("clock"))
    return _edit(job_id, lambda connection, _: hours.drop_clock(connection, job_id, clock))


@room.post("/note")
def note(job_id: int) -> ResponseReturnValue:
    """Something noted; a mistake with its cause and what it cost."""

    def change(connection: Connection, who: str) -> None:
        kind = request.form.get("kind", "note")
        if kind not in hours.LOG_KINDS:
            raise EditError(f"one of {', '.join(hours.LOG_KINDS)}", "kind")
        minutes, cost = number(request.form.get("minutes") or "0", -1.0), 0
        if not 0 <= minutes <= 10_000:
            raise EditError("minutes, from 0 to 10 000", "minutes")
        try:
            cost = parse_money(request.form.get("cost") or "0")
        except ValueError as exc:
            raise EditError(str(exc), "cost") from exc
        words = request.form.get("words", "")
        if len(words) > 2000:
            raise EditError("at most 2000 letters", "words")
        sent = request.files.get("picture")
        sha256 = files.keep(connection, "photo", read_photo(sent.read()).jpeg) if sent and sent.filename else None
        hours.note(
            connection,
            job_id,
            kind,
            words,
            who,
            sha256=sha256,
            cause=request.form.get("cause", ""),
            minutes=int(minutes),
            cost=cost,
        )  # type: ignore[arg-type]

    return _edit(job_id, change)


@room.get("/picture/<sha256>.jpg")
def picture(job_id: int, sha256: str) -> Response:
    """A picture of the log."""
    with transaction() as connection:
        known = any(one["sha256"] == sha256 for one in hours.log(connection, job_id))
        found = files.find(connection, "photo", sha256) if known else None
    if found is None:
        abort(404)
    return Response(found, mimetype="image/jpeg")
