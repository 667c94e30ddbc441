"""Gaps of the system as it hangs: sagged, wet, swung by its own weight in a bend of the road, with a rubber lost; and
of its rods, with the room that pliers need to lever a rubber on.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping
from dataclasses import replace

import numpy as np

from ..errors import InputError
from ..geometry import straight_row
from ..hanging import Carried, HangFault, HungSystem, Rod, rod_for
from ..laying import HUNG, REST, Movers, Position
from ..records import Hanger
from ..space import Vector, unit
from .findings import Finding
from .gaps import Around, packed, tube_gaps
from .nearest import Gap, nearest
from .reviewed import Review, gap_finding

RATTLE_MM = 3.0  # a rod nearer than this is heard: common practice, no source
PLIERS_LONG_MM, PLIERS_MM = 60.0, 12.0  # beyond the hook, and half as wide, for pliers and a hand's push: the same


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


def rod_faults(found: Review, hung: HungSystem) -> Iterator[HangFault]:
    """Rods that hit what is near, and rubbers that no pliers reach."""
    around = packed([o for o in found.obstacles if not o.is_low_line])
    if not around.obstacles:
        return
    for one in hung.carried:
        if one.hanger.way != "rubber":
            continue
        try:
            rod = rod_for(found.system, one)
        except InputError:
            continue  # said as such
        gap, name = _nearest_thing(_rows(rod.line, rod.od_mm / 2), around)
        if gap < RATTLE_MM:
            yield HangFault("rod-hits", one.hanger.id, figure=gap, limit=RATTLE_MM, names=(name,), at=one.eye)
        gap, name = _nearest_thing(_room(rod), around)
        if gap < 0:
            yield HangFault("no-pliers", one.hanger.id, figure=-gap, limit=PLIERS_LONG_MM, names=(name,), at=one.eye)


def with_free_rods(found: Review, hung: HungSystem) -> tuple[Hanger, ...]:
    """The hangers with each rod rolled round that side, its hook looking that way, in which it hits nothing and pliers
    reach its rubber; as it was where no way does.
    """
    around = packed([o for o in found.obstacles if not o.is_low_line])
    return tuple(_freed(found, one, around) for one in hung.carried)


def _freed(found: Review, one: Carried, around: Around) -> Hanger:
    for left, ahead in itertools.product((one.hanger.rod_left, not one.hanger.rod_left), (False, True)):
        hanger = one.hanger.model_copy(update={"rod_left": left, "hook_ahead": ahead})
        try:
            rod = rod_for(found.system, replace(one, hanger=hanger))
        except InputError:
            continue
        free = not around.obstacles or (_nearest_thing(_rows(rod.line, rod.od_mm / 2), around)[0] >= RATTLE_MM
                                        and _nearest_thing(_room(rod), around)[0] >= 0)  # fmt: skip
        if rod.holds and free:
            return hanger
    return one.hanger


def _room(rod: Rod) -> Vector:
    """The room that pliers take beyond the hook, as one row."""
    out = unit(rod.line[1] - rod.line[8])
    return straight_row(rod.line[0], out, PLIERS_LONG_MM, PLIERS_MM, 3)[None]


def _rows(line: Vector, radius: float) -> Vector:
    """A line (n, 3) as rows of round bars."""
    rows = []
    for a, b in itertools.pairwise(line):
        long = float(np.linalg.norm(b - a))
        if long > 1e-6:
            rows.append(straight_row(a, (b - a) / long, long, radius, 0))
    return np.array(rows)


def _nearest_thing(rows: Vector, around: Around) -> tuple[float, str]:
    """The least gap to a thing, less how well that is known [mm], and the thing's name."""
    gaps, _ = tube_gaps(rows, around, RATTLE_MM + 1.0)
    least = gaps.min(axis=1) - np.array([o.plus_minus_mm for o in around.obstacles])
    j = int(least.argmin())
    return float(least[j]), around.obstacles[j].thing.name
