"""The sound sheet: how loud over speed, where it drones and what mends that, what the cans hold back, the sound log."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from flask import Blueprint, g, request
from flask.typing import ResponseReturnValue

from ...core.editing import configured
from ...core.errors import EditError, WideBendError
from ...core.gas import FlowSolution, Stretch, breath_of
from ...core.heat import covered
from ...core.laying import system_of
from ...core.quieting import BranchFit, fitted_branch
from ...core.records import Design, Engine
from ...core.sound import (
    HZ,
    BySpeed,
    Drone,
    Heard,
    Remedy,
    Tried,
    can_losses_db,
    character_of,
    drones,
    heard,
    insertion_loss_db,
    levels_by_speed,
    mends,
    plane_waves_to_hz,
)
from ...core.units import format_length, format_road
from ...core.wording import say
from ...facts import PART_KINDS
from ..drawing.curves import Band, Curve, Plot, plot
from ..layout.sheets import render_sheet
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import FormState
from ..page.figures import whole
from .sound_log import log_context
from .state import GasQuestion, asked, context, place_words

room = Blueprint("sound", __name__, url_prefix="/jobs/<int:job_id>/layout/sound")

SHOWN_ORDERS, SHOWN_CANS = 3, 6
TABLE_STEP = 500.0
FITTED_FOR = 3  # branches that are tried under the vehicle: the best by ear
RASP = ("rasp", "hiss")
CHARACTER_WORDS = {
    "boom": "booms: much of it lies under 160 Hz, where cabins answer",
    "body": "has body: most of it lies between 160 and 400 Hz",
    "rasp": "rasps: much of it lies between 400 and 900 Hz, where a resonator or packing bites",
    "hiss": "is harsh: much of it lies over 900 Hz, where packing bites",
}


@dataclass(frozen=True)
class Other:
    """An overlay on the design: its key and words."""

    key: str
    words: str


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, FormState())


def render(here: AtHand, said: FormState, code: int = 200) -> ResponseReturnValue:
    """The sheet."""
    now = asked(here, "cruise")
    engine = here.design.settings.engine
    shown = _shown(here, now, engine) if now.breath and engine else {}
    return render_sheet(
        here,
        said,
        code,
        "sound.show",
        "gas/_sound.html",
        lead="gas/_lead_sound.html",
        shadows=None,
        **shown,
        **log_context(here, shown.get("levels")),
        **context(here, now, "sound"),
    )


def is_can(stretch: Stretch) -> bool:
    """Whether a stretch is a can that quietens."""
    return stretch.part is not None and PART_KINDS[stretch.part.item.kind].is_silencer


def kept_sound(here: AtHand, now: GasQuestion) -> Heard:
    assert now.breath is not None  # asked before
    return solved(here.design, ("heard", now.state, now.open), partial(heard, now.breath))


def levels_of(here: AtHand, now: GasQuestion) -> BySpeed | None:
    """Levels over speed in a state; None where nothing can be calculated."""
    engine = here.design.settings.engine
    if now.breath is None or engine is None:
        return None
    return levels_by_speed(engine, now.breath, kept_sound(here, now))


def _shown(here: AtHand, now: GasQuestion, engine: Engine) -> dict[str, Any]:
    breath = now.breath
    assert breath is not None  # asked before
    design = here.design
    levels = levels_by_speed(engine, breath, kept_sound(here, now))
    found = drones(engine, breath, levels, design.settings.rules)
    at = min(whole(request.values.get("drone")), len(found))
    chosen = found[at - 1] if at else None
    helps = _mends(here, now, engine, chosen) if chosen else []
    fits = _fits(here, helps, now, chosen)
    others = _others(design, helps)
    over = next((o for o in others if o.key == request.values.get("over")), None)
    laid_over = _laid_over(here, now, engine, over, helps) if over else None
    plain = heard(breath, Tried(bare=is_can))
    bare = levels_by_speed(engine, breath, plain)
    made = character_of(levels)
    return {
        "levels": levels,
        "drones": [_drone_words(d) for d in found],
        "at": at,
        "others": others,
        "over": over,
        "mends": sorted(
            (_mend_row(design, k, m, fits.get(k)) for k, m in enumerate(helps)), key=lambda r: not r["fits"]
        ),
        "chosen": chosen,
        "plot": _speed_plot(engine, levels, laid_over, over, found, design),
        "holds": _holds_plot(design, breath, kept_sound(here, now), plain),
        "rows": _rows(levels, laid_over),
        "made": [CHARACTER_WORDS[n] for n in made.names],
        "capped": breath.ways.capped,
        "quieter": _quieter(levels, bare),
        "plane_hz": plane_waves_to_hz(breath),
    }


def _mends(here: AtHand, now: GasQuestion, engine: Engine, drone: Drone) -> list[Remedy]:
    assert now.breath is not None  # asked before
    return solved(
        here.design, ("mends", now.state, now.open, drone.rpm, drone.order), partial(mends, engine, now.breath, drone)
    )


def _fits(here: AtHand, helps: list[Remedy], now: GasQuestion, drone: Drone | None) -> dict[int, BranchFit | None]:
    """The best branches under the vehicle."""
    if drone is None:
        return {}
    at = [k for k, m in enumerate(helps) if m.kind == "quarter wave"][:FITTED_FOR]
    at += [k for k, m in enumerate(helps) if m.kind == "volume"][:1]
    return {
        k: solved(
            here.design,
            ("branch", now.state, drone.rpm, drone.order, k),
            partial(fitted_branch, here.design, helps[k], here.found),
        )
        for k in at
    }


def taken_branch(here: AtHand, now: GasQuestion, drone_at: int, mend_at: int) -> BranchFit:
    """The branch that was shown under a number. Raises EditError where it is there no more, or does not fit."""
    engine = here.design.settings.engine
    if now.breath is None or engine is None:
        raise EditError(now.refusal or "say what engine it is first")
    levels = levels_by_speed(engine, now.breath, kept_sound(here, now))
    found = drones(engine, now.breath, levels, here.design.settings.rules)
    if not 0 < drone_at <= len(found):
        raise EditError("that drone is no longer there: the design has changed")
    helps = _mends(here, now, engine, found[drone_at - 1])
    fit = _fits(here, helps, now, found[drone_at - 1]).get(mend_at)
    if fit is None:
        raise EditError("that branch is no longer offered: the design has changed")
    if not fit.fits:
        raise EditError("that branch does not keep its gaps: choose one that fits")
    return fit


# --- laid over ----------------------------------------------------------------------------------------------------


def _others(design: Design, helps: list[Remedy]) -> list[Other]:
    out = [Other("bare", "no muffler, no resonator")]
    out += [Other(f"config-{c.id}", c.name) for c in design.configurations if c.without]
    shown = request.values.get("over", "")
    return out + [Other(f"mend-{k}", mend_words(design, m)) for k, m in enumerate(helps) if shown == f"mend-{k}"]


def _laid_over(here: AtHand, now: GasQuestion, engine: Engine, over: Other, helps: list[Remedy]) -> BySpeed | None:
    breath = now.breath
    assert breath is not None  # asked before
    kind, _, which = over.key.partition("-")
    if kind == "bare":
        return levels_by_speed(engine, breath, heard(breath, Tried(bare=is_can)))
    if kind == "mend":
        return levels_by_speed(engine, breath, heard(breath, helps[int(which)].tried))
    configuration = next(c for c in here.design.configurations if c.id == which)
    try:
        design = configured(here.design, configuration)
        other: FlowSolution = solved(
            design,
            ("breath", now.state, now.open),
            partial(breath_of, design, system_of(design), now.state, covered(design), cutouts_open=now.open),
        )
        return levels_by_speed(engine, other, heard(other))
    except WideBendError:
        return None


# --- words and plots ----------------------------------------------------------------------------------------------


def _drone_words(drone: Drone) -> dict[str, Any]:
    top = drone.roads[0] if drone.roads else None
    return {
        "rpm": drone.rpm,
        "order": f"{drone.order:g}",
        "hz": drone.hz,
        "out": drone.stands_out_db,
        "db": drone.level_db,
        "gear": top[0] if top else 0,
        "kmh": format_road(top[1], g.unit) if top else "",
        "others": [(gear, format_road(kmh, g.unit)) for gear, kmh in drone.roads[1:]],
        "rings": f"the pipe from {drone.rings.from_name} to {drone.rings.to_name}, "
        f"{format_length(drone.rings.long_mm, g.unit, 0)}, rings there as a {drone.rings.wave}"
        if drone.rings
        else "",
    }


def mend_words(design: Design, mend: Remedy) -> str:
    """Describe a remedy in one line."""
    at, long = place_words(design, mend.stretch), format_length(abs(mend.long_mm), g.unit, 0)
    bore = format_length(mend.across_mm, g.unit)
    if mend.kind == "quarter wave":
        return f"closed branch of {long}, bore {bore}, on {at}, {format_length(mend.along_mm, g.unit, 0)} along it"
    if mend.kind == "volume":
        (neck, inside), (body, wide) = mend.sections
        behind = f"behind a neck {format_length(neck, g.unit, 0)} long, bore {format_length(inside, g.unit)}, on {at}"
        return f"{mend.litres:.1f} l ({format_length(body, g.unit, 0)} of bore {format_length(wide, g.unit)}) {behind}"
    if mend.kind == "resonator":
        return f"resonator {long} long, {bore} wide, into {at}"
    if mend.kind == "tailpipe":
        return f"last pipe {long} {'longer' if mend.long_mm > 0 else 'shorter'}"
    return f"{at} moved {long} {'back' if mend.long_mm > 0 else 'forward'}"


def _mend_row(design: Design, at: int, mend: Remedy, fit: BranchFit | None) -> dict[str, Any]:
    return {
        "at": at,
        "kind": mend.kind,
        "words": mend_words(design, mend),
        "there": mend.change.there_db,
        "low": mend.change.low_db,
        "high": mend.change.high_db,
        "around": mend.change.around_db,
        "fit": fit,
        "fits": fit is not None and fit.fits,
        "trouble": _trouble(fit),
        "room": format_length(fit.margin_mm, g.unit, 0) if fit else "",
        "by": fit.against if fit else "",
    }


def _trouble(fit: BranchFit | None) -> str:
    return "" if fit is None else " ".join(say(f, fit.design, g.unit) for f in fit.trouble)


def _speed_plot(
    engine: Engine, levels: BySpeed, other: BySpeed | None, over: Other | None, found: list[Drone], design: Design
) -> Plot:
    """Levels over the engine's speed, the loudest orders with it, drones marked."""
    curves = [Curve("all of it, dB(A)", "all", np.column_stack([levels.rpm, levels.all_a]))]
    loud = np.argsort(-levels.by_order.mean(axis=1))[:SHOWN_ORDERS]
    for n, i in enumerate(sorted(loud.tolist())):
        curves.append(
            Curve(f"order {levels.orders[i]:g}, dB", f"order{n}", np.column_stack([levels.rpm, levels.by_order[i]]))
        )
    if other is not None and over is not None:
        curves.append(Curve(f"all of it: {over.words}", "over", np.column_stack([other.rpm, other.all_a])))
        if found:
            i = int(np.argmin(np.abs(levels.orders - found[0].order)))
            curves.append(
                Curve(
                    f"order {levels.orders[i]:g}: {over.words}",
                    "over-order",
                    np.column_stack([other.rpm, other.by_order[i]]),
                )
            )
    high = max(float(c.points[:, 1].max()) for c in curves)
    rules, once = design.settings.rules, engine.fires_hz(1.0)
    bands = [Band(rules.cabin_low_hz / once, rules.cabin_high_hz / once, "where the firing order meets the cabin")]
    signs = [(d.rpm, d.level_db, f"order {d.order:g}") for d in found]
    return plot(
        curves,
        "engine speed, rpm",
        "level at half a metre, dB",
        bands=bands,
        signs=signs,
        x_range=(float(levels.rpm[0]), float(levels.rpm[-1])),
        y_range=(high - 60.0, high + 6.0),
    )


