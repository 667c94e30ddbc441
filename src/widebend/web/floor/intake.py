"""Intake: who, what vehicle, the complaint, what is wanted, where it will be driven."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...store import intake, jobs
from ..page.as_shown import refuse_overtaken, stamp
from ..page.at_hand import at_hand, transaction
from ..page.edits import Faults

room = Blueprint("intake", __name__)

LIMITS = {"title": 120, "wanted": 4000, "complaint": 4000, "found_removed": 1000, "waits_for": 200}


def read_intake(form: Mapping[str, str]) -> tuple[dict[str, str], dict[str, str], jobs.Intake | None]:
    """Return the typed fields, their errors, and the intake where there are none."""
    typed = {key: value.replace("\x00", "") for key, value in form.items() if key != "csrf_token"}
    errors = {
        field: f"At most {most} characters, this is {len(typed[field])}."
        for field, most in LIMITS.items()
        if len(typed.get(field, "")) > most
    }
    if not typed.get("title", "").strip():
        errors["title"] = "What is the job? For example: cat-back, 2 1/2 in, 304."
    use = typed.get("road_use", "road")
    if use not in ("road", "closed course"):
        errors["road_use"] = "Road, or closed course."
    if errors:
        return typed, errors, None
    names = ("title", "wanted", "complaint", "found_removed")
    values = {name: typed.get(name, "").strip() for name in names}
    return typed, errors, jobs.Intake(**values, road_use=use)


@room.get("/jobs/<int:job_id>/intake")
def show(job_id: int) -> str:
    return intake_page(job_id, None, {})


def intake_page(
    job_id: int, typed: dict[str, str] | None, errors: dict[str, str], talked: dict[str, str] | None = None
) -> str:
    """The page; `typed` into the first words, `talked` into the rest, where something of it was refused."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        talk = intake.get(connection, job_id)
    values: dict[str, Any] = typed or _asked_for(here.job)
    return render_template(
        "floor/intake.html",
        here=here,
        step="intake",
        typed=values,
        errors=errors,
        talk=talk,
        asked=intake.ASKED,
        talked=talked or {},
        as_shown=stamp(_asked_for(here.job)),
        talk_shown=stamp(intake.shown(talk)),
    )


def _asked_for(job: jobs.Job) -> dict[str, str]:
    """Return the intake as the form shows it."""
    return {
        key: getattr(job, key) for key in ("title", "wanted", "complaint", "road_use", "found_removed", "waits_for")
    }


@room.post("/jobs/<int:job_id>/intake")
def change(job_id: int) -> ResponseReturnValue:
    typed, errors, taken = read_intake(request.form)
    if taken is None:
        return intake_page(job_id, typed, errors), 422
    try:
        with transaction() as connection:
            job = jobs.get(connection, job_id)
            jobs.hold(connection, job)
            refuse_overtaken(_asked_for(jobs.get(connection, job_id)))
            jobs.change(connection, job_id, taken, typed.get("waits_for", "").strip())
    except Faults as faults:
        return intake_page(job_id, typed, faults.errors), 409
    return redirect(url_for("underbody.show", job_id=job_id), 303)
