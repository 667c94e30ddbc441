"""In and out on the Layout step: sections, trying one out step by step, the order they come out and go in."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, current_app, g, request, url_for

from ..core.errors import EditError
from ..core.mirroring import mixed_up
from ..core.removal import WayOut, helps, move_words, order_out, way_out
from ..core.sections import Section, sections
from ..core.words import say
from ..store.database import Connection
from .drawing.shadows import section_shadows
from .edits import Said, keep_design, run_edit
from .layout_sheets import render_sheet
from .parts_panel import section_name, section_row
from .shared import AtHand, Kept, at_hand, number, transaction

room = Blueprint("apart", __name__, url_prefix="/jobs/<int:job_id>/layout/apart")


@room.get("")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, Said())


def _render(here: AtHand, said: Said, code: int = 200) -> Any:
    found = sections(here.design, here.found.system)
    chosen = int(number(request.args.get("try"), -1))
    section = found[chosen] if 0 <= chosen < len(found) else None
    way, change = _tried(here, section, chosen) if section else (None, "")
    step = min(max(int(number(request.args.get("step"), 0)), 0), len(way.moves) if way else 0)
    shadows = section_shadows(here.found.system, way.section, way.places[step]) if way and way.found and step else []
    return render_sheet(
        here, said, code, "apart.show", "_sheet_apart.html", shadows=shadows,
        rows=[section_row(s, here.design) for s in found], chosen=chosen, way=way, step=step, change=change,
        notes=here.design.notes.splitlines(), names=[section_name(s, here.design) for s in found],
        moves=[move_words(m) for m in way.moves] if way else [],
        order=_order(here) if request.args.get("order") else None, mixed=mixed_up(here.design),
        findings=[say(f, here.design, g.unit) for f in here.found.findings if f.code in ("trapped", "long-section")],
    )  # fmt: skip


@room.post("/note")
def note(job_id: int) -> Any:
    """Write on the hand-over what a section needs to come out."""
    said = Said()

    def keep(connection: Connection, here: AtHand) -> None:
        line = request.form.get("line", "").replace("\x00", "").strip()[:300]
        if not line:
            raise EditError("there is nothing to write down")
        notes = "\n".join(n for n in (here.design.notes, line) if n)
        said.note = "Written on the hand-over: it prints on the shop sheet."
        keep_design(connection, here, here.design.model_copy(update={"notes": notes}), "wrote on the hand-over")

    return run_edit(job_id, said, keep, _render, lambda: url_for("apart.show", job_id=job_id))


def _tried(here: AtHand, section: Section, chosen: int) -> tuple[WayOut, str]:
    """The way a section comes out, as it is or with one change; worked out once for a revision."""

    def work() -> tuple[WayOut, str]:
        way = way_out(here.found.system, section, here.found.obstacles)
        if way.found:
            return way, ""
        freed = helps(here.design, here.found.system, section, here.found.obstacles)
        return (freed[1], freed[0]) if freed else (way, "")

    found: tuple[WayOut, str] = _kept().get((*_named(here), "try", chosen), work)
    return found


def _order(here: AtHand) -> list[dict[str, Any]]:
    """Out, from the first; each with how."""
    ways: list[WayOut] = _kept().get(
        (*_named(here), "order"), lambda: order_out(here.design, here.found.system, here.found.obstacles)
    )
    return [{"name": section_name(w.section, here.design), "found": w.found, "hit": list(w.hit[:3]),
             "moves": [move_words(m) for m in w.moves]} for w in ways]  # fmt: skip


def _kept() -> Kept:
    kept: Kept = current_app.extensions["kept"]
    return kept


def _named(here: AtHand) -> tuple[Any, ...]:
    return (
        here.job.id,
        here.number,
        here.survey_revision.number,
        here.design_revision.made_at.timestamp(),
        g.sight.view,
    )
