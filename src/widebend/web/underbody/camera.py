"""Surveying with a camera: what each photo saw, all placed at once, what it hangs on, proposals to take."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any

from flask import Blueprint, current_app, g, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...core.fitting import measure, put_on
from ...core.laying import fitted_of
from ...core.photos import Solved, edge_on, is_narrow, job_of, travelled
from ...core.records import Survey
from ...core.space import Vector
from ...core.tagged import Fitted, Proposal, as_measures, beside_plan, called
from ...core.units import format_length
from ...store import tag_photos
from ...store.database import Connection
from ...store.searches import stop_search
from ...store.tag_photos import KeptPhoto, TagKnown
from ...work.photos import wish_for
from ...work.searches import ask
from ..drawing.codes import code_of
from ..drawing.strip import Shadow
from ..drawing.strips import draw_strips
from ..drawing.tags_from_below import draw_tags
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, keep_survey, run_edit
from ..page.figures import number
from ..page.instruments import found_tool, stand_ins_answer
from ..page.people import who_is_here
from ..page.window import MEASURE_TALL_PX, extent_of_things, window_from_request
from .camera_form import read_known, typed
from .placed_tags import SETS, Placing, have_placed, offered, placing_of, wanted_set
from .sheets import sheets_of

LEAST_SAID_MM = 0.05
room = Blueprint("camera", __name__, url_prefix="/jobs/<int:job_id>/underbody/camera")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return page(here, FormState())


@room.before_request
def _placed_before_any_record_is_held() -> None:
    have_placed((request.view_args or {})["job_id"], wanted_set())


def page(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    """The page of one set of photos."""
    with transaction() as connection:
        placing = placing_of(connection, here, wanted_set())
    solved, known = placing.solved, placing.known
    becomes = offered(placing, here.design)
    job_id, which = here.job.id, placing.which
    return render_template(
        "underbody/camera.html",
        here=here,
        step="underbody",
        said=said,
        which=which,
        sets=[(key, words, sum(one.in_set == key for one in placing.all_photos)) for key, words in SETS.items()],
        placed=_with_place(solved),
        why=placing.why,
        to_ask=placing.to_ask,
        **_watched(job_id, placing),
        known=typed(known),
        photos=[_photo_row(one) for one in placing.photos],
        jobs=sheets_of(),
        join=_join(here, which),
        solved=solved,
        below=draw_tags(solved) if solved and solved.tags else None,
        rows=[_tag_row(solved, tag.number, known) for tag in solved.tags] if solved else [],
        left_out=[_left_row(one.number, one.photo, one.why, known) for one in solved.left_out] if solved else [],
        scale=f"{100 * solved.scale[0]:.2f} ± {100 * solved.scale[1]:.2f} %" if solved else "",
        off=_hangs_on(placing),
        tape_off=[format_length(mm, g.unit, 1) for mm in solved.tape_off] if solved else [],
        offered=[_offer_row(one) for one in becomes],
        over=_picture(here, becomes) if becomes else None,
        moved=_moved(placing),
        fitted=_fitted(here, placing),
        space=sum(one.bytes for one in placing.photos) / 1e6,
        revision=here.survey_revision.number,
        design_rev=here.number,
        has_phone=_has_phone(),
    ), code


def _watched(job_id: int, placing: Placing) -> dict[str, Any]:
    """Return the context of the queue's progress line, while it goes on; it knows whether the first few are drawn."""
    if placing.search is None:
        return {}
    drawn = "yes" if placing.solved else None
    return {
        "search": placing.search,
        "stop_url": url_for("camera.stop", job_id=job_id, set=placing.which),
        "progress_url": url_for("camera.progress", job_id=job_id, set=placing.which, drawn=drawn),
    }


def _hangs_on(placing: Placing) -> list[str]:
    """Return the datum and its residuals; of a second set, how many tags stayed."""
    off = placing.solved.off if placing.solved else ()
    if placing.which == "ride" or not off:
        held = [f"{what}, {format_length(mm, g.unit, 1)} off" for what, mm in off]
        whole = placing.solved.whole_mm if placing.solved else 0.0
        return [*held, f"which hold the whole to ± {format_length(whole, g.unit, 1)}"] if held else []
    most = format_length(max(mm for _, mm in off), g.unit, 1)
    return [f"{len(off)} tags that stayed where they were at ride, {most} at most"]


def _with_place(solved: Solved | None) -> set[str]:
    """The photos that the planned pipe can be drawn into."""
    return {photo.name for photo in solved.photos} if solved and not solved.lacking else set()


def _has_phone() -> bool:
    return found_tool("phone") is not None and stand_ins_answer()


def _join(here: AtHand, which: str) -> dict[str, str] | None:
    """Where a phone joins this job's photos, and that as a code; None where only this machine is served."""
    at = current_app.config["JOIN_AT"]
    where = at.rstrip("/") + url_for("camera.show", job_id=here.job.id, set=which) if at else ""
    return {"at": where, "code": code_of(where)} if where else None


