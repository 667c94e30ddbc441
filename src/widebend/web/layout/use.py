"""Where the system may be driven and in which configurations, on the Layout step."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, get_args

from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import configured
from ...core.errors import EditError
from ...core.records import ClassRule, Configuration, Design, EmissionKind, EmissionPart, Fate, Use
from ...core.review import Review, fate_of, review, sections
from ...core.units import format_length
from ...core.wording import say
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState, keep_design, run_edit
from ..page.figures import typing_unit
from ..page.reader import Reader
from .sheets import render_sheet

room = Blueprint("driven", __name__, url_prefix="/jobs/<int:job_id>/layout/driven")

CODES = ("emissions", "use-unsaid", "class", "side-exit", "ends-under", "blows")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, FormState())


def _render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    design = here.design
    parts = [("", "none"), *((p.id, p.name or p.item.kind) for p in design.parts if p.item.kind in ("cat", "other"))]
    return render_sheet(
        here,
        said,
        code,
        "driven.show",
        "layout/_sheet_use.html",
        use=design.use,
        road=design.settings.use,
        rules=list(get_args(ClassRule)),
        kinds=[(k, k) for k in get_args(EmissionKind)],
        parts=parts,
        fates=[(f, f) for f in get_args(Fate)],
        emissions=[
            (e.id, e.name or e.what, e.what, fate_of(design, here.system, e), e.noted) for e in design.use.emissions
        ],
        findings=[(say(f, design, g.unit), f.rank[0] <= 1) for f in here.found.findings if f.code in CODES],
        configurations=[_configuration(here, c) for c in design.configurations],
        choices=[(p.id, p.name or p.item.kind) for p in design.parts] + [(r.id, r.name or r.id) for r in design.runs],
    )


def _configuration(here: AtHand, configuration: Configuration) -> dict[str, Any]:
    """One configuration, checked on its own: what is left off, what it weighs, what is wrong with it."""
    try:
        design = configured(here.design, configuration)
    except EditError as exc:
        return {
            "id": configuration.id,
            "name": configuration.name,
            "off": list(configuration.without),
            "length": "",
            "mass": "",
            "worst": str(exc),
            "spoils": True,
            "wrong": 1,
            "parts": [],
        }
    found: Review = review(design, g.sight.view)
    masses = [s.mass_kg for s in sections(design, found.system)]
    names = {p.id: p.name or p.item.kind for p in here.design.parts} | {r.id: r.name or r.id for r in here.design.runs}
    worst = found.findings[0] if found.findings and found.findings[0].rank[0] <= 3 else None
    wrong = sum(f.rank[0] <= 2 for f in found.findings)
    return {
        "id": configuration.id,
        "name": configuration.name,
        "off": [names.get(i, i) for i in configuration.without],
        "length": format_length(sum(p.length_mm for r in found.system.runs for p in r.pieces), g.unit, 0),
        "mass": "mass not known" if None in masses else f"{sum(m for m in masses if m is not None):.1f} kg",
        "worst": say(worst, design, g.unit) if worst else "nothing wrong",
        "spoils": bool(worst and worst.spoils),
        "wrong": wrong,
        "parts": [p.name or p.item.kind for p in design.parts],
    }


Change = Callable[[Design, Reader], tuple[Design, str]]


def _edit(job_id: int, change: Change) -> ResponseReturnValue:
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        reader = Reader(request.form, typing_unit())
        design, why = change(here.design, reader)
        said.note = f"{why[0].upper()}{why[1:]}."
        keep_design(connection, here, design, why)

    return run_edit(job_id, said, keep, _render, lambda: url_for("driven.show", job_id=job_id))


def _with_use(design: Design, **update: Any) -> Design:
    return design.replace(use=Use.model_validate(design.use.model_dump() | update))


@room.post("/use")
def use(job_id: int) -> ResponseReturnValue:
    def change(design: Design, reader: Reader) -> tuple[Design, str]:
        written = reader.words("written", 600)
        by, on = reader.words("acknowledged_by"), reader.words("acknowledged_on")
        rules = tuple(r for r in get_args(ClassRule) if r in request.form.getlist("class_rules"))
        reader.finish()
        update = {"written": written, "acknowledged_by": by, "acknowledged_on": on, "class_rules": rules}
        return _with_use(design, **update), "wrote down the use"

    return _edit(job_id, change)


@room.post("/emission")
def emission(job_id: int) -> ResponseReturnValue:
    """Enter a part that cleans or watches the gas, as the vehicle has or had it."""

    def change(design: Design, reader: Reader) -> tuple[Design, str]:
        what, fate = (
            reader.choice("what", get_args(EmissionKind), "catalyst"),
            reader.choice("fate", get_args(Fate), ""),
        )
        name, noted = reader.words("name"), reader.words("noted")
        at = reader.point("at_x", "at_y", "at_z") if reader.given("at_x") else None
        reader.finish()
        taken = {e.id for e in design.use.emissions}
        new_id = next(f"e{n}" for n in range(1, 100) if f"e{n}" not in taken)
        part = request.form.get("part") or None
        if part and design.part(part) is None:
            raise EditError("that part is no longer in the design", "part")
        new = EmissionPart(id=new_id, what=what, name=name, fate=fate, part=part, at=at, noted=noted)  # type: ignore[arg-type]
        return _with_use(design, emissions=(*design.use.emissions, new)), f"entered the {name or what}: {fate}"

    return _edit(job_id, change)


@room.post("/configuration")
def configuration(job_id: int) -> ResponseReturnValue:
    def change(design: Design, reader: Reader) -> tuple[Design, str]:
        name = reader.words("c_name")
        off = tuple(dict.fromkeys(request.form.getlist("without")))
        if not name:
            reader.errors["c_name"] = "what is it called: quiet, track, standard?"
        reader.finish()
        taken = {c.id for c in design.configurations}
        new = Configuration(id=next(f"c{n}" for n in range(1, 99) if f"c{n}" not in taken), name=name, without=off)
        configured(design, new)  # raises where what is left does not hang together
        return design.replace(configurations=(*design.configurations, new)), f"added “{name}”"

    return _edit(job_id, change)


@room.post("/take-out")
def take_out(job_id: int) -> ResponseReturnValue:
    def change(design: Design, _reader: Reader) -> tuple[Design, str]:
        gone = request.form.get("id", "")
        emissions = tuple(e for e in design.use.emissions if e.id != gone)
        left = tuple(c for c in design.configurations if c.id != gone)
        return _with_use(design, emissions=emissions).replace(configurations=left), "taken out of the list"

    return _edit(job_id, change)
