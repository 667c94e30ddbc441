"""A piece that went wrong: where else it fits, on this job and others, and what this run becomes with it as it is."""

from __future__ import annotations

from dataclasses import dataclass

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import WENT_WRONG, CameOut, CutPiece, Fit, as_drawn_again, came_out, cut_lists, fit, shape_of
from ...core.editing import leave_as_it_came
from ...core.errors import EditError, MissingError
from ...core.records import Design
from ...core.review import Review, review
from ...core.units import format_angle, format_length
from ...core.wording import say
from ...store import jobs, revisions, ticks
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import keep_design
from ..page.figures import number

room = Blueprint("elsewhere", __name__, url_prefix="/jobs/<int:job_id>/cut/elsewhere")

MOST_JOBS = 40  # as many open jobs are looked through, newest first


@dataclass(frozen=True)
class Place:
    """Where a piece fits: the job, run and piece, how, and in words what is still to do."""

    job_id: int
    job: str
    run_id: str
    run: str
    cut: CutPiece
    fit: Fit
    words: str


@dataclass(frozen=True)
class Redone:
    """The run solved again with the piece as it came out: what changes, and what is then wrong; or why it cannot be."""

    design: Design | None
    changes: list[str]
    wrong: list[str]
    why: str = ""


def _wrong_piece(connection: Connection, here: AtHand) -> tuple[str, CutPiece, str, float]:
    """The run's id, the piece that went wrong, how and by how much. Raises MissingError for one that did not."""
    run_id, piece = request.values.get("run", ""), request.values.get("piece", "")
    runs = [r for r in here.system.runs if r.pieces]
    for laid, cuts in zip(runs, cut_lists(here.design, runs, here.bends), strict=True):
        cut = next((c for c in cuts.pieces if c.laid.piece.id == piece), None)
        mark = ticks.of_run(connection, here.job.design_id, run_id).get(piece) if laid.run.id == run_id else None
        if cut is not None and mark and mark["outcome"] == "went wrong" and mark["shape"] == shape_of(cut):
            what, _, by = mark["note"].partition(" ")
            return run_id, cut, what, number(by, 0.0)
    raise MissingError("no piece of that name went wrong here")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id)


