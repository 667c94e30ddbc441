"""Drawn in by hand: things, lines and points put in by strokes and taps on the strips, and taped sizes typed over."""

from __future__ import annotations

from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.records import Survey, Thing
from ...core.space import Vector
from ...core.survey import AXES, called, draw_in, resized, sizes, snapped_place
from ...core.units import format_length
from ...store.database import Connection
from ..drawing.pointing import place_mm
from ..page.at_hand import AtHand
from ..page.edits import FormState, Unchanged, keep_survey, run_edit
from ..page.figures import number, tape_step, typing_unit
from ..page.reader import Reader
from .page import window_of
from .things import MOST_SNAP_MM, SNAP_PX, chosen_thing, edit_survey, render_sheet, with_item

room = Blueprint("by_hand", __name__, url_prefix="/jobs/<int:job_id>/underbody")

MOST_PLACE_MM = 9000.0


@room.post("/draw")
def draw(job_id: int) -> ResponseReturnValue:
    """Put in what was drawn on the strips: what its pixels mean, and what they snap to, is said here."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        survey, places = here.design.survey, [_place_of(here, end) for end in ("0", "1")]
        made = draw_in(survey, request.form.get("shape", ""), places, request.form.get("of", ""))
        said.piece, said.note = made.thing, made.said
        keep_survey(connection, here, Survey.model_validate(made.survey.model_dump()), f"drew {made.name}")

    return run_edit(
        job_id, said, keep, render_sheet, lambda: url_for("underbody.show", job_id=job_id, thing=said.piece or None)
    )


def _place_of(here: AtHand, end: str) -> tuple[str, Vector]:
    """The strip of one end of what was drawn, and the place on it, snapped; unsaid, the second is on the first's."""

    def said(key: str) -> str:
        return request.form.get(f"{key}{end}") or request.form.get(f"{key}0", "")

    window, view = window_of(here), said("view")
    view = view if view in AXES else "below"
    x, y, top, height, middle = (number(said(key), 0.0) for key in ("x", "y", "top", "height", "middle"))
    within = min(SNAP_PX * window.span / window.width_px, MOST_SNAP_MM)
    place = place_mm(window, view, (x, y), top, height, middle)
    return view, snapped_place(here.design.survey, view, place, within, tape_step(g.unit))


@room.post("/size")
def size(job_id: int) -> ResponseReturnValue:
    """Type over what the chosen thing is called and, of a box, its taped sizes."""
    said = FormState(piece=request.form.get("thing", ""))

    def change(survey: Survey) -> tuple[Survey, str]:
        thing = chosen_thing(survey)
        changed, words = _typed_over(thing, Reader(request.form, typing_unit()))
        if not words:
            raise Unchanged
        said.note = f"{changed.name}: {', '.join(words)}."
        return with_item(survey, "things", changed), said.note

    return edit_survey(job_id, change, said=said)


def _typed_over(thing: Thing, reader: Reader) -> tuple[Thing, list[str]]:
    """The thing as its name and sizes were typed over, and what that changed in words. Raises Faults."""
    shape, words, name = thing.shape, [], reader.words("name") or thing.name
    if name != thing.name:
        thing, told = called(thing, name)
        words += [f"called {name}", *([f"taken as heat-shy, a {told}"] if told else [])]
    for key, mm in sizes(thing.shape).items():
        if not reader.given(key) or reader.form.get(key) == format_length(mm, g.unit, 2, suffix=False):
            continue
        wanted = float(reader.length(key, -MOST_PLACE_MM, MOST_PLACE_MM))
        if key not in reader.errors:
            shape = resized(shape, key, wanted)
            words.append(f"{key} {format_length(wanted, g.unit)}")
    reader.finish()
    if shape is not thing.shape:
        thing = thing.replace(shape=shape, how_measured="taped")
    return thing, words