def _photo_row(one: KeptPhoto) -> dict[str, Any]:
    numbers = sorted(seen.number for seen in one.photo.seen)
    flat = edge_on(one.photo.seen)
    return {
        "id": one.id,
        "seen": len(numbers),
        "numbers": ", ".join(map(str, numbers)),
        "trouble": one.trouble,
        "size": f"{one.bytes / 1e6:.1f} MB",
        "who": one.who,
        "lens": one.photo.focal_px is not None,
        "flat": ", ".join(map(str, flat)),
    }


def _tag_row(solved: Solved, number: int, known: TagKnown) -> dict[str, Any]:
    tag = solved.tag(number)
    assert tag is not None
    job = job_of(number)
    return {
        "number": number,
        "job": job.job if job else "",
        "name": known.names.get(number, ""),
        "at": [format_length(float(v), g.unit, 1, suffix=False) for v in tag.place],
        "doubt": format_length(tag.plus_minus_mm, g.unit, 1),
        "tilt": f"{tag.tilt_deg:.2f}°",
        "photos": tag.photos,
        "narrow": is_narrow(tag),
        "base": f"{tag.base_deg:.0f}°",
        "wide": " ± ".join(format_length(mm, g.unit, 1) for mm in tag.diameter_mm) if tag.diameter_mm else "",
    }


def _left_row(number: int, photo: str, why: str, known: TagKnown) -> str:
    what = called(number, known.names) if number >= 0 else ""
    where = f"photo {photo}" if photo else ""
    return f"{', '.join(part for part in (what, where) if part)}: {why}"


def _offer_row(one: Proposal) -> dict[str, Any]:
    beside, words = one.beside, ""
    if beside:
        off = format_length(beside.off_mm, g.unit, 1)
        allowed = format_length(beside.allowed_mm, g.unit, 1)
        words = (
            f"{off} from what is there, more than the {allowed} that both doubts allow"
            if beside.disagrees
            else f"{off} from what is there, within both doubts"
        )
    return {
        "key": one.key,
        "words": one.words,
        "doubt": format_length(one.plus_minus_mm, g.unit, 1),
        "at": ", ".join(format_length(float(v), g.unit, 0, suffix=False) for v in one.at),
        "beside": words,
        "disagrees": bool(beside and beside.disagrees),
        "ticked": one.usual and not (beside and beside.disagrees),
    }


def _picture(here: AtHand, becomes: list[Proposal]) -> Any:
    """The strips with what is there, and what is offered drawn over it."""
    shadows = [
        Shadow(one.line, one.width_mm, "proposed" + (" off" if one.beside and one.beside.disagrees else ""))
        for one in becomes
    ]
    window = window_from_request(extent_of_things(here.design.survey), MEASURE_TALL_PX, "w")
    return draw_strips(here.design, here.found, window, None, things_only=True, shadows=shadows)


def _moved(placing: Placing) -> list[str]:
    """Return the things that moved between the first set and this one."""
    if placing.which == "ride" or not placing.solved or placing.solved.lacking or not placing.first:
        return []
    return [
        f"{called(one.number, placing.known.names)}: {_ways(one.shift)}, ± "
        f"{format_length(one.plus_minus_mm, g.unit, 1)}"
        for one in travelled(placing.first, placing.solved)
    ]


def _ways(shift: Vector) -> str:
    """A shift in words: what is next to nothing is not said."""
    names = (("back", "forward"), ("right", "left"), ("up", "down"))
    said = [
        f"{format_length(abs(float(mm)), g.unit, 1)} {pair[0] if mm > 0 else pair[1]}"
        for mm, pair in zip(shift, names, strict=True)
        if abs(mm) >= LEAST_SAID_MM
    ]
    return ", ".join(said) or "nothing"


def _fitted(here: AtHand, placing: Placing) -> list[dict[str, str]]:
    """Cuffs and discs on what was tacked in, beside plan."""
    if placing.which != "fitted" or not placing.solved or placing.solved.lacking:
        return []
    found = beside_plan(placing.solved, here.system, placing.known.names, here.design.survey)
    return [_fitted_row(one, here) for one in found]


def _fitted_row(one: Fitted, here: AtHand) -> dict[str, str]:
    run = here.design.run(one.run) if one.run else None
    order = {piece.id: k for k, piece in enumerate(run.pieces, 1)} if run else {}
    where = f"{run.name or run.id}, piece {order[one.piece]}" if run else one.port.partition(".")[0]
    part = here.design.part(where)
    return {
        "tag": str(one.number),
        "where": (part.name or part.id) if part else where,
        "way": _ways(one.off),
        "off": format_length(one.off_mm, g.unit, 1),
        "doubt": format_length(one.plus_minus_mm, g.unit, 1),
        "tilt": f"{one.tilt_deg:.2f} ± {one.plus_minus_deg:.2f}°",
        "clock": f"{one.clock_deg:.1f}°" if one.clock_deg is not None else "",
        "wrong": "yes" if one.is_off else "",
    }


