"""The layout: start, muffler and tip placed first, and what the job may be made from."""

from __future__ import annotations

from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, run_edit, step_history
from ..page.figures import typing_unit
from .form import RUN, read_layout, read_made_from
from .page import render
from .sheets import SHEETS

room = Blueprint("layout", __name__)


@room.get("/jobs/<int:job_id>/layout")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState())


@room.post("/jobs/<int:job_id>/layout")
def place(job_id: int) -> ResponseReturnValue:
    """Place everything as typed."""
    said = FormState(note="Placed and checked.")

    def keep(connection: Connection, here: AtHand) -> None:
        design = read_layout(request.form, typing_unit(), g.unit, here.design)
        keep_design(connection, here, design, "placed the big pieces")

    joining = request.form.get("onward") == "join"
    on = url_for("route.close", job_id=job_id, run=RUN) if joining else url_for("layout.show", job_id=job_id)

    def answer(here: AtHand, said: FormState, code: int) -> ResponseReturnValue:
        return ("", {"HX-Redirect": on}) if joining and code == 200 else render(here, said, code)

    return run_edit(job_id, said, keep, answer, lambda: on)


@room.post("/jobs/<int:job_id>/layout/made-from")
def made_from(job_id: int) -> ResponseReturnValue:
    """Set the options of closing: radii, angles, the shortest straight."""
    said = FormState(note="Kept what it is made from.")

    def keep(connection: Connection, here: AtHand) -> None:
        design = read_made_from(request.form, typing_unit(), here.design)
        keep_design(connection, here, design, "changed what it is made from")

    return run_edit(job_id, said, keep, render, lambda: url_for("layout.show", job_id=job_id))


@room.post("/jobs/<int:job_id>/layout/history")
def history(job_id: int) -> ResponseReturnValue:
    """Undo or redo; then the sheet where that was asked."""
    said, sheet = FormState(), request.form.get("sheet", SHEETS[0][0])
    on = url_for(sheet if sheet in dict(SHEETS) else SHEETS[0][0], job_id=job_id)

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.design_id, request.form.get("which", "undo"))

    def answer(here: AtHand, said: FormState, code: int) -> ResponseReturnValue:
        elsewhere = sheet != SHEETS[0][0] and not said.note and code == 200
        return ("", {"HX-Redirect": on}) if elsewhere else render(here, said, code)

    return run_edit(job_id, said, move, answer, lambda: on)
