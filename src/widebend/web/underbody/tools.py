"""Digital measuring tools at the bench: take a reading into a field, and the panel of the stand-ins."""

from __future__ import annotations

from collections.abc import Mapping

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.units import format_length
from ...instruments.stand_in import Panel, panel_of, set_panel
from ...instruments.taking import Kind, Reading, take
from ...store import jobs
from ..page.at_hand import transaction
from ..page.edits import Faults
from ..page.figures import typing_unit
from ..page.instruments import NAMES, found_tool, stand_ins_answer, tool_of
from ..page.reader import Reader

room = Blueprint("tools", __name__, url_prefix="/tools")

READ: tuple[Kind, ...] = ("angle", "distance", "sound")  # those that a reading is taken with


def taken_with(form: Mapping[str, str]) -> str:
    """The tools whose readings a form holds as they were taken; one that was typed over is the person's own."""
    said = (value.partition("|") for key, value in form.items() if key.startswith("taken-"))
    values = set(form.values())
    return ", ".join(sorted({tool[:40] for typed, _, tool in said if tool and typed in values}))


@room.get("/take/<kind>")
def take_reading(kind: str) -> ResponseReturnValue:
    """A reading as the field it goes into, with how it was taken; or the field as it was, with what went wrong."""
    name, field_id = request.args.get("name", "")[:40], request.args.get("id", "")[:60]
    wanted = _kind(kind)
    typed, said, wrong, tool = request.args.get(name, "")[:40], "", "", ""
    try:
        reading = take(tool_of(wanted), wanted)
        typed, said = _typed(reading), f"{_typed(reading)} {_doubt(reading)}, {reading.words}"
        tool = f"{typed}|{reading.taken_with}"
    except InputError as exc:
        wrong = str(exc)
    values = {
        "name": name,
        "field_id": field_id,
        "kind": wanted,
        "value": typed,
        "said": said,
        "wrong": wrong,
        "tool": tool,
    }
    return render_template("underbody/_taken.html", **values)


def _typed(reading: Reading) -> str:
    """A reading as a person would type it."""
    if reading.kind != "distance":
        return f"{reading.value:.1f}"
    return format_length(reading.value, typing_unit(), 2 if g.unit != "mm" else 1, suffix=False)


def _doubt(reading: Reading) -> str:
    if reading.kind == "distance":
        return f"± {format_length(reading.plus_minus, g.unit)}"
    return f"± {reading.plus_minus:.1f}{'°' if reading.kind == 'angle' else ' dB'}"


def _kind(text: str | None) -> Kind:
    """The kind of tool that an address or a form names."""
    return next((kind for kind in READ if kind == text), "distance")


@room.get("")
def show() -> ResponseReturnValue:
    return _page({}, {}, 200)


def _page(errors: dict[str, str], typed: dict[str, str], code: int) -> ResponseReturnValue:
    tools, answer = [], stand_ins_answer()
    for kind in READ:
        name = NAMES[kind]
        found = found_tool(kind)
        panel = panel_of(found.address) if found and found.stand_in and answer else None
        tools.append((kind, name, found, _shown(kind, panel) | (typed if typed.get("kind") == kind else {})))
    return render_template(
        "underbody/tools.html", tools=tools, errors=errors, answer=answer, wrong_kind=typed.get("kind")
    ), code


def _shown(kind: Kind, panel: Panel | None) -> dict[str, str]:
    if panel is None:
        return {}
    plain = kind != "distance"
    value, noise = (
        f"{v:g}" if plain else format_length(v, g.unit, 2, suffix=False) for v in (panel.value, panel.noise)
    )
    return {
        "value": value,
        "noise": noise,
        "drop": f"{panel.drop * 100:g}",
        "absurd": f"{panel.absurd * 100:g}",
    }


@room.post("/stand-ins")
def let_stand_ins() -> ResponseReturnValue:
    """Let stand-ins answer in this shop, or not."""
    with transaction() as connection:
        jobs.let_stand_ins(connection, request.form.get("let") == "yes")
    return redirect(url_for("tools.show"), 303)


@room.post("")
def set_stand_in() -> ResponseReturnValue:
    """Set what a stand-in reads."""
    kind = _kind(request.form.get("kind"))
    reader = Reader(request.form, typing_unit())
    values: dict[str, float] = {}
    if kind == "angle":
        values["value"] = reader.angle("value", "reading", -180, 180)
        values["noise"] = reader.angle("noise", "noise", 0, 20)
    elif kind == "sound":
        values["value"], values["noise"] = reader.number("value", 25, 140), reader.number("noise", 0, 20)
    else:
        values["value"] = float(reader.length("value", 0.0))
        values["noise"] = float(reader.length("noise", 0.0, 200.0))
    for key in ("drop", "absurd"):
        values[key] = reader.angle(key, "share", 0, 100) / 100
    try:
        reader.finish()
        set_panel(tool_of(kind).address, values)
    except InputError as exc:
        return _page({"value": str(exc)}, request.form.to_dict(), 422)
    except Faults as faults:
        return _page(faults.errors, request.form.to_dict(), 422)
    return redirect(url_for("tools.show"), 303)
