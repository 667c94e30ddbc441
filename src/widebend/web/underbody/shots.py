"""Photos in: from a phone or a file, one by one or many at once, or by the simulated phone; looked at and let go."""

from __future__ import annotations

import time
from dataclasses import replace

from flask import Blueprint, Response, abort, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from werkzeug.datastructures import FileStorage

from ...core.errors import EditError, InputError
from ...core.photos import BAR_MM, edge_on
from ...core.tagged import Tagged, long_tape, stick, stood, taped_mm, view
from ...formats.tag_photos import read_tag_photo
from ...instruments.stand_in_phone import photograph
from ...instruments.tag_finder import look
from ...store import tag_photos
from ...store.database import Connection
from ..page.at_hand import at_hand, transaction
from ..page.edits import FormState
from ..page.figures import whole
from ..page.instruments import tool_of
from ..page.people import who_is_here
from .camera import page
from .placed_tags import wanted_set

room = Blueprint("shots", __name__, url_prefix="/jobs/<int:job_id>/underbody/camera")

WALK = 24  # photos of the simulated phone's walk along the vehicle; it begins again after them
MOST_AT_ONCE, LONGEST_WALK_S = 6, 1.2


@room.post("/photos")
def photos_in(job_id: int) -> ResponseReturnValue:
    """Photos, many at once: each is looked at by itself, and one that cannot be read stops none of the others."""
    sent = [one for one in request.files.getlist("photos") if one.filename]
    if not sent:
        return _refused(job_id, "choose photos first")
    answers, refused = [], []
    for one in sent:
        try:
            with one.stream as stream:
                answers.append(_keep(job_id, stream.read())[0])
        except (InputError, EditError) as exc:
            refused.append(f"{_name(one)}: {exc}")
    if request.form.get("one") == "yes":  # sent one by one: the answer is a line of the list
        return render_template(
            "underbody/_photo_answer.html", answers=answers, refused=refused
        ), 422 if refused else 200
    if refused:
        return _refused(job_id, "; ".join(refused))
    return redirect(url_for("camera.show", job_id=job_id, set=wanted_set()), 303)


def _name(one: FileStorage) -> str:
    return (one.filename or "")[:60]


def _keep(job_id: int, content: bytes) -> tuple[str, bool]:
    """One photo kept: what it saw, in words, and whether it is new. Raises InputError or EditError."""
    photo = read_tag_photo(content)
    found = look(photo.jpeg)
    with transaction() as connection:
        at_hand(connection, job_id)
        kept = tag_photos.add(connection, job_id, photo, found.seen, found.trouble, who_is_here(), wanted_set())
    numbers = ", ".join(str(one.number) for one in sorted(found.seen, key=lambda one: one.number))
    said = f"tags {numbers}" if numbers else "no tag"
    flat = edge_on(found.seen)
    more = f"; nearly edge-on: {', '.join(map(str, flat))}" if flat else ""
    words = f"{said}{more}{f'; {found.trouble}' if found.trouble else ''}{'' if kept else '; it was here already'}"
    return words, kept is not None


def _refused(job_id: int, words: str) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return page(here, FormState(errors={"photos": words}), 422)


@room.post("/shoot")
def shoot(job_id: int) -> ResponseReturnValue:
    """The simulated phone walks on: it photographs what this job has, with tags stuck on, and says what it taped. Where
    that takes long it stops on the way: pressed again, it goes on from there.
    """
    which, many = wanted_set(), min(MOST_AT_ONCE, max(1, whole(request.form.get("many"))))
    try:
        phone = tool_of("phone")
        with transaction() as connection:
            here = at_hand(connection, job_id)
            taken = sum(one.in_set == which for one in tag_photos.of_job(connection, job_id))
        tagged = stood(stick(here.design, fitted=which == "fitted"), here.design, which)
        k, until = taken, time.monotonic() + LONGEST_WALK_S
        while many and k < tag_photos.MOST_PHOTOS and time.monotonic() < until:
            turn, eye = view(tagged, k % WALK, WALK, seed=1 + k // WALK)
            many -= _keep(job_id, photograph(phone.address, tagged, turn, eye, seed=k))[1]
            k += 1
        with transaction() as connection:
            _tell(connection, job_id, tagged)
    except (InputError, EditError) as exc:
        return _refused(job_id, str(exc))
    return redirect(url_for("camera.show", job_id=job_id, set=which), 303)


def _tell(connection: Connection, job_id: int, tagged: Tagged) -> None:
    """Return defaults beside simulated photos: the bar, a tape as long as what was seen often allows, the
    rails' heights, what each tag is on.
    """
    was = tag_photos.known(connection, job_id)
    tape = long_tape(tagged, [kept.photo for kept in tag_photos.of_job(connection, job_id)])
    tapes = ((tape.first, tape.second, tape.length_mm),) if tape else ()
    stuck = {tag.number: tag for tag in tagged.stuck}
    ours = all(a in stuck and b in stuck and taped_mm(stuck[a], stuck[b]) == mm for a, b, mm in was.tapes)
    rails = [float(stuck[number].place[2]) for number in (270, 272) if number in stuck]
    tag_photos.set_known(
        connection,
        job_id,
        replace(
            was,
            bar_mm=was.bar_mm or BAR_MM,
            tapes=tapes if ours else was.tapes,
            names={**tagged.names, **was.names},
            rail_heights_mm=was.rail_heights_mm or ((rails[0], rails[1]) if len(rails) > 1 else None),
        ),
    )


@room.post("/let-go")
def delete_photo(job_id: int) -> ResponseReturnValue:
    """The person lets a photo go; or all of a set."""
    with transaction() as connection:
        at_hand(connection, job_id)
        if request.form.get("photo") == "all":
            for one in tag_photos.of_job(connection, job_id):
                if one.in_set == wanted_set():
                    tag_photos.delete_photo(connection, job_id, one.id)
        else:
            tag_photos.delete_photo(connection, job_id, whole(request.form.get("photo")))
    return redirect(url_for("camera.show", job_id=job_id, set=wanted_set()), 303)


@room.get("/photo/<int:photo_id>.jpg")
def photo_shown(job_id: int, photo_id: int) -> Response:
    with transaction() as connection:
        found = tag_photos.pixels(connection, job_id, photo_id)
    if found is None:
        abort(404)
    return Response(found, mimetype="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})
