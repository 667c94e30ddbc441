"""Surveying with a camera: sheets of tags to print, photos in, what each saw, all placed at once, proposals to take."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for

from ...core.errors import EditError, InputError
from ...core.photos import (
    CUFF_TAGS,
    JOBS,
    Job,
    Proposal,
    Solved,
    called,
    is_narrow,
    job_of,
)
from ...core.units import format_length
from ...formats.tag_photos import read_tag_photo
from ...instruments.tag_finder import look
from ...store import tag_photos
from ...store.database import Connection
from ...store.tag_photos import KeptPhoto, TagKnown
from ..drawing.tags_from_below import draw_tags
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Said, keep_survey, run_edit
from ..page.figures import whole
from ..page.people import who_is_here
from ..page.progress import steps
from .camera_form import read_known, typed
from .placed_tags import AT_ONCE, offered, solved_of

room = Blueprint("camera", __name__, url_prefix="/jobs/<int:job_id>/underbody/camera")

SHEETS = 4  # of a job, offered one by one


@room.get("")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _page(here, Said())


def _page(here: AtHand, said: Said, code: int = 200) -> Any:
    with transaction() as connection:
        photos, known = tag_photos.of_job(connection, here.job.id), tag_photos.known(connection, here.job.id)
    solved, why = solved_of(photos, known) if len(photos) > 1 else (None, "")
    becomes = offered(solved, known) if solved else []
    return render_template(
        "underbody/camera.html", here=here, placed=_with_place(solved), step="underbody", said=said,
        line=steps(here.design, here.found, here.job.road_use, here.bends), known=typed(known), why=why,
        photos=[_photo_row(one) for one in photos],
        solved=solved, below=draw_tags(solved) if solved and solved.tags else None,
        jobs=[(job, _sheets(job)) for job in JOBS],
        rows=[_tag_row(solved, tag.number, known) for tag in solved.tags] if solved else [],
        left_out=[_left_row(one.number, one.photo, one.why, known) for one in solved.left_out] if solved else [],
        scale=f"{100 * solved.scale[0]:.2f} ± {100 * solved.scale[1]:.2f} %" if solved else "",
        off=[f"{what}, {format_length(mm, g.unit, 1)}" for what, mm in solved.off] if solved else [],
        tape_off=[format_length(mm, g.unit, 1) for mm in solved.tape_off] if solved else [],
        offered=[_offer_row(one, here) for one in becomes], space=sum(one.bytes for one in photos) / 1e6,
        revision=here.survey_revision.number, not_reckoned=max(0, len(photos) - AT_ONCE),
    ), code  # fmt: skip


def _with_place(solved: Solved | None) -> set[str]:
    """The photos that the planned pipe can be drawn into."""
    return {photo.name for photo in solved.photos} if solved and not solved.lacking else set()


def _photo_row(one: KeptPhoto) -> dict[str, Any]:
    numbers = sorted(seen.number for seen in one.photo.seen)
    return {"id": one.id, "seen": len(numbers), "numbers": ", ".join(map(str, numbers)), "trouble": one.trouble,
            "size": f"{one.bytes / 1e6:.1f} MB", "who": one.who, "lens": one.photo.focal_px is not None}  # fmt: skip


def _tag_row(solved: Solved, number: int, known: TagKnown) -> dict[str, Any]:
    tag = solved.tag(number)
    assert tag is not None
    job = job_of(number)
    return {
        "number": number, "job": job.job if job else "", "name": known.names.get(number, ""),
        "at": [format_length(float(v), g.unit, 1, suffix=False) for v in tag.place],
        "doubt": format_length(tag.plus_minus_mm, g.unit, 1), "tilt": f"{tag.tilt_deg:.2f}°", "photos": tag.photos,
        "narrow": is_narrow(tag), "base": f"{tag.base_deg:.0f}°",
        "wide": " ± ".join(format_length(mm, g.unit, 1) for mm in tag.diameter_mm) if tag.diameter_mm else "",
    }  # fmt: skip


def _left_row(number: int, photo: str, why: str, known: TagKnown) -> str:
    what = called(number, known.names) if number >= 0 else ""
    where = f"photo {photo}" if photo else ""
    return f"{', '.join(part for part in (what, where) if part)}: {why}"


def _offer_row(one: Proposal, here: AtHand) -> dict[str, Any]:
    survey = here.design.survey
    there = {t.id for t in survey.things} | {h.id for h in survey.hang_points} | {m.id for m in survey.marks}
    there |= {part.id for part in survey.old_parts}
    return {"key": one.key, "words": one.words, "doubt": format_length(one.plus_minus_mm, g.unit, 1),
            "at": ", ".join(format_length(float(v), g.unit, 0, suffix=False) for v in one.at),
            "again": one.key.removeprefix("mark-") in there or one.key in there}  # fmt: skip


# --- what is known beside the photos ----------------------------------------------------------------------------------


@room.post("/known")
def say(job_id: int) -> Any:
    """The bar, tapes, typed places, rails' heights, names."""

    def change(connection: Connection) -> None:
        spots = tag_photos.known(connection, job_id).spots
        tag_photos.set_known(connection, job_id, replace(read_known(request.form), spots=spots))

    return _edit(job_id, change)


