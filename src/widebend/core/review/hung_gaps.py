"""Gaps of the system as it hangs: sagged, wet, swung by its own weight in a bend of the road, with a rubber lost."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..hanging import HungSystem
from ..laying import HUNG, REST, Movers, Position
from .findings import Finding
from .nearest import Gap, nearest
from .reviewed import Review, gap_finding


def hung_findings(found: Review, states: Mapping[str, HungSystem]) -> list[Finding]:
    """What comes too near in a state that is not so where it was drawn: worst first. Every piece is taken where the
    middle of its ends has gone, every part where its middle has.
    """
    shifts: dict[object, list[tuple[str, np.ndarray]]] = {}
    for name, hung in states.items():
        for key, (first, last) in hung.pieces.items():
            shifts.setdefault(key, []).append((name, (first + last) / 2))
        for part, moved in hung.parts.items():
            shifts.setdefault(part, []).append((name, moved[:3]))
    named = {key: f"{HUNG} {n}" for n, key in enumerate(shifts, 2)}
    places = {named[key]: (REST, *(Position(name, np.eye(3), shift) for name, shift in own))
              for key, own in shifts.items()}  # fmt: skip
    places[HUNG] = (REST,)
    own = {key: named.get(key, HUNG) for key in found.moves.pieces}
    parts = {part: named.get(part, HUNG) for part in found.moves.parts}
    gaps = nearest(found.system, list(found.obstacles), Movers(own, parts, found.moves.has_flex), places)
    known = {_pair(g) for g in found.gaps if g.margin_mm < 0}  # too near already where it was drawn
    worse = sorted((g for g in gaps if g.position and g.margin_mm < 0 and _pair(g) not in known),
                   key=lambda g: g.margin_mm)  # fmt: skip
    return [said for gap in worse if (said := gap_finding(gap))]


def _pair(gap: Gap) -> tuple[str, int | None, str, str]:
    """What of the system comes near what."""
    return gap.run, gap.piece, gap.part, gap.obstacle.thing.id
