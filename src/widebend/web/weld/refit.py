"""The refit card: what goes in after what, tightened in passes, tried; ticks with what was read."""

from __future__ import annotations

from itertools import groupby
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.joining import GASKETS, STANDING, Named, RefitStep, reading_fault, refit_steps, torques
from ...core.review import Section, sections
from ...core.welding import THREADS
from ...core.wording import hanger_name
from ...formats.ways_out_json import read_way_out
from ...store import refit
from ...store.database import Connection
from ...store.searches import newest_for
from ...work.removal_path import OutWish
from ..layout.parts_panel import section_name
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.people import who_is_here
from .page import joints_at_hand

room = Blueprint("refit", __name__, url_prefix="/jobs/<int:job_id>/weld/refit")

MOST_READING = 120


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        return render_template("weld/refit.html", **_panel(connection, here, request.args.get("error", "")))


def _panel(connection: Connection, here: AtHand, error: str = "") -> dict[str, Any]:
    design = here.design
    ticks, moved = refit.ticks_of(connection, here.job.design_id), refit.moved_parts(connection, here.job.design_id)
    ordered, tried = _order_in(connection, here)
    names = [(_lasting(one), section_name(one, design)) for one in ordered]
    every = _steps(here, names, [(str(part.id), part.name) for part in moved])
    left = next((step.key for step in every if step.key not in ticks), "")
    return {
        "here": here,
        "step": "weld",
        "heads": [(head, list(some)) for head, some in groupby(every, key=lambda one: one.head)],
        "ticks": ticks,
        "moved": moved,
        "next": left,
        "done": sum(s.key in ticks for s in every),
        "count": len(every),
        "tried": tried,
        "gaskets": GASKETS,
        "torques": [(size, *torques(size)) for size in THREADS],
        "error": error,
        "first_start": [c for c in STANDING if c.before == "first start"],
        "under": [c for c in STANDING if c.before in ("get under", "get in")],
    }


def _lasting(section: Section) -> str:
    """Return the key of a section: its first piece, or its part."""
    return "-".join(str(one) for one in section.pieces[0]) if section.pieces else section.parts[0]


def _steps(here: AtHand, sections_in: list[Named], moved: list[Named]) -> list[RefitStep]:
    design = here.design
    hangers = [(one.id, hanger_name(design, one.id)) for one in design.hangers]
    return refit_steps(design, joints_at_hand(here), sections_in, hangers, moved)


def _order_in(connection: Connection, here: AtHand) -> tuple[list[Section], bool]:
    """The sections in the order they go in: the other way round from how they were found to come out, where that was
    tried of this very design; else from the front back.
    """
    known = sections(here.design, here.system)
    wish = OutWish("order", 0, g.sight.view)
    kept = newest_for(connection, here.job.design_id, wish.__dict__)
    if kept is None or kept.revision != here.number or not kept.found:
        return known, False
    out = [read_way_out(way, known).section for way in kept.found["ways"]]
    return list(reversed(out)), True


@room.post("")
def tick(job_id: int) -> ResponseReturnValue:
    """A step is done with what was read, or not after all; something was moved to get in."""
    step, reading = request.form.get("step", "")[:120], " ".join(request.form.get("reading", "").split())[:MOST_READING]
    what, error = request.form.get("what", "done"), ""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        design_id, who = here.job.design_id, who_is_here()
        if what == "moved":
            name = " ".join(request.form.get("name", "").split())[:80]
            if name:
                refit.add_moved(connection, design_id, name, who)
            error = "" if name else "what was moved? A brake line, the handbrake cable, a steering shield"
        elif what == "forget":
            refit.forget_moved(connection, design_id, _number(request.form.get("part", "")))
        else:
            shown = _panel(connection, here)
            known = {one.key: one for _, some in shown["heads"] for one in some}
            if step not in known:
                error = "the card has changed: that step is no longer on it"
            elif what == "done" and known[step].head == "before it moves" and not (reading or who):
                error = "who checked it? Write the name beside it: it must not move unchecked"
            elif what == "done" and (fault := reading_fault(known[step], reading)):
                error = fault
            else:
                refit.tick(connection, design_id, step, reading, who, done=what == "done")
    return redirect(url_for("refit.show", job_id=job_id, error=error or None, _anchor=step or None), 303)


def _number(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 10 else 0
