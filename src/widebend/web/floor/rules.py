"""The shop's rule book: needed gaps and rules of placing by what they are about, each with its usual value."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.records import Rules
from ...core.units import format_length
from ...store import jobs
from ..page.as_shown import refuse_overtaken, stamp
from ..page.at_hand import transaction
from ..page.edits import Faults
from ..page.figures import typing_unit
from ..page.reader import EXACT, Before, Reader

room = Blueprint("rules", __name__)


@dataclass(frozen=True)
class Rule:
    """A field of the rule book: what it means, in which unit ("" = a length), least and most [mm or its unit]."""

    key: str
    words: str
    unit: str = ""
    least: float = 0.0
    most: float = 500.0


@dataclass(frozen=True)
class Group:
    """Rules about one thing, with the drawing that shows what they mean."""

    title: str
    drawing: str
    rules: tuple[Rule, ...]


BOOK = (
    Group(
        "gaps to what is hard",
        "hard",
        (
            Rule("hard_gap_mm", "to hard things that move with the body"),
            Rule("low_line_gap_mm", "over the low line"),
            Rule("own_gap_mm", "of the system to itself"),
            Rule("soft_gap_mm", "to soft things: bumper, trim"),
            Rule("taped_mm", "once taped, a thing is known to within"),
        ),
    ),
    Group(
        "gaps to what moves",
        "moving",
        (
            Rule("engine_gap_mm", "to what rocks with the engine"),
            Rule("axle_gap_mm", "to what travels with an axle"),
            Rule("driveline_gap_mm", "to the propshaft and what goes with it"),
            Rule("steering_gap_mm", "to what the steering moves"),
            Rule("moving_gap_mm", "to anything else that moves"),
        ),
    ),
    Group(
        "gaps to what heat harms",
        "heat",
        (
            Rule("fuel_line_gap_mm", "to a fuel line"),
            Rule("fuel_tank_gap_mm", "to a fuel tank"),
            Rule("brake_hose_gap_mm", "to a brake hose"),
            Rule("wiring_gap_mm", "to wiring"),
            Rule("rubber_boot_gap_mm", "to a rubber boot"),
            Rule("plastic_gap_mm", "to plastic"),
            Rule("heat_shy_gap_mm", "to anything else that is heat-shy"),
            Rule("shielded_gap_mm", "to anything of these behind a shield, whatever the heat sheet works out"),
            Rule("muffler_floor_gap_mm", "of a muffler, resonator or catalyst to the body"),
        ),
    ),
    Group(
        "what bears how much heat",
        "heat",
        (
            Rule("fuel_line_c", "a fuel line", "°C", 0.0, 1200.0),
            Rule("fuel_tank_c", "a fuel tank", "°C", 0.0, 1200.0),
            Rule("brake_hose_c", "a brake hose", "°C", 0.0, 1200.0),
            Rule("wiring_c", "wiring", "°C", 0.0, 1200.0),
            Rule("rubber_boot_c", "a rubber boot", "°C", 0.0, 1200.0),
            Rule("plastic_c", "plastic", "°C", 0.0, 1200.0),
            Rule("heat_shy_c", "anything else that is heat-shy", "°C", 0.0, 1200.0),
            Rule("soft_c", "soft things: bumper, trim", "°C", 0.0, 1200.0),
        ),
    ),
    Group(
        "gas and heat",
        "heat",
        (
            Rule("grass_c", "dry grass takes fire from", "°C", 0.0, 1200.0),
            Rule("ambient_c", "the air round the system", "°C", -40.0, 60.0),
            Rule("roughness_mm", "the inside of used pipe is rough to", "mm", 0.0001, 2.0),
            Rule(
                "pulsation_factor",
                "the gas's pulses give the wall this many times the heat of a steady flow",
                "times",
                1.0,
                5.0,
            ),
            Rule("airflow_share", "air goes under the vehicle at this share of its speed", "share", 0.0, 1.0),
        ),
    ),
    Group(
        "sound",
        "heat",
        (
            Rule("cabin_low_hz", "cabins boom from", "Hz", 16.0, 400.0),
            Rule("cabin_high_hz", "to", "Hz", 16.0, 400.0),
            Rule("drone_db", "a drone stands out of its order by", "dB", 1.0, 30.0),
        ),
    ),
    Group(
        "how the system moves",
        "swing",
        (
            Rule("hanger_swing_mm", "swing to each side, until it hangs on hangers of its own"),
            Rule("hot_rise_k", "how much hotter than the shop its metal gets", "K", 0.0, 1000.0),
            Rule("sag_mm", "hung, it goes down by no more than"),
            Rule("span_mm", "from one hanger or held end to the next, along the pipe", least=50.0, most=6000.0),
            Rule("rod_pull_mm", "a rod is hooked in under a pull of, where the shop hangs so", most=40.0),
            Rule("tack_nm", "a joint of three tacks is bent by no more than", "N m", 1.0, 2000.0),
            Rule("flex_across_n", "a flex carries across, no more than", "N", 0.0, 5000.0),
            Rule("flex_bend_nm", "a flex is bent by no more than", "N m", 0.0, 500.0),
            Rule("rubber_heat_mm", "a rubber stays off the pipe by"),
            Rule("idle_band", "a swing is kept off the firing at idle by, as a share", "share", 0.0, 0.9),
        ),
    ),
    Group(
        "sensors and branches",
        "sensor",
        (
            Rule("sensor_from_turbine_mm", "wideband sensor behind the turbine, at least", most=2000.0),
            Rule("sensor_above_level_deg", "a sensor looks above level by at least", "degrees", 0.0, 90.0),
            Rule("sensor_room_mm", "room off the pipe for sensor, plug and spanner"),
            Rule("boss_od_mm", "a boss is this wide", least=10.0, most=60.0),
            Rule("boss_hole_mm", "the hole under a boss", least=5.0, most=60.0),
            Rule("branch_deg", "a branch leaves at about, to the flow", "degrees", 1.0, 90.0),
        ),
    ),
    Group(
        "tips and outlets",
        "tip",
        (
            Rule("tip_gap_mm", "of a tip to its cut-out, all round"),
            Rule("outlet_clear_mm", "clear behind an outlet, at least", most=3000.0),
        ),
    ),
    Group(
        "cutting and welding",
        "weld",
        (
            Rule("torch_room_mm", "room round a joint for hand and torch"),
            Rule("least_slip_mm", "a slip is pushed in by at least"),
            Rule("least_ring_mm", "shortest ring or rest of a straight that can be held and welded"),
            Rule("least_throat_mm", "a slice is at least this long at its throat", most=50.0),
            Rule("longest_section_mm", "longest section that is handled in one", least=100.0, most=8000.0),
            Rule("bar_mm", "a bar of tube is bought so long", least=100.0, most=12_000.0),
            Rule("facing_mm", "left on a piece to be dressed square", most=20.0),
            Rule("vice_hold_mm", "the vice or saw holds no less than", most=500.0),
            Rule("usable_rest_mm", "a shorter rest of a bar is scrap", most=2000.0),
            Rule("filler_g_m", "filler for a metre of weld", "g", 0.0, 1000.0),
            Rule("tig_l_min", "gas at the TIG torch", "l/min", 0.0, 40.0),
            Rule("mig_l_min", "gas at the MIG torch", "l/min", 0.0, 40.0),
            Rule("cuts_a_disc", "cuts from one disc", "cuts", 1.0, 1000.0),
            Rule("k_factor", "where plate keeps its length in a bend, as a share of its thickness", "share", 0.2, 0.6),
            Rule("trim_deg", "what turns less is offered as a cut re-clocked, not as a bend", "degrees", 0.0, 30.0),
            Rule("cut_spread_mm", "a cut's length goes off by (one deviation)", least=0.01, most=10.0),
            Rule("saw_spread_deg", "a saw cuts off square by", "degrees", 0.01, 5.0),
            Rule("bend_spread_deg", "a stock bend's angle goes off by", "degrees", 0.01, 5.0),
            Rule("radius_spread", "a stock bend's radius goes off by, as a share of it", "share", 0.001, 0.1),
            Rule("clock_spread_mm", "a clock taped round the tube goes off by", least=0.01, most=20.0),
            Rule("tack_spread_deg", "a tack pulls a joint each way by", "degrees", 0.01, 5.0),
            Rule("weld_spread_deg", "its weld then pulls it by", "degrees", 0.01, 5.0),
            Rule("fit_mm", "a joint is still tacked with a gap or step of", least=0.01, most=10.0),
            Rule("fit_deg", "a joint is still tacked askew by", "degrees", 0.01, 5.0),
            Rule("flex_deg", "a flex may be set askew by", "degrees", 0.0, 20.0),
            Rule(
                "thick_to_thin", "walls that differ this many times want the heat on the thick side", "times", 1.0, 20.0
            ),
        ),
    ),
    Group(
        "bends of slices, where no other goes",
        "slices",
        (
            Rule("pie_clr_od", "radius in tube diameters", "times", 0.55, 5.0),
            Rule("pie_turn_deg", "one slice turns at most", "degrees", 1.0, 45.0),
        ),
    ),
)
EVERY = tuple(rule for group in BOOK for rule in group.rules)


@room.get("/rules")
def show() -> ResponseReturnValue:
    with transaction() as connection:
        book, shop = jobs.rules(connection), jobs.shop_name(connection)
    return _page(_shown(book, g.unit) | {"name": shop}, {}, book)


def _shown(book: Rules, unit: str) -> dict[str, str]:
    """Every rule as its field shows it."""
    figures = 6 if unit == EXACT else 2
    return {
        rule.key: f"{getattr(book, rule.key):g}"
        if rule.unit
        else format_length(getattr(book, rule.key), "mm" if unit == EXACT else unit, figures, suffix=False)
        for rule in EVERY
    }


def _page(typed: Mapping[str, str], errors: dict[str, str], book: Rules) -> ResponseReturnValue:
    """The book; only what was looked for, where something was: fields that are not shown stay as they are."""
    usual, find = Rules(), request.args.get("find", "").strip()
    wanted = [w for w in find.lower().split() if w]
    groups = [
        (group, [r for r in group.rules if all(w in f"{group.title} {r.words}".lower() for w in wanted)])
        for group in BOOK
    ]
    changed = {rule.key for rule in EVERY if getattr(book, rule.key) != getattr(usual, rule.key)}
    shown = {"groups": [(group, rules) for group, rules in groups if rules], "typed": typed, "errors": errors}
    with transaction() as connection:
        now = stamp(_shown(book, g.unit) | {"name": jobs.shop_name(connection)})
    return render_template(
        "floor/rules.html", **shown, as_shown=now, usual=_shown(usual, g.unit), changed=changed, find=find
    ), 422 if errors else 200


@room.post("/rules")
def change() -> ResponseReturnValue:
    with transaction() as connection:
        book, was_called = jobs.rules(connection), jobs.shop_name(connection)
    reader = Reader(request.form, typing_unit(), Before(book, _shown(book, g.unit), _shown(book, EXACT)))
    values: dict[str, Any] = {}
    for rule in EVERY:
        if rule.key == request.form.get("usual"):
            values[rule.key] = getattr(Rules(), rule.key)
        elif rule.key not in request.form:
            values[rule.key] = getattr(book, rule.key)
        elif rule.unit:
            values[rule.key] = reader.number(rule.key, rule.least, rule.most)
        else:
            values[rule.key] = reader.length(rule.key, rule.least, rule.most)
    name = reader.words("name", 80)
    if not name:
        reader.errors["name"] = "what is the shop called?"
    try:
        reader.finish()
        refuse_overtaken(_shown(book, g.unit) | {"name": was_called})
    except Faults as faults:
        return _page(_shown(book, g.unit) | request.form, faults.errors, book)
    with transaction() as connection:
        jobs.set_shop(connection, name, Rules.model_validate(values))
    return redirect(url_for("rules.show") if request.form.get("usual") else url_for("floor.show"), 303)
