"""The layout: start, muffler and tip placed first, and what the job may be made from."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, g, render_template, request, url_for

from ..core.tube import MATERIAL_NAMES
from ..core.words import say
from ..store.database import Connection
from .drawing.strips import draw_strips
from .edits import Said, keep_design, run_edit, step_history
from .layout_form import MATERIALS, read_layout, shown
from .progress import steps
from .shared import AtHand, at_hand, is_htmx, transaction, typing_unit, window_from_request

room = Blueprint("layout", __name__)


@room.get("/jobs/<int:job_id>/layout")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, Said())


def _render(here: AtHand, said: Said, code: int = 200) -> Any:
    typed = shown(here.design, g.unit) | (said.typed if said.errors else {})
    if said.errors:
        typed["free"] = said.typed.get("free", "")
    window = window_from_request(here.found, here.design.survey)
    parts = [f for f in here.found.findings if f.part or f.code == "inside"]
    context = {
        "here": here, "line": steps(here.design, here.found, here.job.road_use), "step": "layout", "said": said,
        "picture": draw_strips(here.design, here.found, window, None, sight=g.sight), "typed": typed,
        "materials": [(m, MATERIAL_NAMES[m]) for m in MATERIALS], "revision": here.number,
        "findings": [(say(f, here.design, g.unit), "touches" if f.spoils else "tight") for f in parts],
        "placed": bool(here.design.runs), "can_undo": here.design_revision.back is not None,
        "can_redo": here.design_revision.forward is not None,
    }  # fmt: skip
    return render_template("_layout_bench.html" if is_htmx() else "layout.html", **context), code


@room.post("/jobs/<int:job_id>/layout")
def place(job_id: int) -> Any:
    """Place everything as typed."""
    said = Said(note="Placed and checked.")

    def keep(connection: Connection, here: AtHand) -> None:
        design = read_layout(request.form, typing_unit(), here.design)
        keep_design(connection, here, design, "placed the big pieces")

    return run_edit(job_id, said, keep, _render, lambda: url_for("layout.show", job_id=job_id))


@room.post("/jobs/<int:job_id>/layout/history")
def history(job_id: int) -> Any:
    """Undo or redo."""
    said = Said()

    def move(connection: Connection, here: AtHand) -> None:
        said.note = step_history(connection, here.job.design_id, request.form.get("which", "undo"))

    return run_edit(job_id, said, move, _render, lambda: url_for("layout.show", job_id=job_id))
