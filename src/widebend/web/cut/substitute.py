"""Another radius of bend, tried on the design before anything is ordered: what it does to gaps, metal and price."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for

from ...core.cutting import cut_lists
from ...core.editing import with_radius
from ...core.errors import EditError
from ...core.gas import as_straight_mm
from ...core.laying import LaidRun
from ...core.records import Bend, Design
from ...core.review import Review, review
from ...core.units import format_length
from ...core.wording import say
from ...store import revisions, stock
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, Said, keep_design
from ..page.figures import typing_unit
from ..page.progress import steps
from ..page.reader import Reader

room = Blueprint("substitute", __name__, url_prefix="/jobs/<int:job_id>/cut/substitute")


@dataclass(frozen=True)
class Tried:
    """The design with another radius, what the review says more and less of it, and figures before and after."""

    design: Design
    worse: list[str]
    better: list[str]
    figures: list[tuple[str, str, str]]


@room.get("")
def show(job_id: int) -> Any:
    return _page(job_id, Said(typed=request.args.to_dict()))


def _page(job_id: int, said: Said, code: int = 200) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        radii = sorted({float(one.item.clr_mm) for one in stock.shelf(connection)
                        if one.item.kind == "bend" and one.item.clr_mm and one.counted})  # fmt: skip
    bent = [r for r in here.found.system.runs if any(isinstance(p.piece, Bend) for p in r.pieces)]
    run = next((r for r in bent if r.run.id == request.values.get("run")), bent[0] if bent else None)
    tried = None
    if run is not None and request.values.get("clr"):
        try:
            tried = _tried(here, run)
        except Faults as faults:
            said.errors |= faults.errors
        except EditError as exc:
            said.errors |= {exc.field: str(exc)}
    return render_template(
        "cut/substitute.html", here=here, line=steps(here.design, here.found, here.job.road_use, here.bends),
        step="cut", sheet="nesting.show", bent=bent, run=run, tried=tried, said=said, revision=here.number,
        radii=[format_length(mm, g.unit, 2, suffix=False) for mm in radii],
    ), 422 if said.errors and code == 200 else code  # fmt: skip


def _tried(here: AtHand, run: LaidRun) -> Tried:
    """Raises Faults for what cannot be read, EditError for a radius that does not go in."""
    reader = Reader(request.values, typing_unit())
    clr = float(reader.length("clr", 1.0, 2000.0))
    reader.finish()
    design = with_radius(here.design, run.run.id, clr, g.unit)
    found = review(design)
    before, after = _said(here.found, here.design), _said(found, design)
    return Tried(design, [w for w in after if w not in before], [w for w in before if w not in after],
                 _figures(here, design, found, run.run.id))  # fmt: skip


def _said(found: Review, design: Design) -> list[str]:
    return [say(f, design, g.unit) for f in found.findings if f.rank[0] < 4]


def _figures(here: AtHand, design: Design, found: Review, run_id: str) -> list[tuple[str, str, str]]:
    """What changes in figures: before, after."""
    rows = []
    pairs = []
    for one, review_ in ((here.design, here.found), (design, found)):
        laid = next(r for r in review_.system.runs if r.run.id == run_id)
        pairs.append((laid, cut_lists(one, [laid])[0]))
    (old, old_cuts), (new, new_cuts) = pairs
    for words, a, b in (
        ("tube along the middle", old_cuts.tube_mm, new_cuts.tube_mm),
        ("costs the flow as much as straight pipe of", as_straight_mm(old.pieces), as_straight_mm(new.pieces)),
        ("weld", old_cuts.weld_mm, new_cuts.weld_mm),
    ):
        rows.append((words, format_length(a, g.unit, 0), format_length(b, g.unit, 0)))
    return rows


@room.post("")
def take(job_id: int) -> Any:
    """Take the other radius into the design."""
    try:
        with transaction() as connection:
            here = at_hand(connection, job_id, hold=True)
            run = next((r for r in here.found.system.runs if r.run.id == request.form.get("run")), None)
            if run is None:
                raise EditError("that run is no longer here")
            tried = _tried(here, run)
            made = tried.design.run(run.run.id)
            bend = next(p for p in (made.pieces if made else ()) if isinstance(p, Bend) and not p.locked)
            radius = format_length(bend.clr_mm, g.unit, 2)
            keep_design(connection, here, tried.design, f"bends of {run.run.name or run.run.id} on radius {radius}")
    except Faults as faults:
        return _page(job_id, Said(errors=faults.errors, typed=request.form.to_dict()), 422)
    except EditError as exc:
        return _page(job_id, Said(errors={exc.field: str(exc)}, typed=request.form.to_dict()), 422)
    except revisions.StaleEdit:
        words = "somebody changed the design meanwhile: this is how it stands now, look again"
        return _page(job_id, Said(errors={"": words}), 409)
    return redirect(url_for("cut.show", job_id=job_id, run=run.run.id), 303)
