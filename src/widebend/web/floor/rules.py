"""The shop's rule book: needed gaps, each with where its default comes from, all changeable."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for

from ...core.records import Rules
from ...core.units import format_length
from ...store import jobs
from ..page.at_hand import transaction
from ..page.edits import Faults
from ..page.figures import typing_unit
from ..page.reader import Reader

room = Blueprint("rules", __name__)

BOOK = (
    ("hard_gap_mm", "gap to hard things that move with the body"),
    ("engine_gap_mm", "gap to what rocks with the engine"),
    ("axle_gap_mm", "gap to what travels with an axle"),
    ("driveline_gap_mm", "gap to the propshaft and what goes with it"),
    ("steering_gap_mm", "gap to what the steering moves"),
    ("moving_gap_mm", "gap to anything else that moves"),
    ("fuel_line_gap_mm", "gap to a fuel line"),
    ("fuel_tank_gap_mm", "gap to a fuel tank"),
    ("brake_hose_gap_mm", "gap to a brake hose"),
    ("wiring_gap_mm", "gap to wiring"),
    ("rubber_boot_gap_mm", "gap to a rubber boot"),
    ("plastic_gap_mm", "gap to plastic"),
    ("heat_shy_gap_mm", "gap to anything else that is heat-shy"),
    ("soft_gap_mm", "gap to soft things: bumper, trim"),
    ("low_line_gap_mm", "gap over the low line"),
    ("own_gap_mm", "gap of the system to itself"),
    ("hanger_swing_mm", "swing of the hung system to each side"),
    ("sensor_from_turbine_mm", "wideband sensor behind the turbine, at least"),
    ("sensor_room_mm", "room off the pipe for sensor, plug and spanner"),
    ("torch_room_mm", "room round a joint for hand and torch"),
    ("tip_gap_mm", "gap of a tip to its cut-out, all round"),
    ("muffler_floor_gap_mm", "gap of a muffler, resonator or catalyst to the body"),
    ("outlet_clear_mm", "clear behind an outlet, at least"),
    ("longest_section_mm", "longest section that is handled in one"),
    ("least_slip_mm", "a slip is pushed in by at least"),
    ("least_ring_mm", "shortest ring or rest of a straight that can be held and welded"),
)
MOST_MM = {"longest_section_mm": 8000.0, "outlet_clear_mm": 3000.0, "sensor_from_turbine_mm": 2000.0}
# what is not a length: least, most and unit
FIGURES = (
    ("hot_rise_k", "how much hotter than the shop the system's metal gets", 0.0, 1000.0, "K"),
    ("sensor_above_level_deg", "a sensor looks above level by at least", 0.0, 90.0, "degrees"),
    ("branch_deg", "a branch leaves at about, to the flow", 1.0, 90.0, "degrees"),
    ("pie_clr_od", "bends of slices, where no other goes: radius in tube diameters", 0.55, 5.0, "times"),
    ("pie_turn_deg", "one slice turns at most", 1.0, 45.0, "degrees"),
    ("trim_deg", "what turns less is offered as a cut re-clocked, not as a bend", 0.0, 30.0, "degrees"),
    ("thick_to_thin", "walls that differ this many times want the heat on the thick side", 1.0, 20.0, "times"),
)


@room.get("/rules")
def show() -> Any:
    with transaction() as connection:
        book, shop = jobs.rules(connection), jobs.shop_name(connection)
    typed = {key: format_length(getattr(book, key), g.unit, 2, suffix=False) for key, _ in BOOK}
    typed |= {key: f"{getattr(book, key):g}" for key, *_ in FIGURES}
    typed["name"] = shop
    return _page(typed, {}, 200)


def _page(typed: Mapping[str, str], errors: dict[str, str], code: int) -> Any:
    return render_template(
        "floor/rules.html", book=BOOK, figures=FIGURES, typed=typed, errors=errors, defaults=Rules()
    ), code


@room.post("/rules")
def change() -> Any:
    reader = Reader(request.form, typing_unit())
    values: dict[str, float] = {key: reader.length(key, 0.0, MOST_MM.get(key, 500.0)) for key, _ in BOOK}
    values |= {key: reader.number(key, least, most) for key, _, least, most, _ in FIGURES}
    name = reader.words("name", 80)
    if not name:
        reader.errors["name"] = "what is the shop called?"
    try:
        reader.finish()
    except Faults as faults:
        return _page(request.form, faults.errors, 422)
    with transaction() as connection:
        jobs.set_shop(connection, name, Rules.model_validate(values))
    return redirect(url_for("floor.show"), 303)