def _edit(job_id: int, change: Callable[[Connection], None]) -> Any:
    said = Said()
    try:
        with transaction() as connection:
            at_hand(connection, job_id)
            change(connection)
    except (EditError, InputError) as exc:
        said.errors, said.typed = {getattr(exc, "field", "") or "photos": str(exc)}, request.form.to_dict()
        with transaction() as connection:
            return _page(at_hand(connection, job_id), said, 422)
    return redirect(url_for("camera.show", job_id=job_id), 303)


# --- photos -----------------------------------------------------------------------------------------------------------


@room.post("/photos")
def photos_in(job_id: int) -> Any:
    """Photos, many at once: each is looked at by itself, and one that cannot be read stops none of the others."""
    sent = [one for one in request.files.getlist("photos") if one.filename]
    refused = []

    def change(connection: Connection) -> None:
        if not sent:
            raise EditError("choose photos first", "photos")
        for one in sent:
            try:
                with one.stream as stream:
                    photo = read_tag_photo(stream.read())
                seen = look(photo.jpeg)
            except InputError as exc:
                refused.append(f"{(one.filename or '')[:60]}: {exc}")
                continue
            tag_photos.add(connection, job_id, photo, seen.seen, seen.trouble, who_is_here())

    answer = _edit(job_id, change)
    if not refused:
        return answer
    with transaction() as connection:
        return _page(at_hand(connection, job_id), Said(errors={"photos": "; ".join(refused)}), 422)


@room.post("/let-go")
def let_go(job_id: int) -> Any:
    """The person lets a photo go."""
    photo = whole(request.form.get("photo"))
    return _edit(job_id, lambda connection: tag_photos.let_go(connection, job_id, photo))


@room.get("/photo/<int:photo_id>.jpg")
def photo_shown(job_id: int, photo_id: int) -> Response:
    with transaction() as connection:
        found = tag_photos.pixels(connection, job_id, photo_id)
    if found is None:
        abort(404)
    return Response(found, mimetype="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


# --- what it becomes --------------------------------------------------------------------------------------------------


@room.post("/take")
def take(job_id: int) -> Any:
    """Take proposals into the survey."""
    said, wanted = Said(), set(request.form.getlist("take"))

    def keep(connection: Connection, here: AtHand) -> None:
        known = tag_photos.known(connection, job_id)
        solved, why = solved_of(tag_photos.of_job(connection, job_id), known)
        if solved is None:
            raise EditError(why or "take two photos first", "take")
        chosen = [one for one in offered(solved, known) if one.key in wanted]
        if not chosen:
            raise EditError("choose what to take", "take")
        survey = here.design.survey
        for one in chosen:
            survey = one.put_in(survey)
        keep_survey(connection, here, survey, f"took {len(chosen)} from photos: {chosen[0].words}"[:300])
        said.note = f"Taken: {len(chosen)}."

    return run_edit(job_id, said, keep, _page, lambda: url_for("camera.show", job_id=job_id))


# --- sheets -----------------------------------------------------------------------------------------------------------


@room.get("/tags.pdf")
def sheets(job_id: int) -> Response:
    """One sheet of tags of one job."""
    from ...formats.papers.tag_sheets import PAPERS, write_tag_sheets

    with transaction() as connection:
        at_hand(connection, job_id)
    job = next((one for one in JOBS if one.job == request.args.get("job")), None)
    paper = request.args.get("paper", "a4")
    if job is None or paper not in PAPERS:
        abort(404)
    numbers = _numbers(job, whole(request.args.get("sheet")), paper)
    if not numbers:
        abort(404)
    data = write_tag_sheets(numbers, paper)
    return Response(data, mimetype="application/pdf",
                    headers={"Content-Disposition": 'inline; filename="tags.pdf"'})  # fmt: skip


def _sheets(job: Job) -> list[int]:
    """The sheets of a job that are offered."""
    return [sheet for sheet in range(SHEETS) if _numbers(job, sheet, "a4")]


def _numbers(job: Job, sheet: int, paper: str) -> list[int]:
    """The numbers of one sheet of a job, the first sheet 0."""
    from ...formats.papers.tag_sheets import on_a_sheet

    step, many = CUFF_TAGS if job.job == "cuff" else 1, on_a_sheet(job, paper)
    start = job.first + sheet * many * step
    return [n for n in range(start, start + many * step, step) if n <= job.last]
