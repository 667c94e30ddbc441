"""Edits of the Fit step: a piece goes on, is measured, welded, comes off; an answer is taken."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from flask import Blueprint, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...core.fitting import AsBuilt, as_built, as_it_rides, measure, noted, put_on, take_off, unmeasure, weld
from ...core.records import Design, Measured, Settings
from ...core.units import Length
from ...core.wording import ANGLE_KINDS, FIT_WORDS
from ...formats.photo_files import read_photo
from ...store import files
from ...store.database import Connection
from ..page.at_hand import AtHand
from ..page.edits import FormState, keep_design, run_edit, step_history
from ..page.figures import is_htmx, number, typing_unit
from ..page.people import who_is_here
from ..page.reader import Reader
from .card import render_card
from .page import CLOCKED, found_answers, marks_of, render

room = Blueprint("fit_edits", __name__, url_prefix="/jobs/<int:job_id>/fit")

Change = Callable[[AtHand, str, str, FormState], tuple[Design, str]]
FARTHEST_MM, MOST_DEG = 20_000.0, 360.0


def _edit(job_id: int, change: Change) -> ResponseReturnValue:
    """An edit of the fit log; the page it came from again."""
    run, piece = request.form.get("run", ""), request.form.get("piece", "")
    on_card = request.form.get("from") == "card"
    said = FormState(piece=piece)

    def keep(connection: Connection, here: AtHand) -> None:
        design, why = change(here, run, piece, said)
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    place = "fit_card.show" if on_card else "fit.show"
    back = url_for(place, job_id=job_id, run=run, piece=said.piece or None)
    if request.form.get("from") == "weld":
        back = url_for("weld.show", job_id=job_id)
    answer = run_edit(job_id, said, keep, render_card if on_card else render, lambda: back)
    elsewhere = is_htmx() and request.form.get("from") == "weld" and not said.errors and said.refused is None
    return ("", {"HX-Redirect": back}) if elsewhere else answer


def _number(design: Design, run_id: str, piece_id: str) -> int:
    run = design.run(run_id)
    return next((k + 1 for k, p in enumerate(run.pieces) if p.id == piece_id), 0) if run else 0


def _now() -> str:
    return f"{datetime.now().astimezone():%Y-%m-%d %H:%M}"


@room.post("/on")
def on(job_id: int) -> ResponseReturnValue:
    """A piece is tacked on, and with it what lies between it and the start, or the finish."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        from_finish = request.form.get("side") == "finish"
        design = put_on(here.design, run, piece, who_is_here(), _now(), from_finish=from_finish)
        more = len(design.fitted) - len(here.design.fitted)
        with_it = f", and {more - 1} that it hangs on" if more > 1 else ""
        return design, f"tacked piece {_number(design, run, piece)}{with_it}"

    return _edit(job_id, change)


@room.post("/off")
def off(job_id: int) -> ResponseReturnValue:
    """A piece comes off again, and with it what hangs on it."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        design = take_off(here.design, run, piece)
        gone = len(here.design.fitted) - len(design.fitted)
        with_it = f", and {gone - 1} that hung on it" if gone > 1 else ""
        return design, f"took piece {_number(design, run, piece)} off{with_it}: drawn as planned again"

    return _edit(job_id, change)


@room.post("/weld")
def welded(job_id: int) -> ResponseReturnValue:
    """The joint ahead of a piece is welded through."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        return weld(here.design, run, piece), f"welded the joint ahead of piece {_number(here.design, run, piece)}"

    return _edit(job_id, change)