def _quieter(levels: BySpeed, bare: BySpeed) -> float:
    """How much quieter than bare pipe all of it is, over the speeds [dB(A)]."""
    return float(np.mean(bare.all_a - levels.all_a))


def _holds_plot(design: Design, breath: FlowSolution, sound: Heard, plain: Heard) -> Plot:
    """Return the transmission loss of the cans over frequency: all of them together, and each alone."""
    curves = [Curve("insertion loss of all cans", "all", np.column_stack([HZ, insertion_loss_db(sound, plain)]))]
    for n, (part_id, loss) in enumerate(can_losses_db(breath)[:SHOWN_CANS]):
        curves.append(
            Curve(
                f"transmission loss: {place_words(design, part_id)}",
                f"order{n % SHOWN_ORDERS}",
                np.column_stack([HZ, loss]),
            )
        )
    high = max(20.0, min(60.0, max(float(c.points[:, 1].max()) for c in curves) + 3.0))
    return plot(curves, "frequency, Hz", "dB", x_range=(float(HZ[0]), float(HZ[-1])), y_range=(-10.0, high))


def _rows(levels: BySpeed, other: BySpeed | None) -> list[dict[str, Any]]:
    """The figures of the plot, at whole steps of speed."""
    out = []
    for rpm in np.arange(np.ceil(levels.rpm[0] / TABLE_STEP) * TABLE_STEP, levels.rpm[-1] + 1, TABLE_STEP):
        i = int(np.argmin(np.abs(levels.rpm - rpm)))
        o = int(np.argmax(levels.by_order[:, i]))
        out.append(
            {
                "rpm": float(rpm),
                "all": float(levels.all_a[i]),
                "order": f"{levels.orders[o]:g}",
                "order_db": float(levels.by_order[o, i]),
                "hz": float(levels.orders[o] * rpm / 60),
                "other": float(other.all_a[i]) if other is not None else None,
            }
        )
    return out
