"""Which process welds which metal, with what filler and gas; anything else is refused, with the way round it.

A pair is planned only where it stands in the table of metals (`facts`). Sources: AWS A5.1, A5.2 and A5.4 for electrodes
and rods, ISO 14175 for gases, from memory.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ...facts import METALS, PROCESSES, Metal, Process, wire_between

ELECTRODES: Mapping[str, str] = {"ER308L": "E308L-16", "ER309L": "E309L-16", "ER409Nb or ER430LNb": "E309L-16"}
PLAIN_ELECTRODE, PLAIN_ROD = "E6013", "R45"
ARGON, MIXED, LEAN = "argon (I1)", "argon with 18 to 25 % CO2 (M21)", "argon with 2 % CO2 (M12)"


@dataclass(frozen=True)
class Consumables:
    """The consumables of a weld: its filler and where that is from, and the torch's gas; empty for what has none."""

    filler: str
    source: str
    gas: str


def process_refusal(process: Process, metals: frozenset[Metal], wall_mm: float) -> str:
    """Why a process does not weld some metals at their thinner wall, and what would; empty where it does.

    >>> process_refusal("TIG", frozenset({"304"}), 1.2)
    ''
    """
    for metal in sorted(metals):
        facts = METALS[metal]
        if process not in facts.processes:
            others = ", ".join(p for p in PROCESSES if p in facts.processes) or "a joint that is bolted or clamped"
            return facts.not_by.get(process, f"{metal} is not welded by {process}: {others}")
    thinnest = PROCESSES[process].thinnest_mm
    if wall_mm < thinnest:
        fit = ", ".join(p for p in PROCESSES if _welds(p, metals) and wall_mm >= PROCESSES[p].thinnest_mm)
        return f"{process} burns through a wall of {wall_mm:g} mm, under {thinnest:g}: {fit}"
    return ""


def _welds(process: Process, metals: frozenset[Metal]) -> bool:
    return all(process in METALS[metal].processes for metal in metals)


def consumables(process: Process, metals: frozenset[Metal]) -> Consumables | None:
    """Return the consumables of a process for some metals; None for a pair that it does not weld.

    >>> consumables("stick", frozenset({"304", "mild"})).filler
    'E309L-16'
    """
    wire = wire_between(min(metals), max(metals))
    if wire is None or not _welds(process, metals):
        return None
    stainless = any(METALS[metal].is_stainless for metal in metals)
    if process == "stick":
        return Consumables(ELECTRODES.get(wire, PLAIN_ELECTRODE), "AWS A5.1, A5.4", "")
    if process == "gas":
        return Consumables(PLAIN_ROD, "AWS A5.2", "oxygen and acetylene, neutral flame")
    source = METALS[min(metals)].filler_source
    if process == "MIG":
        return Consumables(wire, source, LEAN if stainless else MIXED)
    return Consumables(wire, source, ARGON)
