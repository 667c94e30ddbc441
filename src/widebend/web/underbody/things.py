"""The underbody: what is there, how it moves, where one can hang from; entered, dragged, undone."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from flask import Blueprint, g, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, MissingError
from ...core.laying import biggest_tube, gap_rule, needed_gap, opened
from ...core.records import Design, Survey, Thing, Window
from ...core.survey import (
    BY_EYE,
    DRAWABLE,
    GUESS,
    LINES,
    POINTS,
    STARTERS,
    TRACK_MM,
    WHEELBASE_MM,
    checklist,
    moved,
    sizes,
    snapped,
    starter,
    stretched,
)
from ...core.units import format_length
from ...formats.survey_csv import SIDES
from ...store import jobs
from ...store.database import Connection
from ..drawing.pointing import drag_mm
from ..drawing.slice import draw_slice, slice_drag_mm
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, Unchanged, keep_survey, run_edit, step_history
from ..page.figures import number, typing_unit
from ..page.reader import Reader
from .lists import BOOKS, NOTHING, Book, before_of, travel_words
from .page import middle_of, page, window_of
from .stance_form import read_stance, show_stance, standing_words
from .thing_form import FIELDS, HEAT_SHY, NATURES, SHAPES, STATES, WAYS, choices_of_movement, read_thing, shown
from .tools import taken_with

room = Blueprint("underbody", __name__, url_prefix="/jobs/<int:job_id>/underbody")

MOST_SNAP_MM = 15.0  # zoomed far out, a face this far off is another place
SNAP_PX = 8.0
# what is drawn in: key, words, and by how many taps; none is a stroke
TOOLS = [
    (key, words, {"above": 1, "low-line": 1, "mark": 2, "hang-point": 2}.get(key, 0))
    for key, words in (DRAWABLE | LINES | POINTS).items()
]
RULE_WORDS = {
    "hard_gap_mm": "hard",
    "engine_gap_mm": "engine",
    "axle_gap_mm": "axle",
    "driveline_gap_mm": "driveline",
    "steering_gap_mm": "steering",
    "moving_gap_mm": "what moves",
    "soft_gap_mm": "soft",
    "heat_shy_gap_mm": "heat-shy",
}


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    sheet = request.args.get("sheet", "things")
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render_sheet(here, FormState(), 200, sheet=sheet)


def render_sheet(here: AtHand, said: FormState, code: int = 200, *, sheet: str = "things") -> ResponseReturnValue:
    if sheet in BOOKS:
        return page(here, said, code, sheet, _book_panel(here, said, BOOKS[sheet]))
    if sheet == "stance":
        typed = show_stance(here.design.survey, g.unit) | said.typed
        standing = standing_words(here.design.survey, g.unit)
        return page(here, said, code, sheet, {"typed": typed, "standing": standing})
    if sheet == "check":
        items = checklist(here.design.survey)
        return page(here, said, code, sheet, {"items": items, "photos": here.design.survey.photos, "of": _names(here)})
    return _things(here, said, code)


def _names(here: AtHand) -> dict[str, str]:
    """Return the choices for a picture: id and name of everything of the survey."""
    survey = here.design.survey
    lists: tuple[Any, ...] = (survey.things, survey.hang_points, survey.old_parts, survey.windows, survey.marks)
    return {item.id: item.name for items in lists for item in items}


# --- things ---------------------------------------------------------------------------------------------------------


def _things(here: AtHand, said: FormState, code: int) -> ResponseReturnValue:
    survey = here.design.survey
    wanted = said.piece or request.values.get("thing")
    thing = survey.thing(wanted) if wanted else None
    typed = shown(thing, survey, g.unit) | said.typed
    return page(
        here,
        said,
        code,
        "things",
        {
            "typed": typed,
            "rows": [_row(t, here.design) for t in survey.things],
            "shapes": _shapes(thing),
            "fields": FIELDS,
            "sides": list(SIDES),
            "moves": choices_of_movement(survey),
            "natures": NATURES,
            "states": STATES,
            "heat_shy": HEAT_SHY,
            "ways": list(WAYS),
            "drawable": TOOLS,
            "taped": _taped(thing),
            "starters": STARTERS,
            "others": _others(here) if not survey.things else [],
        },
        thing,
    )


def _taped(thing: Thing | None) -> dict[str, str]:
    """The sizes one tapes of a chosen box, as their fields show them."""
    return {key: format_length(mm, g.unit, 2, suffix=False) for key, mm in sizes(thing.shape).items()} if thing else {}


def _shapes(thing: Thing | None) -> dict[str, str]:
    """The shapes to choose from; a scan only for what is one."""
    is_mesh = thing is not None and thing.shape.type == "mesh"
    return {key: words for key, words in SHAPES.items() if key != "mesh" or is_mesh}


def _others(here: AtHand) -> list[dict[str, Any]]:
    """Vehicles whose survey can be copied."""
    with transaction() as connection:
        return jobs.surveyed_vehicles(connection, here.job.vehicle_id, here.job.vehicle)


def _row(thing: Thing, design: Design) -> dict[str, str]:
    gap = format_length(needed_gap(thing, design.settings.rules), g.unit)
    rule = gap_rule(thing)
    words = RULE_WORDS.get(rule, rule.removesuffix("_gap_mm").replace("_", " "))
    own = "own value" if thing.needed_gap_mm is not None else f"by rule: {words}"
    nature = f"{thing.nature}: {thing.heat_shy_what}" if thing.heat_shy_what else thing.nature
    group = design.survey.group(thing.moves_with)
    moves = f"{group.name or group.id}: {travel_words(group, g.unit)}" if group else ""
    doubt = f"± {format_length(thing.plus_minus_mm, g.unit)}" if thing.plus_minus_mm else ""
    return {
        "id": thing.id,
        "name": thing.name,
        "nature": nature,
        "moves": moves,
        "gap": f"{gap} {own}",
        "doubt": doubt,
        "kind": thing.nature,
        "how": thing.how_measured,
        "state": "" if thing.state == "as found" else thing.state,
    }


Change = Callable[[Survey], tuple[Survey, str]]


def edit_survey(
    job_id: int, change: Change, sheet: str = "things", said: FormState | None = None
) -> ResponseReturnValue:
    """Change the survey and keep it as a revision; then the sheet again."""
    said = said or FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        survey, why = change(here.design.survey)
        keep_survey(connection, here, Survey.model_validate(survey.model_dump()), why)

    def back() -> str:
        return url_for("underbody.show", job_id=job_id, sheet=sheet, thing=said.piece or None)

    return run_edit(job_id, said, keep, partial(render_sheet, sheet=sheet), back)


def with_item(survey: Survey, place: str, item: Any) -> Survey:
    """The survey with an item put in its list, in the place of one with the same id."""
    items = getattr(survey, place)
    known = any(i.id == item.id for i in items)
    new = tuple(item if i.id == item.id else i for i in items) if known else (*items, item)
    return survey.replace(**{place: new})


@room.post("/thing")
def put_thing(job_id: int) -> ResponseReturnValue:
    """Enter a thing, or change one."""
    said = FormState()

    def change(survey: Survey) -> tuple[Survey, str]:
        thing, group = read_thing(request.form, typing_unit(), survey)
        verb = "changed" if survey.thing(thing.id) else "entered"
        if survey.thing(thing.id):
            said.piece = thing.id
        said.note = f"{verb[0].upper()}{verb[1:]} {thing.name}: it is in the strips above."
        changed = with_item(survey, "things", thing)
        if group is not None and thing.moves_with != "body":
            changed = with_item(changed, "groups", group)
        return changed, f"{verb} {thing.name}"

    return edit_survey(job_id, change, said=said)


@room.post("/take-out")
def take_out(job_id: int) -> ResponseReturnValue:
    def change(survey: Survey) -> tuple[Survey, str]:
        gone = survey.thing(request.form.get("thing", ""))
        if gone is None:
            raise EditError("that thing is no longer in the survey")
        windows = tuple(w.replace(through=None) if w.through == gone.id else w for w in survey.windows)
        things = tuple(t for t in survey.things if t is not gone)
        return survey.replace(things=things, windows=windows), f"took out {gone.name}"

    return edit_survey(job_id, change)


# --- by hand: drag, stretch, nudge ----------------------------------------------------------------------------------


@room.post("/drag")
def drag(job_id: int) -> ResponseReturnValue:
    """Move a thing, or stretch it by a handle, by a drag of this many pixels on a strip or the slice."""
    said = FormState(piece=request.form.get("thing", ""))
    handle = request.form.get("handle", "")

    def keep(connection: Connection, here: AtHand) -> None:
        survey = here.design.survey
        thing = chosen_thing(survey)
        by, per_px = _drag_of(here)
        by, went_to = snapped(survey, thing, by, SNAP_PX * per_px, handle)
        changed, why = _shifted(survey, thing, by, handle, said, went_to)
        keep_survey(connection, here, Survey.model_validate(changed.model_dump()), why)

    return run_edit(
        job_id, said, keep, render_sheet, lambda: url_for("underbody.show", job_id=job_id, thing=said.piece)
    )


def _drag_of(here: AtHand) -> tuple[np.ndarray, float]:
    """A drag in the vehicle's frame [mm], and how many mm a pixel is."""
    dx, dy = number(request.form.get("dx"), 0.0), number(request.form.get("dy"), 0.0)
    view = request.form.get("view", "below")
    if view == "slice":
        return slice_drag_mm(dx, dy), float(slice_drag_mm(1.0, 0.0)[1])
    window = window_of(here)
    return drag_mm(window, view, dx, dy), window.span / window.width_px


