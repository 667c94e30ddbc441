"""Another radius of bend, tried on the design before anything is ordered: what it does to gaps, metal and price."""

from __future__ import annotations

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import with_radius
from ...core.errors import EditError
from ...core.laying import LaidRun
from ...core.records import Bend
from ...core.units import format_length
from ...store import revisions, stock
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState, keep_design
from ..page.figures import typing_unit
from ..page.reader import Reader
from .tried import Tried, tried

room = Blueprint("substitute", __name__, url_prefix="/jobs/<int:job_id>/cut/substitute")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id, FormState(typed=request.args.to_dict()))


def _page(job_id: int, said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        radii = sorted(
            {
                float(one.item.clr_mm)
                for one in stock.shelf(connection)
                if one.item.kind == "bend" and one.item.clr_mm and one.counted
            }
        )
    bent = [r for r in here.system.runs if any(isinstance(p.piece, Bend) for p in r.pieces)]
    run = next((r for r in bent if r.run.id == request.values.get("run")), bent[0] if bent else None)
    found = None
    if run is not None and request.values.get("clr"):
        try:
            found = _tried(here, run)
        except Faults as faults:
            said.errors |= faults.errors
        except EditError as exc:
            said.errors |= {exc.field: str(exc)}
    return render_template(
        "cut/substitute.html",
        here=here,
        step="cut",
        sheet="nesting.show",
        bent=bent,
        run=run,
        tried=found,
        said=said,
        revision=here.number,
        radii=[format_length(mm, g.unit, 2, suffix=False) for mm in radii],
    ), 422 if said.errors and code == 200 else code


def _tried(here: AtHand, run: LaidRun) -> Tried:
    """Raises Faults for what cannot be read, EditError for a radius that does not go in."""
    reader = Reader(request.values, typing_unit())
    clr = float(reader.length("clr", 1.0, 2000.0))
    reader.finish()
    design = with_radius(here.design, run.run.id, clr, g.unit)
    return tried(here, design, {run.run.id})


@room.post("")
def take(job_id: int) -> ResponseReturnValue:
    """Take the other radius into the design."""
    try:
        with transaction() as connection:
            here = at_hand(connection, job_id, hold=True)
            run = next((r for r in here.system.runs if r.run.id == request.form.get("run")), None)
            if run is None:
                raise EditError("that run is no longer here")
            found = _tried(here, run)
            made = found.design.run(run.run.id)
            bend = next(p for p in (made.pieces if made else ()) if isinstance(p, Bend) and not p.locked)
            radius = format_length(bend.clr_mm, g.unit, 2)
            keep_design(connection, here, found.design, f"bends of {run.run.name or run.run.id} on radius {radius}")
    except Faults as faults:
        return _page(job_id, FormState(errors=faults.errors, typed=request.form.to_dict()), 422)
    except EditError as exc:
        return _page(job_id, FormState(errors={exc.field: str(exc)}, typed=request.form.to_dict()), 422)
    except revisions.StaleEdit:
        words = "somebody changed the design meanwhile: this is how it stands now, look again"
        return _page(job_id, FormState(errors={"": words}), 409)
    return redirect(url_for("cut.show", job_id=job_id, run=run.run.id), 303)