@room.post("/measure")
def measured(job_id: int) -> ResponseReturnValue:
    """Keep readings at a piece's end: one measure by its kind, or several of the card at once."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        now = as_built(here.design, run)
        if now is None:
            raise EditError("the run has no start or no pipe yet")
        taken = read_measures(here, now, piece)
        design = measure(here.design, run, piece, taken)
        many = f"{len(taken)} measures" if len(taken) > 1 else FIT_WORDS[taken[0].kind].partition(",")[0]
        return design, f"kept {many} of piece {_number(design, run, piece)}"

    return _edit(job_id, change)


def read_measures(here: AtHand, now: AsBuilt, piece_id: str) -> list[Measured]:
    """The measures of a form, `value-KIND` with `doubt-KIND` each. Raises Faults, EditError."""
    reader = Reader(request.form, typing_unit())
    kinds = [kind for kind in FIT_WORDS if reader.given(f"value-{kind}")]
    taken = []
    for kind in kinds:
        to, mark = _taped_to(here, reader) if kind == "tape" else (None, "")
        if kind in ANGLE_KINDS:
            value = reader.number(f"value-{kind}", -MOST_DEG, MOST_DEG)
            doubt = reader.number(f"doubt-{kind}", 0.05, 45.0)
        else:
            least = 0.0 if kind in ("height", "tape", "gap") else -FARTHEST_MM
            value = float(reader.length(f"value-{kind}", least, FARTHEST_MM))
            doubt = float(reader.length(f"doubt-{kind}", 0.1, 200.0))
        if reader.errors:
            continue
        value += as_it_rides(now, here.design.survey, piece_id, kind)
        clock = 30.0 * number(request.form.get("gap_at"), 0.0) % 360.0 if kind == "gap" else 0.0
        taken.append(
            Measured(
                kind=kind,
                value=value,
                plus_minus=doubt,
                to=to,
                mark=mark,
                clock_deg=clock,
                by=who_is_here(),
                when=_now(),
            )
        )
    reader.finish()
    if not taken:
        raise EditError("nothing was measured: fill in at least one", f"value-{request.form.get('asked', 'height')}")
    return taken


def _taped_to(here: AtHand, reader: Reader) -> tuple[tuple[Length, Length, Length] | None, str]:
    """Return the far end of a tape; with none chosen, said at its field."""
    found = marks_of(here).get(reader.form.get("mark", ""))
    if found is None:
        reader.errors["mark"] = "to what does the tape go? Choose a mark, a hang point or a port"
        return None, ""
    name, (x, y, z) = found
    return (Length(x), Length(y), Length(z)), name[:80]


@room.post("/drop")
def drop(job_id: int) -> ResponseReturnValue:
    """A measure that was wrong is taken out."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        design = unmeasure(here.design, run, piece, int(number(request.form.get("which"), -1)))
        return design, f"took a measure of piece {_number(design, run, piece)} out"

    return _edit(job_id, change)


@room.post("/note")
def note(job_id: int) -> ResponseReturnValue:
    """Keep a note on a piece, in words and a photo."""
    sent = request.files.get("picture")
    body = sent.read() if sent else b""
    said_words = " ".join(request.form.get("note", "").split())[:400]
    run, piece = request.form.get("run", ""), request.form.get("piece", "")
    said = FormState(piece=piece)

    def keep(connection: Connection, here: AtHand) -> None:
        photo = ""
        if body:
            try:
                picture = read_photo(body)
            except InputError as exc:
                raise EditError(str(exc), "picture") from exc
            files.keep(connection, "photo", picture.jpeg)
            photo = picture.sha256
        if not photo and not said_words:
            raise EditError("a photo, or a word of what was seen", "note")
        said.note = "Kept."
        keep_design(connection, here, noted(here.design, run, piece, said_words, photo), "noted what was seen")

    return run_edit(job_id, said, keep, render, lambda: url_for("fit.show", job_id=job_id, run=run, piece=piece))


@room.post("/take")
def take(job_id: int) -> ResponseReturnValue:
    """Take one of the answers: what is not on yet is as it says."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        every, at = found_answers(here, run), int(number(request.form.get("at"), -1))
        if not 0 <= at < len(every):
            raise EditError("that answer is no longer offered: look again")
        one = every[at]
        changed = len(one.correction.changes)
        if not changed:
            raise EditError("that answer changes nothing: build on as planned")
        left = "" if one.correction.fits else f", {one.correction.miss_mm:.1f} mm still missing"
        return one.design, f"corrected {changed} cut{'s' if changed > 1 else ''} of what is not on yet{left}"

    return _edit(job_id, change)


@room.post("/clocked")
def clocked(job_id: int) -> ResponseReturnValue:
    """How the clock of each joint of this job is set."""

    def change(here: AtHand, run: str, piece: str, said: FormState) -> tuple[Design, str]:
        reader = Reader(request.form, typing_unit())
        way = reader.choice("clocked", CLOCKED, here.design.settings.clocked)
        reader.finish()
        settings = Settings.model_validate(here.design.settings.model_dump() | {"clocked": way})
        return here.design.replace(settings=settings), f"joints are clocked {way}"

    return _edit(job_id, change)


@room.post("/history")
def history(job_id: int) -> ResponseReturnValue:
    """Undo or redo."""
    said = FormState(piece=request.form.get("piece"))

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.design_id, request.form.get("which", "undo"))

    return run_edit(job_id, said, move, render, lambda: url_for("fit.show", job_id=job_id))
