"""The shop floor: lifts with the job on each and its next action, who waits for what, and a new job."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, make_response, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from ..core.records import Design, Survey
from ..store import jobs
from ..store.database import Connection, queries
from ..store.revisions import newest
from .intake import read_intake
from .progress import next_action
from .shared import HIDEABLE, UNITS, checked, transaction

room = Blueprint("floor", __name__)


@room.get("/")
def show() -> str:
    with transaction() as connection:
        open_jobs = [(job, _next(connection, job)) for job in jobs.open_jobs(connection)]
        bays = list(queries.bays(connection))
        shop = queries.shop(connection)
    by_bay = {job.bay_id: (job, action) for job, action in open_jobs if job.bay_id}
    waiting = [(job, action) for job, action in open_jobs if not job.bay_id]
    return render_template("floor.html", bays=bays, by_bay=by_bay, waiting=waiting, shop=shop)


def _next(connection: Connection, job: jobs.OpenJob) -> Any:
    design, survey = newest(connection, job.design_id), newest(connection, job.survey_id)
    return next_action(*checked(connection, design, survey, job.title, job.road_use))


@room.get("/jobs/new")
def new() -> str:
    with transaction() as connection:
        vehicles = list(queries.vehicles(connection))
    return render_template("new_job.html", vehicles=vehicles, typed={}, errors={}, step="new")


@room.post("/jobs/new")
def make() -> Any:
    typed, errors, intake = read_intake(request.form)
    with transaction() as connection:
        vehicles = list(queries.vehicles(connection))
        vehicle_id = _known_vehicle(vehicles, typed.get("vehicle_id", ""))
        if vehicle_id is None:
            for field, what, most in (("customer", "customer", 120), ("vehicle", "vehicle", 120)):
                if not typed.get(field, "").strip():
                    errors[field] = f"Who is the {what}? A name is enough." if field == "customer" else "What came in?"
                elif len(typed[field]) > most:
                    errors[field] = f"At most {most} letters."
        if len(typed.get("phone", "")) > 40:
            errors["phone"] = "At most 40 characters."
        if len(typed.get("plate", "")) > 20:
            errors["plate"] = "At most 20 characters."
        if errors or intake is None:
            return render_template("new_job.html", vehicles=vehicles, typed=typed, errors=errors), 422
        if vehicle_id is None:
            vehicle_id = jobs.add_customer_and_vehicle(
                connection, typed["customer"].strip(), typed.get("phone", "").strip(), typed["vehicle"].strip(),
                typed.get("plate", "").strip(),
            )  # fmt: skip
        from ..demo.examples import new_settings

        job_id = jobs.add(connection, vehicle_id, intake, Survey(), Design(settings=new_settings()))
    return redirect(url_for("underbody.show", job_id=job_id), 303)


def _known_vehicle(vehicles: list[dict[str, Any]], text: str) -> int | None:
    return next((int(v["id"]) for v in vehicles if str(v["id"]) == text), None)


@room.post("/jobs/<int:job_id>/bay")
def put_in_bay(job_id: int) -> Response:
    text = request.form.get("bay", "")
    with transaction() as connection:
        jobs.get(connection, job_id)
        known = {str(b["id"]): int(b["id"]) for b in queries.bays(connection)}
        jobs.put_in_bay(connection, job_id, known.get(text))
    return redirect(url_for("floor.show"), 303)


@room.post("/preferences")
def preferences() -> Response:
    """Units, which way round the strips are and what they show, remembered on this device."""
    back = request.form.get("back", "/")
    safe = back if back.startswith("/") and not back.startswith(("//", "/\\")) else "/"
    response = make_response(redirect(safe, 303))
    if request.form.get("unit") in UNITS:
        response.set_cookie("unit", request.form["unit"], max_age=31_536_000, samesite="Strict", httponly=True)
    if request.form.get("lie") in ("turned", "plain"):
        response.set_cookie("lie", request.form["lie"], max_age=31_536_000, samesite="Strict", httponly=True)
    if "show" in request.form:
        kinds = [k for k in request.form.getlist("hide") if k in HIDEABLE]
        shown = {"show": request.form["show"], "hide": ".".join(kinds), "view": request.form.get("view", "coming")}
        for key, value in shown.items():
            response.set_cookie(key, value[:40], max_age=31_536_000, samesite="Strict", httponly=True)
    return response
