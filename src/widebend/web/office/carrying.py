"""Import and export: a whole job as a bundle, lists of jobs and customers as tables."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterator, Sequence
from typing import Any

from flask import Blueprint, Response, abort, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import DesignError, EditError
from ...formats import survey_bundle
from ...formats.csv_cells import as_text
from ...formats.job_bundle import JobBundle, read_job, write_job
from ...store import files, hours, jobs
from ...store.board import listed
from ...store.database import Connection
from ..page.at_hand import at_hand, transaction
from ..page.people import who_is_here

room = Blueprint("carrying", __name__)

LISTS = {
    "jobs": ("job", "title", "state", "vehicle", "plate", "customer", "came in", "promised"),
    "customers": ("customer", "phone", "vehicles", "jobs", "last here"),
}


@room.get("/jobs/<int:job_id>/bundle.zip")
def bundle(job_id: int) -> Response:
    """A whole job, for another shop: without who the customer is."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        survey = here.design.survey
        meshes = {n: b for n in survey_bundle.mesh_names(survey) if (b := files.find(connection, "mesh", n))}
        photos = {p.sha256: b for p in survey.photos if (b := files.find(connection, "photo", p.sha256))}
        words = {
            key: str(getattr(here.job, key))
            for key in ("title", "wanted", "complaint", "road_use", "found_removed", "vehicle")
        } | {"plate": ""}
        log = [
            {key: one[key] for key in ("kind", "words", "cause", "minutes")} for one in hours.log(connection, job_id)
        ]
        made = JobBundle(
            words, here.design, survey_bundle.Bundle(survey, meshes, photos), hours.planned(connection, job_id), log
        )
    return Response(
        write_job(made),
        mimetype="application/zip",
        headers={"Content-Disposition": f'attachment; filename="job-{job_id}.zip"'},
    )


@room.get("/take-in")
def show() -> ResponseReturnValue:
    return render_template("office/take_in.html", wrong="")


@room.post("/take-in")
def take_in() -> ResponseReturnValue:
    """A job from another shop's bundle, with numbers of our own."""
    sent = request.files.get("bundle")
    try:
        if not sent or not sent.filename:
            raise EditError("choose the bundle of a job")
        made = read_job(sent.read())
        with transaction() as connection:
            job_id = _kept(connection, made, who_is_here())
    except (DesignError, EditError) as exc:
        return render_template("office/take_in.html", wrong=str(exc)), 422
    return redirect(url_for("intake.show", job_id=job_id), 303)


def _kept(connection: Connection, made: JobBundle, who: str) -> int:
    for content in made.survey.meshes.values():
        files.keep(connection, "mesh", content)
    for content in made.survey.photos.values():
        files.keep(connection, "photo", content)
    words = made.words
    vehicle = jobs.add_customer_and_vehicle(connection, "from another shop", "", words["vehicle"], words["plate"])
    intake = jobs.Intake(words["title"], words["wanted"], words["complaint"], words["road_use"], words["found_removed"])
    job_id = jobs.add(connection, vehicle, intake, made.survey.survey, made.design)
    hours.plan(connection, job_id, made.planned)
    for one in reversed(made.log):
        kind = next((k for k in hours.LOG_KINDS if k == one["kind"]), hours.LOG_KINDS[0])
        hours.note(
            connection,
            job_id,
            kind,
            one["words"] or "-",
            who,
            minutes=one["minutes"],
            cause=one["cause"] if one["cause"] in hours.CAUSES else "other",
        )
    return job_id


@room.get("/lists/<what>.<kind>")
def table(what: str, kind: str) -> Response:
    """Jobs or customers as a table."""
    if what not in LISTS or kind not in ("csv", "xlsx"):
        abort(404)
    with transaction() as connection:
        rows = [LISTS[what], *_rows(connection, what)]
    headers = {"Content-Disposition": f'attachment; filename="{what}.{kind}"'}
    if kind == "csv":
        out = io.StringIO()
        csv.writer(out, lineterminator="\r\n").writerows([as_text(str(cell)) for cell in row] for row in rows)
        return Response("\ufeff" + out.getvalue(), mimetype="text/csv", headers=headers)
    from ...formats.tables import write_table

    return Response(
        write_table(what, rows),
        headers=headers,
        mimetype="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
    )


def _rows(connection: Connection, what: str) -> Iterator[Sequence[Any]]:
    for row in listed(connection, what):
        yield ["" if value is None else value for value in row.values()]
