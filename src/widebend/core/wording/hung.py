"""Faults of hanging in words, with their remedies."""

from __future__ import annotations

from collections.abc import Sequence

from ..hanger_search import NEEDS
from ..hanging import HangFault
from ..records import Design
from ..units import format_length


def say_hung(fault: HangFault, design: Design, unit: str = "mm") -> str:
    """A fault as a fabricator would say it."""
    who = hanger_name(design, fault.hanger)
    figure, limit = f"{fault.figure:.0f} N", f"{fault.limit:.0f} N"
    length, most = format_length(fault.figure, unit, 0), format_length(fault.limit, unit, 0)
    thick, thin = format_length(fault.figure, unit), format_length(fault.limit, unit)
    where = _where(fault, design)
    words = {
        "no-hangers": "Nothing hangs yet: all of its weight is on the joints at its ends.",
        "overloaded": f"{who} carries {figure}, its rubber takes {limit}: a stiffer one, two side by side, or another "
        "hanger near it.",
        "slack": f"{who} carries {figure}, less than the {limit} that keeps its rubber still: leave it out, or move it "
        "toward what is heavy.",
        "sags": f"{where} goes down {length} when it hangs, {most} is the shop's limit: hang it nearer, or on stiffer "
        "rubbers.",
        "flex-carries": f"{where} carries {figure} across and is bent by {fault.other:.1f} N m: a flex should carry "
        "nothing. Hang the pipe close behind it.",
        "long-span": f"Near {where} the pipe is {format_length(fault.figure / 2, unit, 0)} from any hanger; "
        f"{format_length(fault.limit / 2, unit, 0)} is usual.",
        "rubber-hot": f"{who}: its rubber is {length} off hot pipe, {most} is needed; it takes {fault.other:.0f} °C.",
        "rod-weak": f"{who}: its rod of {format_length(fault.other, unit)} comes to {fault.figure:.0f} MPa in a "
        f"pothole and bends at {fault.limit:.0f}: a thicker rod, or the rubber nearer over the pipe.",
        "rod-thick": f"{who}: its rod is {thick}, the shop bends {thin}: a thinner rod with the rubber nearer over the "
        "pipe, two hangers instead, or have it bent.",
        "plate-thick": f"{who}: its bracket is of {thick} bar, the shop bends {thin}: a tube instead, the pin on the "
        "bolt itself, or have it bent.",
        "rod-hits": f"{who}: its rod hits the {(*fault.names, '')[0]}: roll it round the other side, or move it.",
        "no-pliers": f"{who}: the {(*fault.names, '')[0]} is in the way of the pliers that lever its rubber on.",
        "bracket-hits": f"{who}: its bracket hits the {(*fault.names, '')[0]}: bring its pin in from another side.",
        "bracket-weak": f"{who}: its bracket comes to {fault.figure:.0f} MPa in a pothole and bends at "
        f"{fault.limit:.0f}: a tube instead, or the pin nearer to the bolt.",
        "bridge": f"{who} ties what rocks with the engine to what does not: the engine will break it, or the flex does "
        "nothing. Hang each by its own rubber.",
        "cradle-bent": f"{who}: a cradle clamps straight pipe; here it would sit on a bend or a part.",
        "old-rod-short": _old_rod(who, fault, unit),
        "no-rod": f"{who}: {(*fault.names, '')[0]}.",
        "no-point": f"{who} hangs from no point of the vehicle yet.",
        "near-idle": f"It swings by itself at {fault.figure:.1f} Hz; the engine fires at {fault.limit:.1f} Hz at "
        f"{fault.other:.0f} rpm and would shake it.",
        "guessed-mass": f"Weighed by their usual mass: {', '.join(fault.names)}. Weigh them once.",
        "no-engine": "Say cylinders and idle speed, and the swing is held against what the engine shakes with.",
        "bolt-matters": _bolt(who, fault),
    }
    return words[fault.code]


def _old_rod(who: str, fault: HangFault, unit: str) -> str:
    if fault.limit <= 0:
        return f"{who}: no old rod is noted at its point: measure how far it reaches, or bend a new one."
    lacks = format_length(fault.figure - fault.limit, unit, 0)
    return f"{who}: the old rod is {lacks} too short to be welded on: hang it nearer, or bend a new one."


def _bolt(who: str, fault: HangFault) -> str:
    point, holds, thread = (*fault.names, "", "", "")[:3]
    of = f" ({thread})" if thread else ""
    return (
        f"{who}: the bolt{of} at {point} also holds the {holds}. A bracket under its head takes thread from it: "
        "look up its length and torque in the vehicle maker's data, and do not go on without."
    )


# the rule that a way of hanging breaks, as a way has room for it
BROKEN_RULES = {
    "overloaded": "a rubber carries too much",
    "slack": "a rubber carries too little",
    "sags": "it goes down too far",
    "flex-carries": "the flex carries it",
    "long-span": "a span is too long",
    "rod-weak": "a rod would bend",
    "no-rod": "no rod goes in",
    "rod-hits": "a rod hits something",
    "bracket-hits": "a bracket hits something",
    "bracket-weak": "a bracket would bend",
    "bridge": "it ties the engine to the body",
    "old-rod-short": "an old rod is too short",
    "no-hangers": "nothing holds it",
}


def broken_rules(faults: Sequence[HangFault]) -> str:
    """The rules that a way of hanging breaks, in a few words; empty where it breaks none that it is judged by."""
    codes = dict.fromkeys(fault.code for fault in faults if fault.code in NEEDS)
    return ", ".join(BROKEN_RULES[code] for code in codes)


def hanger_name(design: Design, hanger_id: str) -> str:
    """Return the name of a hanger: by the point it hangs from, else by its number."""
    hanger = next((h for h in design.hangers if h.id == hanger_id), None)
    point = next((p for p in design.survey.hang_points if hanger and p.id == hanger.hang_point), None)
    number = next((k for k, h in enumerate(design.hangers, 1) if h.id == hanger_id), 0)
    return f"Hanger {number}, {point.name}" if point else f"Hanger {number}"


def _where(fault: HangFault, design: Design) -> str:
    part = design.part(fault.part)
    if part is not None:
        return f"the {part.name or part.item.kind}"
    run = design.run(fault.run)
    if run is None or fault.piece is None:
        return "the pipe"
    return f"{run.name or run.id}, piece {fault.piece + 1}"