# --- what is known beside the photos ----------------------------------------------------------------------------------


@room.post("/known")
def say(job_id: int) -> ResponseReturnValue:
    """The bar, tapes, typed places, rails' heights, names."""
    said = FormState()
    try:
        with transaction() as connection:
            at_hand(connection, job_id)
            spots = tag_photos.known(connection, job_id).spots
            tag_photos.set_known(connection, job_id, replace(read_known(request.form), spots=spots))
    except (EditError, InputError) as exc:
        said.errors, said.typed = {getattr(exc, "field", "") or "photos": str(exc)}, request.form.to_dict()
        with transaction() as connection:
            here = at_hand(connection, job_id)
        return page(here, said, 422)
    return redirect(url_for("camera.show", job_id=job_id, set=wanted_set()), 303)


# --- many photos: the queue places them -------------------------------------------------------------------------------


@room.post("/place")
def place(job_id: int) -> ResponseReturnValue:
    """Have the queue place a set that is too large for a page to wait for."""
    which = wanted_set()
    with transaction() as connection:
        here = at_hand(connection, job_id)
        placing = placing_of(connection, here, which)
        if placing.to_ask:
            wish = wish_for(job_id, which, placing.all_photos, placing.known)
            ask(connection, here.job.design_id, here.number, here.design, "", wish, who=who_is_here())
    return redirect(url_for("camera.show", job_id=job_id, set=which), 303)


@room.get("/progress")
def progress(job_id: int) -> ResponseReturnValue:
    """How far the queue is; the whole page again when there is more to draw, or it has ended."""
    which = wanted_set()
    with transaction() as connection:
        placing = placing_of(connection, at_hand(connection, job_id), which)
    if placing.search and not (placing.solved and not request.args.get("drawn")):
        return render_template("page/_progress.html", **_watched(job_id, placing))
    answer = make_response("")
    answer.headers["HX-Redirect"] = url_for("camera.show", job_id=job_id, set=which)
    return answer


@room.post("/stop")
def stop(job_id: int) -> ResponseReturnValue:
    """Stop the queue's placing."""
    which = wanted_set()
    with transaction() as connection:
        placing = placing_of(connection, at_hand(connection, job_id), which)
        if placing.search:
            stop_search(connection, placing.search.id)
    return redirect(url_for("camera.show", job_id=job_id, set=which), 303)


# --- what it becomes --------------------------------------------------------------------------------------------------


@room.post("/fit-log")
def into_fit_log(job_id: int) -> ResponseReturnValue:
    """Add the readings of cuffs on tacked pipe to the fit log: each piece is on, and measured where its tag is."""
    said, which = FormState(), wanted_set()

    def keep(connection: Connection, here: AtHand) -> None:
        placing = placing_of(connection, here, which)
        if placing.solved is None or which != "fitted":
            raise EditError(placing.why or "take photos of what is tacked in first", "take")
        found = beside_plan(placing.solved, here.system, placing.known.names, here.design.survey)
        when = f"{datetime.now().astimezone():%Y-%m-%d %H:%M}"
        every = as_measures(found, here.system, when, who_is_here())
        if not every:
            raise EditError("no cuff sits on the planned pipe", "take")
        design = here.design
        for (run, piece), taken in every.items():
            if piece not in fitted_of(design, run):
                design = put_on(design, run, piece, who_is_here(), when)
            design = measure(design, run, piece, taken)
        said.note = f"{len(every)} pieces measured in the fit log."
        keep_design(connection, here, design, said.note, int(number(request.form.get("design_rev"), 0)))

    return run_edit(job_id, said, keep, page, lambda: url_for("fit.show", job_id=job_id))


@room.post("/take")
def take(job_id: int) -> ResponseReturnValue:
    """Take proposals into the survey, and into the design where they are parts of it."""
    said, wanted, which = FormState(), set(request.form.getlist("take")), wanted_set()

    def keep(connection: Connection, here: AtHand) -> None:
        placing = placing_of(connection, here, which)
        if placing.solved is None:
            raise EditError(placing.why or "take two photos first", "take")
        chosen = [one for one in offered(placing, here.design) if one.key in wanted]
        if not chosen:
            raise EditError("choose what to take", "take")
        design = here.design
        for one in chosen:
            design = one.put_in(design)
        why = f"took {len(chosen)} from photos: {chosen[0].words}"[:300]
        if design.survey != here.design.survey:
            keep_survey(connection, here, Survey.model_validate(design.survey.model_dump()), why)
        if (design.parts, design.runs) != (here.design.parts, here.design.runs):
            keep_design(connection, here, design, why, int(number(request.form.get("design_rev"), 0)))
        said.note = f"Taken: {len(chosen)}."

    return run_edit(job_id, said, keep, page, lambda: url_for("camera.show", job_id=job_id, set=which))