def chosen_thing(survey: Survey) -> Thing:
    thing = survey.thing(request.form.get("thing", ""))
    if thing is None:
        raise EditError("that thing is no longer in the survey")
    return thing


def _shifted(
    survey: Survey, thing: Thing, by: np.ndarray, handle: str, said: FormState, went_to: tuple[str, ...] = ()
) -> tuple[Survey, str]:
    """The thing moved or stretched. A place that was only guessed is now set by eye."""
    shape = stretched(thing.shape, handle, by) if handle else moved(thing.shape, by)
    how = BY_EYE if thing.how_measured in ("", GUESS) else thing.how_measured
    changed = thing.replace(shape=shape, how_measured=how)
    words = ("back", "right", "up")
    parts = [f"{format_length(abs(v), g.unit)} {_way(words[i], v)}" for i, v in enumerate(by) if abs(v) > 0.05]
    verb = "stretched" if handle else "moved"
    snap = f", to {' and '.join(dict.fromkeys(went_to))}" if went_to else ""
    said.note = f"{verb} {thing.name} {', '.join(parts) or 'not at all'}{snap}."
    return with_item(survey, "things", changed), f"{verb} {thing.name}"


def _way(word: str, value: float) -> str:
    return word if value > 0 else {"back": "forward", "right": "left", "up": "down"}[word]


