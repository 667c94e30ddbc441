"""How each joint is welded: process, current, tungsten, filler, root, heat side, tacks, minutes, wire and gas; or
why it is not, and the way round it.

Every figure has its source in docs/sources.md, *Welding*, and how sure it is. None of it stands in place of the shop's
own written procedure.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ...facts import JOINTS, METALS, PROCESSES, Metal, Process
from ..errors import InputError
from ..records import Rules, Welding
from ..welding import (
    Consumables,
    Purge,
    Shade,
    consumables,
    current_a,
    heat_input_kj_mm,
    process_refusal,
    purge_for,
    shade,
    tungsten_mm,
)
from .joints import ROUND, WeldJoint

TACKS = ((50.0, 3), (80.0, 4), (float("inf"), 6))  # to a tube's outside [mm], this many tacks: common practice
THICKER = 1.2  # times as thick wants the heat on it
MIG_WIRE_MM = 0.8
STRIP_MM = 20.0  # a coating is taken off so far to both sides: common practice
# what a tube of each metal is joined with where it is not welded
WAY_ROUND = "join them by a flange, a V-band or a sleeve with a clamp"
Sure = Literal["sure", "likely", "rule of thumb"]


@dataclass(frozen=True)
class Figure:
    """A figure of a weld as it is shown: what it is, its value in words, where it is from, how sure that is."""

    what: str
    value: str
    source: str
    sure: Sure


@dataclass(frozen=True)
class WeldPlan:
    """A joint's plan. `refused` says why it is not welded and what to do instead; then there are no figures. `tacks`
    are clocks on the vehicle [deg] in the order they are set; `quarters` the order of its four welds, from and to
    [deg].
    """

    joint: WeldJoint
    refused: str
    where: Literal["bench", "vehicle"]
    why_there: str
    figures: tuple[Figure, ...]
    notes: tuple[str, ...]
    tacks: tuple[float, ...]
    quarters: tuple[tuple[float, float], ...]
    amps: float
    shade: Shade | None
    purge: Purge | None
    arc_min: float
    filler_g: float
    gas_l: float


def plan_of(joint: WeldJoint, welding: Welding, rules: Rules, pull_toward_deg: float | None = None) -> WeldPlan:
    """The plan of one joint; `pull_toward_deg` is the clock its weld should pull what lies behind toward, where what
    was found leans.
    """
    where, why = _where(joint)
    refused = refusal(joint, welding.process)
    tacks, quarters = (tack_clocks(joint), quarters_of(pull_toward_deg)) if joint.goes_round else ((), ())
    if refused or not joint.welds:
        return WeldPlan(joint, refused, where, why, (), (), (), (), 0.0, None, None, 0.0, 0.0, 0.0)
    wall = min(side.wall_mm or joint_wall(joint) for side in joint.sides)
    amps = current_a(wall)
    long = joint.weld_mm * joint.alike
    arc = long / PROCESSES[welding.process].travel_mm_min
    purge = _purge(joint, welding, arc)
    uses = _uses(joint, welding.process)
    figures = _figures(joint, welding, wall, amps, uses, purge)
    return WeldPlan(
        joint,
        "",
        where,
        why,
        tuple(figures),
        tuple(_notes(joint, welding)),
        tacks,
        quarters,
        amps,
        _shade(welding.process, amps),
        purge,
        arc,
        rules.filler_g_m * long / 1000.0,
        _torch_l_min(welding.process, rules) * arc + _purge_l(joint, purge),
    )


def _torch_l_min(process: Process, rules: Rules) -> float:
    """Gas at the torch [l/min]; none for stick and oxy-gas."""
    return {"TIG": rules.tig_l_min, "MIG": rules.mig_l_min}.get(process, 0.0)


def _purge_l(joint: WeldJoint, purge: Purge | None) -> float:
    """Gas behind all the joints that are as this one [l]: each has a flush of its own."""
    return purge.gas_l * joint.alike if purge else 0.0


def _uses(joint: WeldJoint, process: Process) -> Consumables:
    """Return the consumables of a joint that is not refused: two bolted halves each by its own metal."""
    metals = frozenset(side.metal for side in joint.sides)
    each = [consumables(process, some) for some in (metals, *(frozenset({metal}) for metal in sorted(metals)))]
    known = [one for one in each if one is not None]
    if each[0] is not None or len(known) == 1:
        return known[0]
    words = " on one side, ".join(one.filler for one in known) + " on the other" if known else ""
    return Consumables(words, known[0].source if known else "", known[0].gas if known else "")


def joint_wall(joint: WeldJoint) -> float:
    """The wall of the tube at a joint [mm]."""
    return (joint.od_mm - joint.inside_mm) / 2


def refusal(joint: WeldJoint, process: Process = "TIG") -> str:
    """Why a joint is not welded, by a process, and what to do instead; empty where it is."""
    a, b = joint.sides
    wall = min(side.wall_mm or joint_wall(joint) for side in joint.sides)
    if not joint.welds:
        return ""
    if JOINTS[joint.kind].joins_any_metal:  # its halves are of the metal of what they are welded to
        each = [process_refusal(process, frozenset({m}), wall) for m in (a.metal, b.metal) if METALS[m].processes]
        return next((why for why in each if why), "")
    one, other = METALS[a.metal], METALS[b.metal]
    if one.family != other.family:
        return f"{one.name} is not welded to {other.name}: the joint is brittle. Instead, {WAY_ROUND}"
    if one.not_welded:
        return one.not_welded.format(instead=WAY_ROUND)
    rusted = next((side.name for side in joint.sides if side.surface == "rusted"), "")
    if rusted:
        return f"the {rusted} is rusted thin: cut back to sound metal, or sleeve it, and look at its wall again"
    return process_refusal(process, frozenset({a.metal, b.metal}), wall)


def _where(joint: WeldJoint) -> tuple[Literal["bench", "vehicle"], str]:
    if joint.name:
        return "bench", "set it in place and tack it, then weld it on the bench"
    if JOINTS[joint.kind].joins_any_metal:
        return "bench", "its halves are tacked with the joint done up, taken apart and welded"
    if joint.on_bench:
        shut = sum(joint.shut)
        return (
            "bench",
            f"tack it on the vehicle, take it out and weld it: no torch reaches {shut} of {ROUND} sides there",
        )
    if joint.ahead is None or joint.behind is None:
        return "vehicle", "it meets what stays: tack it in place, so that flange and pipe agree"
    return "bench", "tack it on the vehicle, weld it on the bench: all round, downhand, away from tank and wiring"


def tack_clocks(joint: WeldJoint) -> tuple[float, ...]:
    """Where tacks go by the clock on the vehicle [deg from 12], opposite ones after each other; a place that no torch
    reaches goes to the nearest that one does.
    """
    count = next(n for most, n in TACKS if joint.od_mm <= most)
    order = {3: (0, 1, 2), 4: (0, 2, 1, 3), 6: (0, 3, 1, 4, 2, 5)}[count]
    free = [k for k in range(ROUND) if not joint.shut[k]] or list(range(ROUND))
    out: list[float] = []
    for k in order:
        wanted = ROUND * k / count
        nearest = min(
            (f for f in free if 30.0 * f not in out),
            default=None,
            key=lambda f: min((f - wanted) % ROUND, (wanted - f) % ROUND),
        )
        if nearest is not None:
            out.append(30.0 * nearest)
    return tuple(out)


def quarters_of(pull_toward_deg: float | None) -> tuple[tuple[float, float], ...]:
    """The four quarters of a weld, opposite ones after each other; first the side that should pull."""
    first = 0.0 if pull_toward_deg is None else pull_toward_deg - 45.0
    return tuple(((first + turn) % 360.0, (first + turn + 90.0) % 360.0) for turn in (0.0, 180.0, 90.0, 270.0))


def pull_toward(found_flow: np.ndarray, planned_flow: np.ndarray, up: np.ndarray, across: np.ndarray) -> float | None:
    """Toward which clock [deg] a weld should pull what is behind it, where its flow was found off plan by so much that
    a weld can take some of it back; None where it is not.
    """
    off = planned_flow - found_flow
    y, x = float(off @ across), float(off @ up)
    return float(np.degrees(np.arctan2(y, x))) % 360.0 if np.hypot(x, y) > np.radians(0.2) else None


def _shade(process: Process, amps: float) -> Shade | None:
    try:
        return shade(process, amps)
    except InputError:
        return None


def _purge(joint: WeldJoint, welding: Welding, arc_min: float) -> Purge | None:
    metals = {side.metal for side in joint.sides}
    if welding.root != "purge" or welding.process != "TIG" or not _is_purged(metals) or joint.inside_mm <= 0:
        return None
    return purge_for(joint.inside_mm, 2 * float(welding.plug_mm), arc_min / joint.alike)


def _figures(
    joint: WeldJoint, welding: Welding, wall: float, amps: float, uses: Consumables, purge: Purge | None
) -> list[Figure]:
    process, facts = welding.process, PROCESSES[welding.process]
    lens = _shade(process, amps)
    heat = heat_input_kj_mm(process, facts.volts, amps, facts.travel_mm_min)[1]
    out = [Figure("filler", uses.filler, uses.source, _sure(joint))]
    if uses.gas:
        out.append(Figure("flame" if process == "gas" else "gas", uses.gas, "ISO 14175; common practice", "likely"))
    if process == "TIG":
        rule = f"an ampere a thousandth of an inch of {wall:g} mm; a tenth to a fifth less on stainless"
        out.append(Figure("current", f"about {amps:.0f} A", rule, "rule of thumb"))
        out.append(Figure("tungsten", f"{tungsten_mm(amps):g} mm", "AWS A5.12, C5.5", "likely"))
    if process == "MIG":
        out.append(Figure("wire", f"{MIG_WIRE_MM:g} mm", "common practice for thin tube", "rule of thumb"))
    if lens:
        comfort = f", {lens.comfort} is comfortable" if lens.comfort else ""
        out.append(Figure("shade", f"{lens.least} at least{comfort}", "AWS/ANSI Z49.1, 29 CFR 1910.133", "sure"))
    if heat:
        at = f"EN 1011-1 at {facts.volts:g} V, {facts.travel_mm_min:.0f} mm/min"
        out.append(Figure("heat put in", f"{heat:.2f} kJ/mm", at, "rule of thumb"))
    if purge:
        held = f"{purge.flush_min:.1f} min flush, then held: {purge.gas_l:.0f} l in all"
        plugs = f"plugs {welding.plug_mm:.0f} mm to each side"
        out.append(Figure("purge", f"{held}, {plugs}", "AWS D10.11, eight volumes", "likely"))
    return out


def _sure(joint: WeldJoint) -> Sure:
    return "sure" if all(METALS[side.metal].is_filler_sure for side in joint.sides) else "likely"


def _notes(joint: WeldJoint, welding: Welding) -> list[str]:
    a, b = joint.sides
    notes = []
    walls = [side.wall_mm or joint_wall(joint) for side in joint.sides]
    if max(walls) > THICKER * min(walls):
        thick = joint.sides[walls.index(max(walls))].name
        notes.append(f"hold the heat on the {thick}: {max(walls):g} mm against {min(walls):g}")
    for side in joint.sides:
        if side.surface == "coated" or METALS[side.metal].is_coated:
            notes.append(f"take the coating of the {side.name} off for {STRIP_MM:.0f} mm beside the joint, inside too")
            break
    metals = {a.metal, b.metal}
    if _is_purged(metals) and welding.process == "TIG":
        if welding.root == "back flux":
            notes.append(
                "back flux on the root, dried; it stays in the pipe as glass and can break loose ahead of a "
                "catalyst or a turbine"
            )
        if welding.root == "none":
            notes.append("no purge: the root sugars, is rough to the gas, and cracks sooner where it is hot")
        notes += [METALS[metal].care for metal in sorted(metals) if METALS[metal].care]
    if JOINTS[joint.kind].weld_note:
        notes.append(JOINTS[joint.kind].weld_note)
    return notes


def _is_purged(metals: Iterable[Metal]) -> bool:
    """Whether the root of a weld between some metals is kept from air."""
    return any(METALS[metal].is_purged for metal in metals)


def weld_order(plans: Sequence[WeldPlan], order: str) -> list[str]:
    """The joints that are welded, by their keys, in an order: one behind the other as they are tacked; or, when all are
    tacked, each as far as can be from the last two, so that every joint cools before its neighbour is heated.
    """
    left = [plan.joint for plan in plans if plan.figures]
    if order == "joint by joint":
        return [joint.key for joint in left]
    out: list[WeldJoint] = []
    while left:
        recent = out[-2:]
        chosen = max(left, key=lambda j: (min((_apart(j, r) for r in recent), default=0.0), -left.index(j)))
        out.append(chosen)
        left.remove(chosen)
    return [joint.key for joint in out]


def _apart(a: WeldJoint, b: WeldJoint) -> float:
    return float(np.linalg.norm(a.at.point - b.at.point))
