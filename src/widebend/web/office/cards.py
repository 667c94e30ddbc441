"""Cards: kept from a finished job, found again, checked against the next vehicle by a few readings, taken over."""

from __future__ import annotations

from typing import Any

import numpy as np
from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cards import Reading, chosen_readings, fitted_to, likeness, misfits, shape_of_system
from ...core.cutting import cut_lists
from ...core.errors import EditError, InputError
from ...core.hanging import HangState, hang, rubber_of
from ...core.joining import all_welds
from ...core.laying import planned_pieces
from ...core.records import Design
from ...core.review import Review, review
from ...core.routing import laid_again
from ...core.units import format_length
from ...core.wording import hanger_name
from ...formats.design_json import design_from
from ...store import cards, hours, jobs, revisions
from ...store.cards import Card
from ...store.database import Connection
from ...store.files import with_meshes
from ..drawing.strips import draw_strips
from ..page.at_hand import AtHand, at_hand, solved, stored, transaction
from ..page.edits import Faults, FormState
from ..page.figures import number, typing_unit
from ..page.people import who_is_here
from ..page.reader import Reader
from ..page.window import Window, extent_of

room = Blueprint("cards", __name__)


@room.get("/cards")
def show() -> ResponseReturnValue:
    """Every card, by words and wheelbase; those that run like a job's pipe first, where one is named."""
    words, job = request.args.get("q", ""), int(number(request.args.get("like"), 0))
    wheelbase = int(number(request.args.get("wheelbase"), 0)) or None
    with transaction() as connection:
        found = cards.find(connection, words, wheelbase)
        here = at_hand(connection, job) if job > 0 else None
        open_jobs = [(one.id, one.title) for one in jobs.open_jobs(connection)]
    mine = shape_of_system(here.system) if here else np.zeros(0)
    for one in found:
        one["like"] = likeness(one["shape"], mine) if len(mine) else None
    if len(mine):
        found.sort(key=lambda one: -one["like"])
    return render_template(
        "office/cards.html", found=found, words=words[:80], wheelbase=wheelbase or "", job=job, open_jobs=open_jobs
    )


@room.post("/jobs/<int:job_id>/card")
def keep(job_id: int) -> ResponseReturnValue:
    """Keep a job's system as a card."""
    reader = Reader(request.form, typing_unit())
    wheelbase = reader.length("wheelbase", 1000.0, 8000.0) if reader.given("wheelbase") else None
    try:
        reader.finish()
        with transaction() as connection:
            here = at_hand(connection, job_id)
            shape = shape_of_system(here.system)
            if not len(shape):
                raise EditError("there is no pipe to keep yet")
            minutes: dict[str, float] = {}
            for clock in hours.clocks(connection, job_id):
                minutes[clock.step] = minutes.get(clock.step, 0.0) + clock.minutes
            card = cards.add(
                connection,
                job_id,
                here.job.vehicle,
                request.form,
                int(wheelbase) if wheelbase else None,
                jobs.dump(_as_drawn(connection, here)),
                minutes,
                [float(v) for v in shape],
            )
    except (EditError, Faults) as exc:
        words = next(iter(exc.errors.values())) if isinstance(exc, Faults) else str(exc)
        raise InputError(words) from exc
    return redirect(url_for("cards.one", card_id=card), 303)


def _as_drawn(connection: Connection, here: AtHand) -> Design:
    """The design for the next vehicle: its runs as they were drawn before anything went on this one, for what was found
    and corrected here is this vehicle's own; so is what was heard.
    """
    design = here.design.replace(sounds=())
    if not design.fitted:
        return design
    kept = revisions.last_unfitted(connection, here.job.design_id)
    planned = tuple(run.replace(pieces=planned_pieces(here.design, run)) for run in here.design.runs)
    for runs in ([design_from(kept).runs] if kept else []) + [planned]:
        try:
            return design.replace(runs=runs, fitted=()).validated()
        except EditError:  # parts or hangers changed since so that those runs do not go with them
            continue
    return design


@room.get("/cards/<int:card_id>")
def one(card_id: int) -> ResponseReturnValue:
    """One card: its picture, what it takes, what to watch; and the readings that say whether it fits."""
    with transaction() as connection:
        return _page(connection, card_id, int(number(request.args.get("job"), 0)), FormState(), {})


def _page(
    connection: Connection, card_id: int, job: int, said: FormState, off: dict[str, float], code: int = 200
) -> ResponseReturnValue:
    card = cards.get(connection, card_id)
    design, found = _of(connection, card)
    readings = chosen_readings(design, found)
    runs = [run for run in found.system.runs if run.pieces]
    lists = cut_lists(design, runs, {})
    open_jobs = [(str(one.id), f"{one.id} {one.title}, {one.vehicle}") for one in jobs.open_jobs(connection)]
    wrong = {reading.key: by for reading, by in misfits(readings, off)} if off else {}
    picture = draw_strips(design, found, Window.fitting(extent_of(found.system, design.survey)), None)
    return render_template(
        "office/card.html",
        card=card,
        said=said,
        picture=picture,
        job=str(job or ""),
        open_jobs=open_jobs,
        readings=[_row(r, off, wrong) for r in readings],
        asked=bool(off),
        wrong=wrong,
        pieces=sum(len(cuts.pieces) for cuts in lists),
        hangers=len(design.hangers),
        weld=all_welds(design, found.system, lists).weld_mm,
        total=sum(card.minutes.values()),
        runs=[
            (laid.run.name or laid.run.id, laid.run.id, len(cuts.pieces))
            for laid, cuts in zip(runs, lists, strict=True)
        ],
        hung=_hung(design, found),
        log=[one for one in hours.log(connection, card.job_id) if one["sha256"]] if card.job_id else [],
    ), code


