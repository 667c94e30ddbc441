"""The shop floor: lifts with the job on each and its next action, who waits for what, and a new job."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from typing import Any

import psycopg
from flask import Blueprint, abort, current_app, make_response, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from pydantic import ValidationError
from werkzeug.wrappers import Response

from ... import demo
from ...core.errors import DesignError, InputError
from ...core.nesting import plan_from_kept
from ...core.records import Design, Survey
from ...store import job_stock, jobs, people
from ...store.database import Connection
from ...store.revisions import newest_of_each
from ..drawing.codes import code_of
from ..page.access import safe_path
from ..page.at_hand import opened, transaction
from ..page.figures import UNITS, whole
from ..page.made_by import made_by
from ..page.progress import NextAction, next_action
from ..page.sight import HIDEABLE
from .intake import read_intake

room = Blueprint("floor", __name__)

WALK_IN, UNTITLED = "walk-in", "exhaust"


MOST_WORKED_OUT = 6  # jobs whose next action is worked out while the floor is drawn; the rest follow at the next look


@room.get("/")
def show() -> str:
    return _page()


def _page(taken: dict[str, Any] | None = None) -> str:
    """The floor; `taken`: which job should go to a lift on which another stands."""
    with transaction() as connection:
        open_jobs = [(job, action) for job, action in _with_actions(connection)]
        bays = jobs.bays(connection)
        shop, is_demo = jobs.shop_name(connection), jobs.is_demo(connection)
        away = jobs.count_in_states(connection, "done", "put away")
    by_bay = {job.bay_id: (job, action) for job, action in open_jobs if job.bay_id}
    waiting = [(job, action) for job, action in open_jobs if not job.bay_id]
    later = sum(action.words == LATER.words for _, action in open_jobs)
    return render_template(
        "floor/floor.html",
        bays=bays,
        by_bay=by_bay,
        waiting=waiting,
        shop=shop,
        away=away,
        later=later,
        is_demo=is_demo,
        taken=taken,
        join=_join(current_app.config["JOIN_AT"]),
    )


def _join(at: str) -> dict[str, str] | None:
    """Where tablets join, and that as a code to be photographed; None where only this machine is served."""
    if not at:
        return None
    return {"at": at, "code": code_of(at)}


LATER = NextAction("route", "Open it", "next action not worked out yet")
BROKEN = NextAction("underbody", "This job cannot be checked", "its record is damaged: see the log")


def _with_actions(connection: Connection) -> Iterator[tuple[jobs.OpenJob, NextAction]]:
    """Open jobs with their next action: as it was worked out last where nothing it hangs on has changed."""
    rules = hashlib.sha256(jobs.rules(connection).model_dump_json().encode()).hexdigest()[:16]
    left = MOST_WORKED_OUT
    for job in jobs.open_jobs(connection):
        made_from = f"{made_by()} {rules} {job.survey_revision} {job.design_revision} {job.road_use} {job.nest_made}"
        if job.made_from == made_from and job.step and job.words:
            yield job, NextAction(job.step, job.words, job.figure or "")
        elif left:
            left -= 1
            yield job, _worked_out(connection, job, made_from)
        else:
            yield job, LATER


def _worked_out(connection: Connection, job: jobs.OpenJob, made_from: str) -> NextAction:
    """The next action of a job. One whose record cannot be read is set aside, and that is kept; a fault of another kind
    may pass: it is looked at again the next time.
    """
    try:
        design, survey = newest_of_each(connection, job.design_id, job.survey_id)
        was = job_stock.taken(connection, job.id)
        whole = opened(connection, design, survey, job.title, job.road_use, view="coming")
        readable = whole.design
    except (DesignError, InputError, ValidationError):
        current_app.logger.exception("the record of job %s cannot be read", job.id)
        return _kept(connection, job, made_from, BROKEN)
    try:
        action = next_action(readable, whole.found, plan_from_kept(was.nest) if was else {})
    except psycopg.Error:
        raise
    except Exception:
        current_app.logger.exception("job %s cannot be checked now", job.id)
        return LATER
    return _kept(connection, job, made_from, action)


def _kept(connection: Connection, job: jobs.OpenJob, made_from: str, action: NextAction) -> NextAction:
    """The action, kept for the next look; where nothing can be written the floor is shown all the same."""
    try:
        with connection.transaction():
            jobs.keep_summary(connection, job.id, made_from, action.step, action.words, action.figure)
    except psycopg.OperationalError:
        current_app.logger.warning("the summary of job %s is not kept", job.id, exc_info=True)
    return action


@room.get("/jobs/away")
def away() -> str:
    """Show the jobs that were handed over, put away or deleted, to be brought back."""
    with transaction() as connection:
        found = jobs.in_states(connection, "done", "put away", "deleted")
    kept = [job for job in found if job["state"] != "deleted"]
    gone = [job for job in found if job["state"] == "deleted"]
    return render_template("page/away.html", kept=kept, gone=gone)


@room.post("/jobs/<int:job_id>/state")
def set_state(job_id: int) -> Response:
    """Put away, delete, or bring back; a job is handed over on its own page, where what is left open is asked about."""
    state = request.form.get("state", "")
    if state not in jobs.STATES or state == "done":
        abort(400)
    with transaction() as connection:
        jobs.get(connection, job_id)
        jobs.set_state(connection, job_id, state)
    return redirect(url_for("floor.show" if request.form.get("from") == "floor" else "floor.away"), 303)


@room.post("/demo/put-away")
def put_demo_away() -> Response:
    """Begin a shop of one's own where the demo stands."""
    with transaction() as connection:
        if not jobs.is_demo(connection):
            return redirect(url_for("floor.show"), 303)
        demo.put_away(connection)
        password = people.first_owner(connection)
        if password:  # whoever does this is the owner: signed in at once, and asked for a password of their own
            who = people.known(connection, "owner", request.remote_addr or "")
            assert who is not None and who.row is not None  # just made
            key = people.begin_session(connection, who.row["id"], request.user_agent.string, request.remote_addr or "")
            session["key"] = key
    return make_response(render_template("people/first_owner.html", password=password))