@room.post("/nudge")
def nudge(job_id: int) -> ResponseReturnValue:
    """Move the chosen thing a step, by a button."""
    said = FormState(piece=request.form.get("thing", ""))
    ways = {"forward": (0, -1), "back": (0, 1), "left": (1, -1), "right": (1, 1), "down": (2, -1), "up": (2, 1)}

    def change(survey: Survey) -> tuple[Survey, str]:
        axis, sign = ways.get(request.form.get("way", ""), (0, 0))
        by = np.zeros(3)
        by[axis] = sign * min(max(number(request.form.get("by"), 5.0), 0.1), 500.0)
        return _shifted(survey, chosen_thing(survey), by, "", said)

    return edit_survey(job_id, change, said=said)


@room.get("/slice")
def cut_at(job_id: int) -> ResponseReturnValue:
    """The slice at the cursor."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    station = number(request.args.get("cursor"), 0.0)
    thing = here.design.survey.thing(request.args.get("thing", ""))
    return render_template("page/_slice.html", slice=draw_slice(here.found, station, middle_of(thing), g.sight))


# --- travel, windows, hang points, old parts, marks -----------------------------------------------------------------


def _book_panel(here: AtHand, said: FormState, book: Book) -> dict[str, Any]:
    survey = here.design.survey
    items = getattr(survey, book.place)
    item = next((i for i in items if i.id == request.values.get("item")), None)
    typed = book.show(item, g.unit) if item else dict(book.start or {})
    typed |= said.typed if said.errors else {}
    options: dict[str, tuple[str, ...]] = {f.key: f.options for f in book.fields}
    if book.key == "windows":
        options["through"] = (NOTHING, *(t.name for t in survey.things))
        thing = survey.thing(typed.get("through", "")) if item and not said.errors else None
        typed["through"] = thing.name if thing else typed.get("through", NOTHING)
    rows = [book.tell(i, survey, g.unit) for i in items]
    more = {i.id: _passes(i, here.design) for i in survey.windows} if book.key == "windows" else {}
    return {"book": book, "item": item, "typed": typed, "rows": rows, "options": options, "more": more}


def _passes(window: Window, design: Design) -> str:
    """The biggest tube that passes a window, and why it is not cut out when it is not."""
    most = biggest_tube(window, design.settings.rules)
    words = f"biggest tube with its gap: {format_length(most, g.unit)}" if most else "no tube passes with its gap"
    thing = design.survey.thing(window.through) if window.through else None
    why = opened(thing, design.survey)[1] if thing else ""
    return f"{words}. Not cut out: {why}" if why else words


@room.post("/book/<key>")
def put_item(job_id: int, key: str) -> ResponseReturnValue:
    """Enter or change one item of a list."""
    book = _book(key)

    def change(survey: Survey) -> tuple[Survey, str]:
        items = getattr(survey, book.place)
        known = request.form.get("item", "")
        item_id = known if any(i.id == known for i in items) else _free_id(book, {i.id for i in items})
        was = next((i for i in items if i.id == item_id), None)
        reader = Reader(request.form, typing_unit(), before_of(book, was, typing_unit()) if was else None)
        if reader.unchanged:
            raise Unchanged
        item = book.read(reader, survey, item_id)
        verb = "changed" if any(i.id == item.id for i in items) else "entered"
        changed = with_item(survey, book.place, item)
        if isinstance(item, Window) and item.through:
            _refuse_uncut(changed, item)
        return changed, f"{verb} {item.name or item.id}"

    return edit_survey(job_id, change, key)


def _refuse_uncut(survey: Survey, window: Window) -> None:
    thing = survey.thing(window.through or "")
    why = opened(thing, survey)[1] if thing else ""
    if why:
        raise EditError(why, "through")


def _free_id(book: Book, taken: set[str]) -> str:
    """A new item's id; travel is known by the group it is of."""
    if book.key == "travel":
        return ""
    return next(f"{book.key[0]}{n}" for n in range(1, 1000) if f"{book.key[0]}{n}" not in taken)


