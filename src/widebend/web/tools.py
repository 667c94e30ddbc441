"""Digital measuring tools at the bench: take a reading into a field, and the panel of the stand-ins."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, current_app, g, redirect, render_template, request, url_for

from ..core.errors import InputError
from ..core.units import format_length
from ..instruments.stand_in import Panel, panel_of, set_panel
from ..instruments.taking import Address, Kind, Reading, take
from .edits import Faults
from .reader import Reader
from .shared import typing_unit

room = Blueprint("tools", __name__, url_prefix="/tools")

NAMES: dict[Kind, str] = {"angle": "angle finder", "distance": "laser meter"}


def address_of(kind: Kind) -> Address:
    """Where a tool answers. Raises InputError when there is none."""
    found: dict[Kind, Address] = current_app.extensions["tools"]
    if kind not in found:
        raise InputError(f"no {NAMES[kind]} is connected: type what it shows")
    return found[kind]


@room.get("/take/<kind>")
def take_reading(kind: str) -> Any:
    """A reading as the field it goes into, with how it was taken; or the field as it was, with what went wrong."""
    name, field_id = request.args.get("name", "")[:40], request.args.get("id", "")[:60]
    wanted: Kind = "angle" if kind == "angle" else "distance"
    typed, said, wrong = request.args.get(name, "")[:40], "", ""
    try:
        reading = take(address_of(wanted), wanted)
        typed, said = _typed(reading), f"{_typed(reading)} {_doubt(reading)}, {reading.words}"
    except InputError as exc:
        wrong = str(exc)
    values = {"name": name, "field_id": field_id, "kind": wanted, "value": typed, "said": said, "wrong": wrong}
    return render_template("_taken.html", **values)


def _typed(reading: Reading) -> str:
    """A reading as a person would type it."""
    if reading.kind == "angle":
        return f"{reading.value:.1f}"
    return format_length(reading.value, "in" if g.unit == "in16" else g.unit, 2 if g.unit != "mm" else 1, suffix=False)


def _doubt(reading: Reading) -> str:
    return (
        f"± {reading.plus_minus:.1f}°" if reading.kind == "angle" else f"± {format_length(reading.plus_minus, g.unit)}"
    )


@room.get("")
def show() -> Any:
    return _page({}, {}, 200)


def _page(errors: dict[str, str], typed: dict[str, str], code: int) -> Any:
    tools = []
    for kind, name in NAMES.items():
        found = current_app.extensions["tools"].get(kind)
        panel = panel_of(found) if found else None
        tools.append((kind, name, found, _shown(kind, panel) | (typed if typed.get("kind") == kind else {})))
    return render_template("tools.html", tools=tools, errors=errors, wrong_kind=typed.get("kind")), code


def _shown(kind: Kind, panel: Panel | None) -> dict[str, str]:
    if panel is None:
        return {}
    plain = kind == "angle"
    value, noise = (
        f"{v:g}" if plain else format_length(v, g.unit, 2, suffix=False) for v in (panel.value, panel.noise)
    )
    return {
        "value": value, "noise": noise, "drop": f"{panel.drop * 100:g}",
        "absurd": f"{panel.absurd * 100:g}",
    }  # fmt: skip


@room.post("")
def set_stand_in() -> Any:
    """Set what a stand-in reads."""
    kind: Kind = "angle" if request.form.get("kind") == "angle" else "distance"
    reader = Reader(request.form, typing_unit())
    values: dict[str, float] = {}
    if kind == "angle":
        values["value"] = reader.angle("value", "reading", -180, 180)
        values["noise"] = reader.angle("noise", "noise", 0, 20)
    else:
        values["value"] = float(reader.length("value", 0.0))
        values["noise"] = float(reader.length("noise", 0.0, 200.0))
    for key in ("drop", "absurd"):
        values[key] = reader.angle(key, "share", 0, 100) / 100
    try:
        reader.finish()
        set_panel(address_of(kind), values)
    except InputError as exc:
        return _page({"value": str(exc)}, request.form.to_dict(), 422)
    except Faults as faults:
        return _page(faults.errors, request.form.to_dict(), 422)
    return redirect(url_for("tools.show"), 303)
