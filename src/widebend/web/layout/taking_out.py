"""In and out on the Layout step: sections, trying one out step by step, the order they come out and go in."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, g, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import mixed_up
from ...core.errors import EditError, MissingError
from ...core.removal import AT_ONCE, WayOut, deepest_mm, move_words, way_out
from ...core.review import Section, sections
from ...core.units import format_length
from ...core.wording import say
from ...formats.ways_out_json import read_way_out
from ...store import jobs
from ...store.database import Connection
from ...store.searches import Search, search, stop_search
from ...work.removal_path import OUT_KINDS, OutWish
from ...work.searches import ask
from ..drawing.shadows import section_shadows
from ..page.at_hand import AtHand, at_hand, in_memory, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import number
from ..page.people import who_is_here
from .parts_panel import section_name, section_row
from .sheets import render_sheet

room = Blueprint("apart", __name__, url_prefix="/jobs/<int:job_id>/layout/apart")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, FormState())


def _render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    found = sections(here.design, here.system)
    chosen = int(number(request.args.get("try"), -1))
    section = found[chosen] if 0 <= chosen < len(found) else None
    kept = _searched(here)
    done = kept.found if kept and kept.found else None
    ways = [read_way_out(way, found) for way in done["ways"]] if done else []
    ordered = kept is not None and kept.wish["kind"] == "order"
    way = (ways[0] if ways and not ordered else _at_once(here, section, chosen)) if section else None
    step = min(max(int(number(request.args.get("step"), 0)), 0), len(way.moves) if way else 0)
    shadows = section_shadows(here.system, way.section, way.places[step]) if way and way.found and step else []
    return render_sheet(
        here,
        said,
        code,
        "apart.show",
        "layout/_sheet_taking_out.html",
        shadows=shadows,
        rows=[section_row(s, here.design) for s in found],
        chosen=chosen,
        way=way,
        step=step,
        change=done["change"] if done else "",
        long=bool(done),
        watched=_watched(here, kept) if kept else None,
        failed=kept.said if kept and kept.state == "failed" else "",
        notes=here.design.notes.splitlines(),
        names=[section_name(s, here.design) for s in found],
        moves=[move_words(m) for m in way.moves] if way else [],
        room=_room(here, way) if way and way.found else None,
        order=[_told(w, here) for w in ways] if ordered and done else None,
        mixed=mixed_up(here.design),
        findings=[say(f, here.design, g.unit) for f in here.found.findings if f.code in ("trapped", "long-section")],
    )


def _room(here: AtHand, way: WayOut) -> tuple[str, str]:
    """How far down the way leads, and the room that the shop has under a raised vehicle where that is less."""
    deep = deepest_mm(here.system, way)
    with transaction() as connection:
        has = jobs.equipment(connection).lift_mm
    lacks = has is not None and deep > has
    return format_length(deep, g.unit, 0), format_length(float(has), g.unit, 0) if has and lacks else ""


def _told(way: WayOut, here: AtHand) -> dict[str, Any]:
    return {
        "name": section_name(way.section, here.design),
        "found": way.found,
        "hit": list(way.hit[:3]),
        "moves": [move_words(m) for m in way.moves],
    }


@room.post("/look")
def look_longer(job_id: int) -> ResponseReturnValue:
    """Put the long work on the queue: what would let a section out, or the order in which all come out."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        order = request.form.get("what") == "order"
        chosen = max(0, int(number(request.form.get("try"), 0)))
        wish = OutWish("order" if order else "out", 0 if order else chosen, g.sight.view)
        search_id = ask(connection, here.job.design_id, here.number, here.design, "", wish, who=who_is_here())
    return redirect(_page(job_id, search_id, wish), 303)


def _page(job_id: int, search_id: int, wish: OutWish) -> str:
    chosen: dict[str, Any] = {} if wish.kind == "order" else {"try": wish.section}
    return url_for("apart.show", job_id=job_id, search=search_id, tab=g.tab, **chosen)


@room.get("/progress")
def progress(job_id: int) -> ResponseReturnValue:
    """How far the long work is; the whole sheet again when it has ended."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    kept = _searched(here)
    if kept and kept.goes_on:
        return render_template("page/_progress.html", **_watched(here, kept))
    answer = make_response(_render(here, FormState()))
    answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = "#bench", "innerHTML"
    return answer


@room.post("/stop")
def stop(job_id: int) -> ResponseReturnValue:
    """Stop the long work."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        kept = _searched(here)
        if kept:
            stop_search(connection, kept.id)
    return redirect(_page(job_id, kept.id, OutWish(**kept.wish)) if kept else url_for(".show", job_id=job_id), 303)


def _searched(here: AtHand) -> Search | None:
    """The long work that a page is about, while it is of this revision."""
    wanted = int(number(request.args.get("search"), 0))
    if not wanted:
        return None
    with transaction() as connection:
        kept = search(connection, wanted)
    if kept.design_id != here.job.design_id or kept.wish.get("kind") not in OUT_KINDS:
        raise MissingError("That search is of another job")
    return kept if kept.revision == here.number else None


def _watched(here: AtHand, kept: Search) -> dict[str, Any]:
    """Return the context of the progress line."""
    named = {"job_id": here.job.id, "search": kept.id, "tab": g.tab}
    if kept.wish["kind"] == "out":
        named["try"] = kept.wish["section"]
    return {
        "search": kept,
        "progress_url": url_for("apart.progress", **named),
        "stop_url": url_for("apart.stop", **named),
    }


@room.post("/note")
def note(job_id: int) -> ResponseReturnValue:
    """Write on the hand-over what a section needs to come out."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        line = request.form.get("line", "").replace("\x00", "").strip()[:300]
        if not line:
            raise EditError("there is nothing to write down")
        notes = "\n".join(n for n in (here.design.notes, line) if n)
        said.note = "Written on the hand-over: it prints on the shop sheet."
        keep_design(connection, here, here.design.replace(notes=notes), "wrote on the hand-over")

    return run_edit(job_id, said, keep, _render, lambda: url_for("apart.show", job_id=job_id))


def _at_once(here: AtHand, section: Section, chosen: int) -> WayOut:
    """The way a section comes out as everything stands, looked for while the page waits, once for a revision."""
    kept = in_memory("kept")
    named = (
        here.job.id,
        here.number,
        here.survey_revision.number,
        here.design_revision.made_at.timestamp(),
        g.sight.view,
        "try",
        chosen,
    )
    found: WayOut = kept.get(named, lambda: way_out(here.system, section, here.found.obstacles, most=AT_ONCE))
    return found
