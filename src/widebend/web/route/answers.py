"""Answers that close a run, and remedies of findings: shown and taken."""

from __future__ import annotations

from typing import Any

from flask import g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...core.records import Design, Run
from ...core.review import review
from ...core.routing import Proposals, propose, remedies, taken, with_change
from ...store.database import Connection
from ...store.revisions import Later, StaleEdit, since
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState, base_revision
from ..page.figures import number
from .bench import render_bench, room
from .edits import edit_design, run_of
from .finding_rows import finding_rows
from .ways import ways_before


def _proposed(design: Design, run_id: str, keep: int | None) -> Proposals:
    return solved(design, ("closed", run_id, keep), lambda: propose(design, run_id, keep))


def _keep_count(run: Run) -> int | None:
    """How many pieces stay: all, or those before the chosen one."""
    keep = request.values.get("keep", "all")
    if keep == "all":
        return None
    index = next((i for i, p in enumerate(run.pieces) if p.id == keep), None)
    return 0 if keep == "none" else index


@room.get("/jobs/<int:job_id>/route/close")
def close(job_id: int) -> ResponseReturnValue:
    """The answers that close the run, ghosted in the strips."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    said = FormState(piece=request.args.get("piece"), keep=request.args.get("keep", "all"))
    try:
        run = here.design.run(request.args.get("run", "")) or first_run(here.design)
        said.proposals = _proposed(here.design, run.id, _keep_count(run))
        said.ghost = int(number(request.args.get("ghost"), 0))
    except EditError as exc:
        said.errors = {"close": str(exc)}
        return render_bench(here, said, 422)
    return render_bench(here, said)


def first_run(design: Design) -> Run:
    if not design.runs:
        raise EditError("there is no run yet: place the start and the finish on the Layout step")
    return design.runs[0]


@room.post("/jobs/<int:job_id>/route/answer")
def take_answer(job_id: int) -> ResponseReturnValue:
    """Take one of the answers, or apply a change that was solved."""

    def change(_connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        run = run_of(here.design)
        if base_revision() != here.number:
            # answers are solved for one revision: on a newer one the numbers would mean something else
            raise StaleEdit(base_revision(), _later(_connection, here))
        found = ways_before(_connection, here, run)
        proposals = found or _proposed(here.design, run.id, _keep_count(run))
        if "change" in request.form:
            chosen = int(number(request.form["change"], -1))
            if not 0 <= chosen < len(proposals.changes):
                raise EditError("that change is no longer offered: look for it again")
            then = "find a way again" if found else "close it"
            said.note = f"Done: {proposals.changes[chosen].words}. Now {then}."
            return with_change(here.design, run.id, proposals.changes[chosen]), proposals.changes[chosen].words
        index = int(number(request.form.get("answer"), -1))
        design = taken(here.design, run.id, proposals, index)
        bends = proposals.found[index].bends
        return design, f"closed with {bends} bend{'s' if bends != 1 else ''}"

    return edit_design(job_id, change)


def _later(connection: Connection, here: AtHand) -> list[Any]:
    newest = here.design_revision
    return since(connection, here.job.design_id, base_revision()) or [
        Later(newest.number, newest.why, "", "", newest.made_at)
    ]


def _remedied(design: Design, unit: str) -> dict[int, Any]:
    return solved(design, ("remedied", unit), lambda: remedies(design, review(design), unit))


@room.get("/jobs/<int:job_id>/route/remedies")
def show_remedies(job_id: int) -> str:
    """Remedies for the worst three findings: they need solving, so they follow the edit."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    found = _remedied(here.design, g.unit)
    return render_template(
        "route/_remedies.html",
        here=here,
        remedies=found,
        revision=here.number,
        rows=finding_rows(here.found, here.design),
    )


@room.post("/jobs/<int:job_id>/route/remedy")
def take_remedy(job_id: int) -> ResponseReturnValue:
    def change(connection: Connection, here: AtHand, said: FormState) -> tuple[Design, str]:
        if base_revision() != here.number:
            raise StaleEdit(base_revision(), _later(connection, here))
        remedy = _remedied(here.design, g.unit).get(int(number(request.form.get("remedy"), -1)))
        if remedy is None:
            raise EditError("that remedy is no longer offered")
        said.note = f"Done: {remedy.words}."
        return remedy.design, remedy.why

    return edit_design(job_id, change)