def _page(job_id: int, error: str = "", code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        run_id, cut, what, by = _wrong_piece(connection, here)
        came = came_out(cut, what, by)
        places = _places(connection, here, run_id, cut, came) if came else []
        made = _made(connection, here, run_id)
    redone = _redone(here, run_id, cut, what, by, made) if came else None
    return render_template(
        "cut/elsewhere.html",
        here=here,
        step="cut",
        sheet="cut.show",
        cut=cut,
        run_id=run_id,
        what=WENT_WRONG.get(what, "went wrong"),
        by=_by(what, by),
        came=came,
        places=places,
        redone=redone,
        error=error,
        revision=here.number,
    ), code


def _by(what: str, by: float) -> str:
    if not by:
        return ""
    return format_angle(by) if what in ("little", "much") else format_length(by, g.unit)


def _places(connection: Connection, here: AtHand, run_id: str, cut: CutPiece, came: CameOut) -> list[Place]:
    """Every piece still to be cut that it makes, least work first, on this job before the others."""
    found: list[Place] = []
    others = [int(row["id"]) for row in jobs.in_states(connection, "open") if int(row["id"]) != here.job.id]
    for other_id in (here.job.id, *others[:MOST_JOBS]):
        job = here if other_id == here.job.id else at_hand(connection, other_id)
        runs = [r for r in job.found.system.runs if r.pieces]
        for laid, cuts in zip(runs, cut_lists(job.design, runs, job.bends), strict=True):
            marks = ticks.of_run(connection, job.job.design_id, laid.run.id)
            for one in cuts.pieces:
                mark, same = (
                    marks.get(one.laid.piece.id),
                    job is here and laid.run.id == run_id and one.number == cut.number,
                )
                if same or (mark and mark["outcome"] == "done" and mark["shape"] == shape_of(one)):
                    continue
                serves = fit(came, one)
                if serves is not None:
                    title = f"job {job.job.id}, {job.job.vehicle}"
                    found.append(
                        Place(job.job.id, title, laid.run.id, laid.run.name or laid.run.id, one, serves, _how(serves))
                    )
    return sorted(found, key=lambda p: (p.job_id != here.job.id, p.fit.work))


def _how(serves: Fit) -> str:
    """Describe the work that is left."""
    todo = []
    if serves.is_trimmed:
        heel, throat = (format_length(mm, g.unit) for mm in (serves.heel_mm, serves.throat_mm))
        todo.append(f"cut {format_angle(serves.off_deg)} off it: {heel} at the heel, {throat} at the throat")
    if serves.is_shortened:
        todo.append(f"cut {format_length(serves.off_mm, g.unit)} of straight off")
    said = " and ".join(todo) or "as it is"
    return f"{said}, turned end for end" if serves.turned else said


def _made(connection: Connection, here: AtHand, run_id: str) -> set[str]:
    """Design pieces of a run that are metal already: they do not give."""
    runs = [r for r in here.system.runs if r.pieces]
    found: set[str] = set()
    for laid, cuts in zip(runs, cut_lists(here.design, runs, here.bends), strict=True):
        if laid.run.id == run_id:
            marks = ticks.of_run(connection, here.job.design_id, run_id)
            for cut in cuts.pieces:
                mark = marks.get(cut.laid.piece.id)
                if mark and mark["outcome"] == "done" and mark["shape"] == shape_of(cut):
                    found |= {laid.pieces[k].piece.id for k in cut.pieces}
    return found


def _redone(here: AtHand, run_id: str, cut: CutPiece, what: str, by: float, made: set[str]) -> Redone:
    """This run with the piece as it came out, its finish held, and what the review then says."""
    piece, came = cut.laid.piece, came_out(cut, what, by)
    values = as_drawn_again(cut, came) if came else {}
    if not values:
        return Redone(None, [], [], "only its place differs: nothing has to be solved again")
    try:
        design = leave_as_it_came(here.design, run_id, piece.id, values, made)
    except EditError as exc:
        return Redone(None, [], [], str(exc))
    found = review(design)
    return Redone(design, _changes(here.design, design, run_id), _worse(found, here, design))


def _changes(before: Design, after: Design, run_id: str) -> list[str]:
    """Which pieces become otherwise, in words."""
    said = []
    runs = before.run(run_id), after.run(run_id)
    for k, (old, new) in enumerate(zip(runs[0].pieces, runs[1].pieces, strict=True), 1):  # type: ignore[union-attr]
        words = []
        for field, shows in (("length_mm", lambda v: format_length(v, g.unit)), ("angle_deg", format_angle)):
            a, b = getattr(old, field, None), getattr(new, field, None)
            if a is not None and b is not None and abs(float(a) - float(b)) > 0.05:
                words.append(f"{shows(float(b))} instead of {shows(float(a))}")
        a, b = getattr(old, "roll_deg", None), getattr(new, "roll_deg", None)
        if a is not None and b is not None and abs(float(a) - float(b)) > 0.05:
            words.append(f"turned {format_angle(float(b) - float(a))}")
        if words:
            said.append(f"piece {k}: {', '.join(words)}")
    return said


def _worse(found: Review, here: AtHand, design: Design) -> list[str]:
    """Return the findings that are new."""
    before = {say(f, here.design, g.unit) for f in here.found.findings}
    return [words for f in found.findings if f.rank[0] < 4 and (words := say(f, design, g.unit)) not in before]


@room.post("")
def use(job_id: int) -> ResponseReturnValue:
    """Take the run as it is solved again: the piece that went wrong is then right, and cut."""
    try:
        with transaction() as connection:
            here = at_hand(connection, job_id, hold=True)
            run_id, cut, what, by = _wrong_piece(connection, here)
            redone = _redone(here, run_id, cut, what, by, _made(connection, here, run_id))
            if redone.design is None:
                raise EditError(redone.why)
            keep_design(connection, here, redone.design, f"piece {cut.number} as it came out")
            after = at_hand(connection, job_id)
            runs = [r for r in after.found.system.runs if r.pieces]
            lists = zip(runs, cut_lists(after.design, runs, after.bends), strict=True)
            made = next(
                c
                for laid, cuts in lists
                if laid.run.id == run_id
                for c in cuts.pieces
                if c.laid.piece.id == cut.laid.piece.id
            )
            ticks.keep(connection, here.job.design_id, run_id, cut.laid.piece.id, "done", shape_of(made))
    except EditError as exc:
        return _page(job_id, str(exc), 422)
    except revisions.StaleEdit:
        return _page(job_id, "somebody changed the design meanwhile: this is how it stands now, look again", 409)
    return redirect(url_for("card.show", job_id=job_id, run=run_id), 303)
