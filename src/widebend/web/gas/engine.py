"""The engine: the one form, on every sheet of the gas."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, request
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.gas import tyre_rolling_mm
from ...core.records import Aspiration, Design, Engine, Firing, Fuel, Gearbox
from ...core.units import Length, parse_length, parse_power
from ..page.figures import typing_unit
from ..page.reader import Reader
from . import bore, heat, sound
from .state import edited

room = Blueprint("engine", __name__, url_prefix="/jobs/<int:job_id>/engine")

SHEETS = {"bore": bore.render, "heat": heat.render, "sound": sound.render}
MOST_KW, MOST_LITRES = 2500.0, 30.0


@room.post("")
def keep(job_id: int) -> ResponseReturnValue:
    """Write down what engine it is."""
    sheet = request.form.get("sheet", "")
    sheet = sheet if sheet in SHEETS else "bore"
    return edited(
        job_id, sheet, SHEETS[sheet], lambda here, reader: (_with_engine(here.design, reader), "wrote down the engine")
    )


def _with_engine(design: Design, reader: Reader) -> Design:
    made: dict[str, Any] = {
        "cylinders": int(reader.number("cylinders", 1, 16)),
        "strokes": 2 if request.form.get("strokes") == "2" else 4,
        "firing": reader.choice("firing", get_args(Firing), "even"),
        "idle_rpm": reader.number("idle_rpm", 200, 3000),
        "cruise_rpm": reader.number("cruise_rpm", 500, 12_000),
        "rated_rpm": reader.number("rated_rpm", 1000, 20_000),
        "power_kw": _power(reader),
        "litres": reader.number("litres", 0.04, MOST_LITRES) if reader.given("litres") else None,
        "fuel": reader.choice("fuel", get_args(Fuel), "petrol"),
        "aspiration": reader.choice("aspiration", get_args(Aspiration), "natural"),
        "full_lambda": reader.number("full_lambda", 0.6, 4) if reader.given("full_lambda") else None,
        **{key: reader.number(key, 0, 1200) if reader.given(key) else None for key in ("idle_c", "cruise_c", "full_c")},
        "gearbox": _gearbox(reader),
    }
    if made["power_kw"] is None and made["litres"] is None and "power" not in reader.errors:
        reader.errors["power"] = "its power, or what it displaces: either tells how much gas it gives"
    reader.finish()
    settings = design.settings.replace(engine=Engine.model_validate(made))
    return design.replace(settings=settings).validated()


def _power(reader: Reader) -> float | None:
    if not reader.given("power"):
        return None
    try:
        return parse_power(reader.form["power"], 1.0, MOST_KW)
    except InputError as exc:
        reader.errors["power"] = str(exc)
        return None


def _gearbox(reader: Reader) -> Gearbox | None:
    if not reader.given("ratios"):
        return None
    ratios: list[float] = []
    for text in reader.form["ratios"].replace(";", " ").replace(", ", " ").split():
        try:
            ratios.append(float(text.replace(",", ".")))
        except ValueError:
            ratios.append(0.0)
    if not 1 <= len(ratios) <= 12 or not all(0.2 < r <= 20 for r in ratios):
        reader.errors["ratios"] = "ratios from first gear on, like 3.6 2.1 1.4 1.0 0.8"
        return None
    final = reader.number("final", 0.5, 15) if reader.given("final") else 1.0
    return None if "final" in reader.errors else Gearbox(ratios=tuple(ratios), final=final, rolling_mm=_rolling(reader))


def _rolling(reader: Reader) -> Length:
    """How far the tyre rolls: its size, or a length."""
    typed = reader.form.get("tyre", "").strip()
    if not typed:
        reader.errors["tyre"] = "a tyre's size like 205/55 R16, or how far it rolls in one turn"
        return Length(1950.0)
    try:
        if "/" in typed and len(typed) > 6:
            return Length(tyre_rolling_mm(typed))
        return parse_length(typed, typing_unit(), least=500.0, most=5000.0)
    except InputError as exc:
        reader.errors["tyre"] = str(exc)
        return Length(1950.0)