@room.post("/book/<key>/take-out")
def take_out_item(job_id: int, key: str) -> ResponseReturnValue:
    book = _book(key)

    def change(survey: Survey) -> tuple[Survey, str]:
        items = getattr(survey, book.place)
        gone = next((i for i in items if i.id == request.form.get("item")), None)
        if gone is None:
            raise EditError("that is no longer in the survey")
        if book.key == "travel":
            held = [t.name for t in survey.things if t.moves_with == gone.id]
            if held:
                raise EditError(f"{', '.join(held[:3])} moves with it: let that move with the body or another first")
        left = tuple(i for i in items if i is not gone)
        return survey.replace(**{book.place: left}), f"took out {gone.name or gone.id}"

    return edit_survey(job_id, change, key)


def _book(key: str) -> Book:
    if key not in BOOKS:
        raise MissingError("there is no such list")
    return BOOKS[key]


# --- stance, lines, check-list --------------------------------------------------------------------------------------


@room.post("/lines")
def put_lines(job_id: int) -> ResponseReturnValue:
    """How the vehicle stands, the low lines and the rails."""

    def change(survey: Survey) -> tuple[Survey, str]:
        tools = taken_with(request.form)
        return read_stance(
            Reader(request.form, typing_unit()), survey
        ), f"stance and lines{f' ({tools})' if tools else ''}"

    return edit_survey(job_id, change, "stance")


@room.post("/tick")
def tick(job_id: int) -> ResponseReturnValue:
    """Tick a line of the check-list, or take the tick away."""

    def change(survey: Survey) -> tuple[Survey, str]:
        item = request.form.get("item", "")
        if item not in {i.id for i in checklist(survey)}:
            raise EditError("that line is not on the check-list")
        ticked = set(survey.ticked) ^ {item}
        return survey.replace(ticked=tuple(sorted(ticked))), "check-list"

    return edit_survey(job_id, change, "check")


# --- something to start from ----------------------------------------------------------------------------------------


@room.post("/start-from")
def start_from(job_id: int) -> ResponseReturnValue:
    """Start from a layout, scaled to the vehicle: every thing is a guess until measured."""

    said = FormState()

    def change(_survey: Survey) -> tuple[Survey, str]:
        key = request.form.get("starter", "")
        if key not in STARTERS:
            raise EditError("choose a layout to start from")
        reader, usual = Reader(request.form, typing_unit()), STARTERS[key]
        wheelbase = reader.length("wheelbase", *WHEELBASE_MM) if reader.given("wheelbase") else usual.wheelbase_mm
        track = reader.length("track", *TRACK_MM) if reader.given("track") else usual.track_mm
        reader.finish()
        said.note = f"Started from {usual.words}: every figure is a guess until you measure it."
        return starter(key, wheelbase, track), f"started from: {usual.words}"

    return edit_survey(job_id, change, said=said)


@room.post("/copy")
def copy_survey(job_id: int) -> ResponseReturnValue:
    """Copy the survey of another vehicle: its figures stay as they were measured there."""

    def keep(connection: Connection, here: AtHand) -> None:
        vehicle = int(number(request.form.get("vehicle"), 0))
        keep_survey(connection, here, jobs.survey_of_vehicle(connection, vehicle), "copied from another vehicle")

    return run_edit(job_id, FormState(), keep, render_sheet, lambda: url_for("underbody.show", job_id=job_id))


@room.post("/history")
def history(job_id: int) -> ResponseReturnValue:
    """Undo or redo."""
    said = FormState()
    sheet = request.form.get("sheet", "things")

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.survey_id, request.form.get("which", "undo"))

    return run_edit(
        job_id,
        said,
        move,
        partial(render_sheet, sheet=sheet),
        lambda: url_for("underbody.show", job_id=job_id, sheet=sheet),
    )
