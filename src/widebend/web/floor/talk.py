"""The talk at the vehicle: what is wanted by its parts, what was seen on the way round, the sign-off."""

from __future__ import annotations

from collections.abc import Callable

from flask import Blueprint, Response, abort, redirect, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...formats.photo_files import read_photo
from ...store import files, intake, jobs
from ...store.database import Connection
from ..page.as_shown import refuse_overtaken
from ..page.at_hand import transaction
from ..page.edits import Faults
from ..page.figures import day, number, whole
from ..page.people import who_is_here
from .intake import intake_page

room = Blueprint("talk", __name__, url_prefix="/jobs/<int:job_id>/intake")

WIDE_PX, TALL_PX = 600.0, 260.0  # static/vehicle_from_above.svg


def _edit(job_id: int, change: Callable[[Connection], None]) -> ResponseReturnValue:
    try:
        with transaction() as connection:
            jobs.get(connection, job_id)
            change(connection)
    except Faults as faults:
        return intake_page(job_id, None, faults.errors, request.form.to_dict()), 409
    except (EditError, InputError) as exc:
        errors = {getattr(exc, "field", "") or "seen_words": str(exc)}
        return intake_page(job_id, None, errors, request.form.to_dict()), 422
    return redirect(url_for("intake.show", job_id=job_id), 303)


@room.post("/said")
def said(job_id: int) -> ResponseReturnValue:
    """Return the wishes by their parts, and the rules that must hold."""

    def change(connection: Connection) -> None:
        jobs.hold(connection, jobs.get(connection, job_id))
        refuse_overtaken(intake.shown(intake.get(connection, job_id)))
        intake.say(connection, job_id, request.form, day(request.form.get("promised_on"), "promised_on"))

    return _edit(job_id, change)


@room.post("/sign")
def sign(job_id: int) -> ResponseReturnValue:
    """The customer's name under what is written."""
    return _edit(job_id, lambda connection: intake.sign(connection, job_id, request.form.get("signed_name", "")))


@room.post("/seen")
def seen(job_id: int) -> ResponseReturnValue:
    """Something seen on the way round: said, then tapped where it is."""
    sent = request.files.get("picture")

    def change(connection: Connection) -> None:
        sha256 = None
        if sent and sent.filename:
            picture = read_photo(sent.read())
            sha256 = files.keep(connection, "photo", picture.jpeg)
        x, y = (number(request.form.get(key), -1.0) for key in ("at.x", "at.y"))
        if x < 0 or y < 0:
            raise EditError("tap on the drawing where it is", "seen_words")
        intake.seen(
            connection,
            job_id,
            x / WIDE_PX,
            y / TALL_PX,
            request.form.get("seen_words", ""),
            sha256,
            who_is_here(),
            not_ours=request.form.get("not_ours") == "yes",
        )

    return _edit(job_id, change)


@room.post("/unseen")
def unseen(job_id: int) -> ResponseReturnValue:
    """It was nothing."""
    mark = whole(request.form.get("mark"))
    return _edit(job_id, lambda connection: intake.unseen(connection, job_id, mark))


@room.get("/seen/<sha256>.jpg")
def picture(job_id: int, sha256: str) -> Response:
    with transaction() as connection:
        known = any(one["sha256"] == sha256 for one in intake.get(connection, job_id).seen)
        found = files.find(connection, "photo", sha256) if known else None
    if found is None:
        abort(404)
    return Response(found, mimetype="image/jpeg")