@room.get("/jobs/new")
def new() -> str:
    chosen = request.args.get("vehicle", "")
    with transaction() as connection:
        vehicles = jobs.vehicles(connection, whole(chosen))
    return render_template("floor/new_job.html", vehicles=vehicles, typed={"vehicle_id": chosen}, errors={}, step="new")


@room.post("/jobs/new")
def make() -> ResponseReturnValue:
    # what is not said yet gets a plain name, to be changed at Intake: only the vehicle must be told from others
    unsaid = {"customer": WALK_IN, "title": UNTITLED}
    given = {key: value for key, value in request.form.items() if value.strip() or key not in unsaid}
    typed, errors, intake = read_intake(unsaid | given)
    with transaction() as connection:
        vehicles = jobs.vehicles(connection, whole(typed.get("vehicle_id", "")))
        vehicle_id = _known_vehicle(vehicles, typed.get("vehicle_id", ""))
        if vehicle_id is None:
            if not typed.get("vehicle", "").strip():
                errors["vehicle"] = "What came in? For example: van, rear-drive."
            errors |= {key: "At most 120 letters." for key in ("customer", "vehicle") if len(typed.get(key, "")) > 120}
        if len(typed.get("phone", "")) > 40:
            errors["phone"] = "At most 40 characters."
        if len(typed.get("plate", "")) > 20:
            errors["plate"] = "At most 20 characters."
        if errors or intake is None:
            return render_template("floor/new_job.html", vehicles=vehicles, typed=typed, errors=errors), 422
        if vehicle_id is None:
            vehicle_id = jobs.add_customer_and_vehicle(
                connection,
                typed["customer"].strip(),
                typed.get("phone", "").strip(),
                typed["vehicle"].strip(),
                typed.get("plate", "").strip(),
            )
        from ...demo.examples import new_settings

        job_id = jobs.add(connection, vehicle_id, intake, Survey(), Design(settings=new_settings()))
    return redirect(url_for("underbody.show", job_id=job_id), 303)


def _known_vehicle(vehicles: list[dict[str, Any]], text: str) -> int | None:
    return next((int(v["id"]) for v in vehicles if str(v["id"]) == text), None)


@room.post("/jobs/<int:job_id>/bay")
def put_in_bay(job_id: int) -> Response:
    """Put a job on a lift or take it off; where another stands there, that is asked first: it would have to wait."""
    text = request.form.get("bay", "")
    with transaction() as connection:
        jobs.get(connection, job_id)
        known = {str(b["id"]): b for b in jobs.bays(connection)}
        bay = int(known[text]["id"]) if text in known else None
        stands = jobs.in_bay(connection, bay) if bay else None
        if stands not in (None, job_id, whole(request.form.get("instead_of"))):
            taken = {"job": job_id, "bay": bay, "name": known[text]["name"], "stands": stands}
            return make_response(_page(taken), 409)
        jobs.put_in_bay(connection, job_id, bay)
    return redirect(url_for("floor.show"), 303)


@room.post("/preferences")
def preferences() -> Response:
    """Units, which way round the strips are and what they show, remembered on this device."""
    response = make_response(redirect(safe_path(request.form.get("back", "/")), 303))
    if request.form.get("unit") in UNITS:
        response.set_cookie("unit", request.form["unit"], max_age=31_536_000, samesite="Strict", httponly=True)
    if request.form.get("lie") in ("turned", "plain"):
        response.set_cookie("lie", request.form["lie"], max_age=31_536_000, samesite="Strict", httponly=True)
    if request.form.get("gas") in ("on", "off"):
        response.set_cookie("gas", request.form["gas"], max_age=31_536_000, samesite="Strict", httponly=True)
    if "show" in request.form:
        kinds = [k for k in request.form.getlist("hide") if k in HIDEABLE]
        shown = {"show": request.form["show"], "hide": ".".join(kinds), "view": request.form.get("view", "coming")}
        for key, value in shown.items():
            response.set_cookie(key, value[:40], max_age=31_536_000, samesite="Strict", httponly=True)
    return response
