"""A photo by itself: the planned pipe in it, and spots without a tag, pointed at in two photos."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...core.photos import PlacedPhoto, Solved, line_of_sight, spot
from ...core.units import format_length
from ...store import tag_photos
from ...store.database import Connection
from ..drawing.in_photo import draw_in_photo
from ..page.at_hand import at_hand, transaction
from ..page.edits import FormState
from ..page.figures import number
from .placed_tags import FIRST, have_placed, placing_of, sights_of

room = Blueprint("pointing", __name__, url_prefix="/jobs/<int:job_id>/underbody/camera")

SHOWN_PX = 1200.0  # how wide a photo is shown to be tapped


@room.get("/over/<int:photo_id>")
def over(job_id: int, photo_id: int) -> ResponseReturnValue:
    """The planned pipe over a photo, before there is metal."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        photo = next((one for one in tag_photos.of_job(connection, job_id) if one.id == photo_id), None)
    which = photo.in_set if photo else FIRST
    have_placed(job_id, which)
    with transaction() as connection:
        placing = placing_of(connection, here, which)
    solved, known = placing.solved, placing.known
    placed = next((p for p in solved.photos if p.name == str(photo_id)), None) if solved else None
    if photo is None or solved is None or solved.lacking or placed is None:
        raise InputError("that photo has no place under the vehicle yet")
    return render_template(
        "underbody/in_photo.html",
        here=here,
        step="underbody",
        photo=placed,
        pipes=draw_in_photo(here.system, placed),
        wide=photo.photo.width,
        high=photo.photo.height,
        which=photo.in_set,
        said=FormState(),
        name=request.args.get("name", "")[:80],
        others=[p.name for p in solved.photos],
        spots=[_spot_row(name, sights, solved, placed) for name, sights in known.spots.items()],
    )


def _spot_row(
    name: str, sights: Mapping[int, tuple[float, float]], solved: Solved, photo: PlacedPhoto
) -> dict[str, Any]:
    """A spot as this photo shows it: where it was pointed at here, where else it can be, what is known of its place."""
    seen, why, where = sights_of(solved, sights), "", ""
    try:
        there = spot(seen)
        at = ", ".join(format_length(float(v), g.unit, 1, suffix=False) for v in there.place)
        where = f"{at}, ± {format_length(there.plus_minus_mm, g.unit, 1)}"
    except InputError as exc:
        why = str(exc)
    lines = [
        " ".join(f"{x:.0f},{y:.0f}" for x, y in line_of_sight(other, pixel, photo))
        for other, pixel in seen
        if other.name != photo.name
    ]
    return {
        "name": name,
        "here": sights.get(int(photo.name)),
        "lines": lines,
        "where": where,
        "why": why,
        "count": len(seen),
    }


@room.post("/point/<int:photo_id>")
def point(job_id: int, photo_id: int) -> ResponseReturnValue:
    """Where a spot is in a photo, by a tap on it; tapped again it is there instead."""
    name = " ".join(request.form.get("name", "").split())[:80]

    def change(connection: Connection) -> None:
        known = tag_photos.known(connection, job_id)
        photo = next((one.photo for one in tag_photos.of_job(connection, job_id) if one.id == photo_id), None)
        x, y = (number(request.form.get(key), -1.0) for key in ("at.x", "at.y"))
        if photo is None or not name or x < 0 or y < 0:
            raise EditError("say what the spot is, then tap it in the photo", "photos")
        wide = max(1.0, number(request.form.get("wide"), SHOWN_PX))
        at = x * photo.width / wide, y * photo.width / wide
        spots = {**known.spots, name: {**known.spots.get(name, {}), photo_id: at}}
        tag_photos.set_known(connection, job_id, replace(known, spots=spots))

    return _changed(job_id, change, url_for("pointing.over", job_id=job_id, photo_id=photo_id, name=name))


@room.post("/forget")
def forget(job_id: int) -> ResponseReturnValue:
    """A spot was pointed at wrongly: it is let go."""

    def change(connection: Connection) -> None:
        known = tag_photos.known(connection, job_id)
        left = {name: sights for name, sights in known.spots.items() if name != request.form.get("name")}
        tag_photos.set_known(connection, job_id, replace(known, spots=left))

    return _changed(job_id, change, url_for("camera.show", job_id=job_id))


def _changed(job_id: int, change: Callable[[Connection], None], back: str) -> ResponseReturnValue:
    with transaction() as connection:
        at_hand(connection, job_id)
        try:
            change(connection)
        except EditError as exc:  # nothing is typed there but a name, and that is in the address
            raise InputError(str(exc)) from exc
    return redirect(back, 303)
