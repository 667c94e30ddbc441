"""The shop's equipment: saw, rod, plate, welding, tables, lift; benders with their dies and test bends."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, get_args

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from pydantic import ValidationError

from ...core.bending import Springback, learnt
from ...core.errors import EditError
from ...core.records import Bender, Die, Equipment, TestBend
from ...core.units import format_length
from ...facts import Process
from ...formats.design_json import first_fault
from ...store import jobs
from ..page.as_shown import refuse_overtaken, stamp
from ..page.at_hand import transaction
from ..page.edits import Faults, FormState
from ..page.figures import typing_unit
from ..page.reader import Reader

room = Blueprint("equipment", __name__, url_prefix="/equipment")

PROCESSES = get_args(Process)
LENGTHS = (
    ("saw_across_mm", "saw takes, square, up to"),
    ("rod_mm", "thickest rod it bends"),
    ("plate_mm", "thickest plate it bends"),
    ("table_mm", "longest section on the table"),
    ("lift_mm", "room under a raised vehicle"),
)


@dataclass(frozen=True)
class DieShown:
    """A die with what its tests taught."""

    bender: Bender
    number: int
    die: Die
    spring: Springback


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


def _page(said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        able = jobs.equipment(connection)
    dies = {b.id: [DieShown(b, i, d, learnt(d)) for i, d in enumerate(b.dies)] for b in able.benders}
    plain = _shown(able)
    return render_template(
        "floor/equipment.html",
        able=able,
        dies=dies,
        plain=plain,
        lengths=LENGTHS,
        processes=PROCESSES,
        said=said,
        as_shown=stamp(plain),
    ), code


def _shown(able: Equipment) -> dict[str, str]:
    """Return the shop's machines as the fields show them."""
    plain = {key: _bare(getattr(able, key)) for key, _ in LENGTHS}
    return plain | {"saw_mitre_deg": "" if able.saw_mitre_deg is None else f"{able.saw_mitre_deg:g}"}


def _bare(mm: float | None) -> str:
    return "" if mm is None else format_length(mm, g.unit, 2, suffix=False)


@room.post("")
def change() -> ResponseReturnValue:
    """Saw, rod, plate, welding, tables, lift."""

    def said_so(able: Equipment, reader: Reader) -> Equipment:
        refuse_overtaken(_shown(able))
        values: dict[str, Any] = {key: reader.optional(key) for key, _ in LENGTHS}
        given = reader.given("saw_mitre_deg")
        values["saw_mitre_deg"] = reader.angle("saw_mitre_deg", "mitre", 0.0, 70.0) if given else None
        values["processes"] = tuple(p for p in PROCESSES if p in request.form.getlist("processes"))
        return able.replace(**values)

    return _edit(said_so)


@room.post("/benders")
def add_bender() -> ResponseReturnValue:
    def added(able: Equipment, reader: Reader) -> Equipment:
        name = reader.words("name", 40)
        if not name:
            reader.errors["name"] = "what is it called?"
        taken = {b.id for b in able.benders}
        new = next(f"b{n}" for n in range(1, 100) if f"b{n}" not in taken)
        asked = ("longest_mm", "height_mm", "bed_wide_mm", "bed_under_mm")
        figures = {k: reader.length(k, 1.0) for k in asked if reader.given(k)}
        most = reader.number("most_deg", 1.0, 200.0) if reader.given("most_deg") else 180.0
        reader.finish()
        return able.replace(benders=(*able.benders, Bender(id=new, name=name, most_deg=most, **figures)))

    return _edit(added)


@room.post("/benders/<bender_id>/drop")
def drop_bender(bender_id: str) -> ResponseReturnValue:
    def dropped(able: Equipment, _: Reader) -> Equipment:
        return able.replace(benders=tuple(b for b in able.benders if b.id != bender_id))

    return _edit(dropped)


@room.post("/benders/<bender_id>/dies")
def add_die(bender_id: str) -> ResponseReturnValue:
    def added(bender: Bender, reader: Reader) -> Bender:
        figures = {k: reader.length(k, 0.0) for k in ("od_mm", "clr_mm", "grip_mm", "between_mm")}
        lost = reader.number("lost", 0.0, 60.0) / 100 if reader.given("lost") else 0.0
        reader.finish()
        return bender.replace(dies=(*bender.dies, Die(**figures, lost_bore=lost)))

    return _edit_bender(bender_id, added)


@room.post("/benders/<bender_id>/dies/<int:number>")
def change_die(bender_id: str, number: int) -> ResponseReturnValue:
    """A test bend more, the last one off again, or the die gone."""

    def changed(bender: Bender, reader: Reader) -> Bender:
        if not 0 <= number < len(bender.dies):
            raise EditError("that die is not here any more")
        die, what = bender.dies[number], request.form.get("what", "")
        if what == "drop":
            return bender.replace(dies=tuple(d for i, d in enumerate(bender.dies) if i != number))
        if what == "back":
            tests = die.tests[:-1]
        else:
            set_deg, got = (reader.number(k, 1.0, 200.0) for k in ("set_deg", "got_deg"))
            measured = reader.optional("clr_mm", 1.0)
            reader.finish()
            tests = (*die.tests, TestBend(set_deg=set_deg, got_deg=got, clr_mm=measured))
        made = die.replace(tests=tests)
        return bender.replace(dies=tuple(made if i == number else d for i, d in enumerate(bender.dies)))

    return _edit_bender(bender_id, changed, f"{bender_id}-{number}")


def _edit_bender(bender_id: str, change: Callable[[Bender, Reader], Bender], at: str = "") -> ResponseReturnValue:
    def changed(able: Equipment, reader: Reader) -> Equipment:
        bender = next((b for b in able.benders if b.id == bender_id), None)
        if bender is None:
            raise EditError("that bender is not here any more")
        made = change(bender, reader)
        return able.replace(benders=tuple(made if b.id == bender_id else b for b in able.benders))

    return _edit(changed, at or bender_id)


def _edit(change: Callable[[Equipment, Reader], Equipment], at: str = "") -> ResponseReturnValue:
    """Carry out one change on what is kept now; what is wrong stands at its field, with what was typed."""
    said = FormState(piece=at)
    reader = Reader(request.form, typing_unit())
    try:
        with transaction() as connection:
            able = change(jobs.equipment(connection, hold=True), reader)
            reader.finish()
            jobs.set_equipment(connection, Equipment.model_validate(able.model_dump()))
    except Faults as faults:
        said.errors = faults.errors
    except ValidationError as exc:
        said.errors = {"": first_fault(exc)[1]}
    except EditError as exc:
        said.errors = {exc.field: str(exc)}
    if said.errors:
        said.typed = request.form.to_dict()
        return _page(said, 422)
    return redirect(url_for("equipment.show"), 303)
