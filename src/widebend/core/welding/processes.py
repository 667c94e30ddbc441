"""Which process welds which metal, with what filler and gas; anything else is refused, with the way round it.

A pair is planned only where it stands in a table here. Sources: AWS A5.1, A5.2, A5.4, A5.9, A5.16 and A5.18 for
fillers, ISO 14175 for gases, from memory; what a process is not used for is common practice where no text is named.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from ..records import Process
from ..records.hardware import Metal

STEELS: frozenset[Metal] = frozenset({"mild", "aluminised", "409", "304"})
PLAIN: frozenset[Metal] = frozenset({"mild", "aluminised"})
WELDS: Mapping[Process, frozenset[Metal]] = {
    "TIG": STEELS | {"titanium"}, "MIG": STEELS, "stick": STEELS, "gas": PLAIN,
}  # fmt: skip
# thinner than this a process burns through tube [mm]: common practice, no source
THINNEST_MM: Mapping[Process, float] = {"TIG": 0.5, "MIG": 0.8, "stick": 1.5, "gas": 0.8}
TITANIUM = "TIG, purged, with a trailing shield"
FLAME = "a flame carburises stainless, and without flux its oxide does not part: TIG or MIG"
WHY_NOT: Mapping[tuple[Process, Metal], str] = {
    (
        "MIG",
        "titanium",
    ): "titanium takes up air behind a MIG torch and turns brittle: TIG, purged, with a trailing shield",
    ("stick", "titanium"): "no electrode shields titanium: TIG, purged, with a trailing shield",
    ("gas", "titanium"): "a flame makes titanium brittle: TIG, purged, with a trailing shield",
    (
        "gas",
        "304",
    ): "a flame carburises stainless, and without flux its oxide does not part: TIG or MIG, or silver-solder it",
    ("gas", "409"): "a flame carburises stainless, and without flux its oxide does not part: TIG or MIG",
}
# rods and wires
WIRES: Mapping[frozenset[Metal], str] = {
    frozenset({"304"}): "ER308L", frozenset({"304", "mild"}): "ER309L", frozenset({"304", "409"}): "ER309L",
    frozenset({"304", "aluminised"}): "ER309L", frozenset({"409"}): "ER409Nb or ER430LNb",
    frozenset({"409", "mild"}): "ER309L", frozenset({"mild"}): "ER70S-6", frozenset({"titanium"}): "ERTi-2",
    frozenset({"aluminised"}): "ER70S-6 or ERCuSi-A", frozenset({"aluminised", "mild"}): "ER70S-6",
    frozenset({"409", "aluminised"}): "ER309L",
}  # fmt: skip
ELECTRODES: Mapping[str, str] = {"ER308L": "E308L-16", "ER309L": "E309L-16", "ER409Nb or ER430LNb": "E309L-16"}
PLAIN_ELECTRODE, PLAIN_ROD = "E6013", "R45"
ARGON, MIXED, LEAN = "argon (I1)", "argon with 18 to 25 % CO2 (M21)", "argon with 2 % CO2 (M12)"


@dataclass(frozen=True)
class Consumables:
    """What a weld uses: its filler and where that is from, and the torch's gas; empty for what has none."""

    filler: str
    source: str
    gas: str


def process_refusal(process: Process, metals: frozenset[Metal], wall_mm: float) -> str:
    """Why a process does not weld some metals at their thinner wall, and what would; empty where it does.

    >>> process_refusal("TIG", frozenset({"304"}), 1.2)
    ''
    """
    for metal in sorted(metals):
        if metal not in WELDS[process]:
            others = ", ".join(p for p in get_args(Process) if metal in WELDS[p]) or "a joint that is bolted or clamped"
            return WHY_NOT.get((process, metal), f"{metal} is not welded by {process}: {others}")
    if wall_mm < THINNEST_MM[process]:
        fit = ", ".join(p for p in get_args(Process) if metals <= WELDS[p] and wall_mm >= THINNEST_MM[p])
        return f"{process} burns through a wall of {wall_mm:g} mm, under {THINNEST_MM[process]:g}: {fit}"
    return ""


def consumables(process: Process, metals: frozenset[Metal]) -> Consumables | None:
    """What a process uses to weld some metals; None for a pair that it does not weld.

    >>> consumables("stick", frozenset({"304", "mild"})).filler
    'E309L-16'
    """
    wire = WIRES.get(metals)
    if wire is None or not metals <= WELDS[process]:
        return None
    stainless = bool(metals & {"304", "409"})
    if process == "stick":
        return Consumables(ELECTRODES.get(wire, PLAIN_ELECTRODE), "AWS A5.1, A5.4", "")
    if process == "gas":
        return Consumables(PLAIN_ROD, "AWS A5.2", "oxygen and acetylene, neutral flame")
    source = "AWS A5.16" if metals == {"titanium"} else "AWS A5.9, A5.18, EN ISO 14343 practice"
    if process == "MIG":
        return Consumables(wire, source, LEAN if stainless else MIXED)
    return Consumables(wire, source, ARGON)