def _hung(design: Design, found: Review) -> list[dict[str, Any]]:
    """The hang card in short: hangers front first, where each is, what it carries on which rubber."""
    carried = sorted(hang(design, found.system, HangState()).carried, key=lambda one: float(one.place[0]))
    return [
        {
            "name": hanger_name(design, one.hanger.id),
            "back": format_length(float(one.place[0]), g.unit, 0),
            "kg": f"{one.kg:.1f} kg",
            "how": one.hanger.way if one.hanger.way == "solid" else rubber_of(one.hanger).name,
        }
        for one in carried
    ]


@room.get("/cards/<int:card_id>/sheet.pdf")
def sheet(card_id: int) -> Response:
    """The bench sheet of one run of a card: its cut list and bend cards, as it was built."""
    from ...formats.papers.sheet_pdf import PAPERS, write_sheet

    with transaction() as connection:
        card = cards.get(connection, card_id)
        design, found = _of(connection, card)
    runs, paper = [run for run in found.system.runs if run.pieces], request.args.get("paper", "a4")
    one = next((run for run in runs if run.run.id == request.args.get("run", run.run.id)), None)
    if one is None or paper not in PAPERS:
        abort(404)
    (cuts,) = cut_lists(design, [one], {})
    title, about = f"Card {card.id}: {card.name}", [f"{card.vehicle} {card.engine}".strip(), card.watch]
    data = write_sheet(
        title, [line for line in about if line], design, found, cuts, run_id=one.run.id, paper=paper, unit=g.unit
    )
    return Response(
        data,
        mimetype="application/pdf",
        headers={"Content-Disposition": f'inline; filename="card-{card_id}-{paper}.pdf"'},
    )


def _of(connection: Connection, card: Card) -> tuple[Design, Review]:
    """A card's design with its meshes, and its review."""
    design = Design.model_validate(card.content)
    whole = design.replace(survey=with_meshes(connection, design.survey))
    return whole, solved(design, ("card",), lambda: review(whole))


def _row(reading: Reading, off: dict[str, float], wrong: dict[str, float]) -> dict[str, Any]:
    value = off.get(reading.key)
    play = format_length(reading.play_mm, g.unit, 0)
    way = "either way" if not reading.sense else "to the pipe"
    return {
        "key": reading.key,
        "words": reading.words,
        "axis": reading.axis,
        "was": format_length(reading.value_mm, g.unit, 0),
        "play": f"{play} {way}",
        "now": "" if value is None else format_length(value, g.unit, 1, suffix=False),
        "state": "" if value is None else "no" if reading.key in wrong else "fits",
        "by": format_length(wrong[reading.key], g.unit, 0) if reading.key in wrong else "",
    }


@room.post("/cards/<int:card_id>")
def check(card_id: int) -> ResponseReturnValue:
    """Readings of the next vehicle: what fits and what does not; taken over, the job has the card's design on them."""
    said, reader, off = FormState(typed=request.form.to_dict()), Reader(request.form, typing_unit()), dict[str, float]()
    job = int(number(request.form.get("job"), 0))
    with transaction() as connection:
        card = cards.get(connection, card_id)
        design, found = _of(connection, card)
        for reading in chosen_readings(design, found):
            if reader.given(reading.key):
                off[reading.key] = float(reader.length(reading.key, -5000.0, 20_000.0))
        try:
            reader.finish()
            if request.form.get("take") != "yes":
                return _page(connection, card_id, job, said, off or {"": 0.0})
            if not job:
                raise EditError("choose the job it is taken over into", "job")
            _take_over(connection, job, card, fitted_to(design, chosen_readings(design, found), off))
        except Faults as faults:
            said.errors = faults.errors
            return _page(connection, card_id, job, said, off, 422)
        except EditError as exc:
            said.errors = {exc.field: str(exc)}
            return _page(connection, card_id, job, said, off, 422)
    return redirect(url_for("route.show", job_id=job), 303)


def _take_over(connection: Connection, job_id: int, card: Card, design: Design) -> None:
    """The job's survey and design become the card's on the new readings; what no longer fits is solved again where that
    is possible, and is said on the Route step where not. Undo brings back what was there.
    """
    here = at_hand(connection, job_id, hold=True)
    for run in design.runs:
        design = laid_again(design, run.id)
    why, who = f"taken over from card {card.id}, {card.name}"[:300], who_is_here()
    base = here.survey_revision.number
    survey = revisions.append(connection, here.job.survey_id, base, jobs.dump(design.survey), why, author=who)
    revisions.append(
        connection,
        here.job.design_id,
        here.design_revision.number,
        stored(design),
        why,
        checked_against=survey.number,
        author=who,
    )


@room.post("/cards/<int:card_id>/drop")
def drop(card_id: int) -> ResponseReturnValue:
    """A card is out of every list."""
    with transaction() as connection:
        cards.drop(connection, card_id)
    return redirect(url_for("cards.show"), 303)
