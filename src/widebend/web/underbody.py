"""The underbody: things entered by numbers and seen in the strips at once."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, g, render_template, request, url_for

from ..core.obstacles import needed_gap
from ..core.records import Design, LowLine, Rails, Survey, Thing
from ..core.review import Review
from ..core.units import format_length
from ..demo.examples import estate_survey, first_survey, hatch_survey
from ..store.database import Connection
from .drawing.strips import draw_strips
from .edits import Said, keep_survey, run_edit, step_history
from .progress import steps
from .shared import AtHand, Window, at_hand, is_htmx, transaction, typing_unit, window_from_request
from .survey_form import FIELDS, MOVES, NATURES, SHAPES, SIDES, STATES, Reader, read_thing, shown

room = Blueprint("underbody", __name__)

SAMPLES = {
    "estate": ("estate, rear-drive, live axle", estate_survey),
    "hatch": ("hatchback, engine bay and tunnel", hatch_survey),
    "plain": ("plain floor, one crossmember, tank", first_survey),
}


@room.get("/jobs/<int:job_id>/underbody")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, Said())


def _render(here: AtHand, said: Said, code: int = 200) -> Any:
    survey = here.design.survey
    wanted = request.values.get("thing") if request.method == "GET" or said.errors else None
    thing = next((t for t in survey.things if t.id == wanted), None)
    typed = shown(thing, survey, g.unit) | (said.typed if said.errors else {})
    if "shape" in request.args and request.args["shape"] in SHAPES:
        typed |= {k: v for k, v in request.args.items() if k in typed or k in ("name", "shape")}
    window = _window(here)
    context = {
        "here": here, "line": steps(here.design, here.found, here.job.road_use), "step": "underbody", "said": said,
        "picture": draw_strips(here.design, here.found, window, None, things_only=True), "thing": thing,
        "typed": typed, "rows": _rows(here.design), "revision": here.survey_revision.number, "shapes": SHAPES,
        "fields": FIELDS, "sides": list(SIDES), "moves": MOVES, "natures": NATURES, "states": STATES,
        "samples": {key: words for key, (words, _) in SAMPLES.items()}, "lines": _lines(survey, said),
        "can_undo": here.survey_revision.back is not None, "can_redo": here.survey_revision.forward is not None,
    }  # fmt: skip
    return render_template("_underbody_bench.html" if is_htmx() else "underbody.html", **context), code


def _window(here: AtHand) -> Window:
    """The window asked for; without one, all things, not only the pipe."""
    survey = here.design.survey
    if "from_mm" in request.values and request.values.get("sight") != "fit":
        return window_from_request(here.found, survey)
    bare = Review(here.found.system.__class__((), (), (), ()), here.found.obstacles, (), ())
    return window_from_request(bare, survey)


def _rows(design: Design) -> list[dict[str, str]]:
    """The things found, in words."""
    return [_row(thing, design) for thing in design.survey.things]


def _row(thing: Thing, design: Design) -> dict[str, str]:
    gap = format_length(needed_gap(thing, design.settings.rules), g.unit)
    own = "own value" if thing.needed_gap_mm is not None else "by rule"
    nature = f"{thing.nature}: {thing.heat_shy_what}" if thing.heat_shy_what else thing.nature
    group = design.survey.group(thing.moves_with)
    moves = ""
    if group:
        heights = [float(s.shift[2]) for s in group.states]
        droop, bump = format_length(-min(heights), g.unit), format_length(max(heights), g.unit)
        moves = f"{group.name or group.id}: {droop} down, {bump} up"
    doubt = f"± {format_length(thing.plus_minus_mm, g.unit)}" if thing.plus_minus_mm else ""
    return {"id": thing.id, "name": thing.name, "nature": nature, "moves": moves, "gap": f"{gap} {own}",
            "doubt": doubt, "kind": thing.nature,
            "state": "" if thing.state == "as found" else thing.state}  # fmt: skip


def _lines(survey: Survey, said: Said) -> dict[str, str]:
    """The survey's own lines as the form's fields."""
    if any(k in said.errors for k in ("low", "left", "right")):
        return {k: said.typed.get(k, "") for k in ("low", "left", "right")}

    def text(value: float | None) -> str:
        return "" if value is None else format_length(value, g.unit, 2, suffix=False)

    rails = survey.rails
    return {
        "low": text(survey.low_line.d if survey.low_line else None),
        "left": text(rails.left_y_mm if rails else None),
        "right": text(rails.right_y_mm if rails else None),
    }


def _edit(job_id: int, change: Any) -> Any:
    said = Said()

    def keep(connection: Connection, here: AtHand) -> None:
        survey, why = change(here.design.survey)
        keep_survey(connection, here, Survey.model_validate(survey.model_dump()), why)

    return run_edit(job_id, said, keep, _render, lambda: url_for("underbody.show", job_id=job_id))


@room.post("/jobs/<int:job_id>/underbody/thing")
def put_thing(job_id: int) -> Any:
    """Enter a thing, or change one."""

    def change(survey: Survey) -> tuple[Survey, str]:
        thing, group = read_thing(request.form, typing_unit(), survey)
        known = any(t.id == thing.id for t in survey.things)
        things = tuple(thing if t.id == thing.id else t for t in survey.things) if known else (*survey.things, thing)
        groups = tuple(g_ for g_ in survey.groups if group is None or g_.id != group.id)
        groups = (*groups, group) if group else groups
        verb = "changed" if known else "entered"
        return survey.model_copy(update={"things": things, "groups": groups}), f"{verb} {thing.name}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/underbody/take-out")
def take_out(job_id: int) -> Any:
    def change(survey: Survey) -> tuple[Survey, str]:
        gone = next((t for t in survey.things if t.id == request.form.get("thing")), None)
        if gone is None:
            raise LookupError("that thing is no longer in the survey")
        return survey.model_copy(
            update={"things": tuple(t for t in survey.things if t is not gone)}
        ), f"took out {gone.name}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/underbody/lines")
def put_lines(job_id: int) -> Any:
    """The low line and the rails' inner edges."""

    def change(survey: Survey) -> tuple[Survey, str]:
        reader = Reader(request.form, typing_unit())
        low = reader.length("low", 0.0, 1500.0) if request.form.get("low", "").strip() else None
        rails = None
        if request.form.get("left", "").strip() or request.form.get("right", "").strip():
            left, right = reader.length("left"), reader.length("right")
            if not reader.errors and left >= right:
                reader.errors["right"] = (
                    "the right rail must lie to the right of the left one (left of centre is minus)"
                )
            rails = (left, right)
        reader.finish()
        update: dict[str, Any] = {
            "low_line": LowLine(d=low) if low is not None else None,
            "rails": Rails(left_y_mm=rails[0], right_y_mm=rails[1]) if rails else None,
        }
        return survey.model_copy(update=update), "low line and rails"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/underbody/sample")
def start_from_sample(job_id: int) -> Any:
    """Start from a sample: every thing is a guess until measured."""

    def change(_survey: Survey) -> tuple[Survey, str]:
        words, make = SAMPLES.get(request.form.get("sample", ""), (None, None))
        if make is None:
            raise LookupError("there is no such sample")
        sample = make()
        things = tuple(t.model_copy(update={"how_measured": "a guess until measured"}) for t in sample.things)
        return sample.model_copy(update={"things": things}), f"started from the sample: {words}"

    return _edit(job_id, change)


@room.post("/jobs/<int:job_id>/underbody/history")
def history(job_id: int) -> Any:
    """Undo or redo."""
    said = Said()

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.survey_id, request.form.get("which", "undo"))

    return run_edit(job_id, said, move, _render, lambda: url_for("underbody.show", job_id=job_id))
