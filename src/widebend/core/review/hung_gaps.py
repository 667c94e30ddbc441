"""Gaps of the system in other states of hanging, as with a rubber lost; and of its rods, with the room that pliers need
to lever a rubber on.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ..errors import InputError
from ..geometry import straight_row
from ..hanger_search import HangProposal
from ..hanging import (
    RODS_MM,
    Carried,
    HangFault,
    HungState,
    HungSystem,
    Rod,
    bracket_way,
    goes_of,
    hang,
    hang_faults,
    has_rod,
    rod_for,
)
from ..laying import hung_movement
from ..records import Design, Hanger
from ..space import Vector, unit
from ..units import Length
from .design_review import Review, gap_finding
from .findings import Finding
from .gaps import Around, packed, tube_gaps
from .nearest import Gap, nearest

RATTLE_MM = 3.0  # a rod nearer than this is heard: common practice, no source
BRACKET_MM, ON_METAL_MM = 6.0, 40.0  # half as thick as a bracket is at most; of it that lies on what it is bolted to
PLIERS_LONG_MM, PLIERS_MM = 60.0, 12.0  # beyond the hook, and half as wide, for pliers and a hand's push: the same


def hung_findings(found: Review, states: Sequence[HungState]) -> list[Finding]:
    """Return the findings in some states that are not there as drawn: worst first."""
    moves, places = hung_movement(found.moves, found.positions, goes_of(states, found.moves, found.system))
    gaps = nearest(found.system, list(found.obstacles), moves, places)
    known = {_pair(g) for g in found.gaps if g.margin_mm < 0}  # too near already as it was drawn, or moves anyhow
    names = tuple(state.name for state in states)
    worse = sorted(
        (g for g in gaps if g.position.startswith(names) and g.margin_mm < 0 and _pair(g) not in known),
        key=lambda g: g.margin_mm,
    )
    return [said for gap in worse if (said := gap_finding(gap))]


def _pair(gap: Gap) -> tuple[str, int | None, str, str]:
    """Return which parts of the system come near which things."""
    return gap.run, gap.piece, gap.part, gap.obstacle.thing.id


def rod_faults(design: Design, found: Review, hung: HungSystem) -> Iterator[HangFault]:
    """Rods and brackets that hit what is near, and rubbers that no pliers reach."""
    around = packed([o for o in found.obstacles if not o.is_low_line])
    if not around.obstacles:
        return
    for one in hung.carried:
        line = bracket_way(design, one)
        if line is not None:
            gap, name = _nearest_thing(_rows(_off_its_bolt(line), BRACKET_MM), around)
            if gap < RATTLE_MM:
                yield HangFault("bracket-hits", one.hanger.id, figure=gap, limit=RATTLE_MM, names=(name,), at=one.pin)
        if not has_rod(one.hanger):
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


def _off_its_bolt(line: Vector) -> Vector:
    """A bracket's line without what lies on the metal that it is bolted to; as much as is there of a shorter one."""
    way = line[1] - line[0]
    long = float(np.linalg.norm(way))
    return np.vstack([line[0] + min(1.0, ON_METAL_MM / max(long, 1e-9)) * way, line[1:]])


def with_its_rods(design: Design, found: Review, one: HangProposal, thickest_mm: float | None = None) -> HangProposal:
    """A way to hang a design without hangers of its own, with rods as `with_free_rods`, and how it hangs by them."""
    rodded = design.replace(hangers=with_free_rods(found, one.hung, thickest_mm))
    hung = hang(rodded, found.system)
    faults = tuple(hang_faults(rodded, found.system, hung))
    return replace(one, hangers=rodded.hangers, hung=hung, faults=faults)


def with_free_rods(found: Review, hung: HungSystem, thickest_mm: float | None = None) -> tuple[Hanger, ...]:
    """The hangers with each rod rolled round that side, its hook looking that way, in which it hits nothing and pliers
    reach its rubber, where one is so; and of a thicker bar where its own would bend, up to the `thickest_mm` that the
    shop bends, if it said.
    """
    around = packed([o for o in found.obstacles if not o.is_low_line])
    most = thickest_mm or np.inf  # nothing bent at all: said of each rod
    return tuple(_freed(found, one, around, most) for one in hung.carried)


def _freed(found: Review, one: Carried, around: Around, most: float) -> Hanger:
    if not has_rod(one.hanger):
        return one.hanger
    own = min(float(one.hanger.rod_mm), most)
    for bar in (own, *(bar for bar in RODS_MM if own < bar <= most)):
        stout = one.hanger.replace(rod_mm=Length(bar))
        ways = itertools.product((stout.rod_left, not stout.rod_left), (False, True))
        turned = [stout.replace(rod_left=left, hook_ahead=ahead) for left, ahead in ways]
        rods = [(hanger, rod) for hanger in turned if (rod := _rod(found, replace(one, hanger=hanger))) and rod.holds]
        if rods:
            return next((hanger for hanger, rod in rods if _is_free(rod, around)), stout)
    return one.hanger


def _rod(found: Review, one: Carried) -> Rod | None:
    try:
        return rod_for(found.system, one)
    except InputError:
        return None


def _is_free(rod: Rod, around: Around) -> bool:
    """Whether a rod hits nothing and pliers reach its rubber."""
    if not around.obstacles:
        return True
    line = _rows(rod.line, rod.od_mm / 2)
    return _nearest_thing(line, around)[0] >= RATTLE_MM and _nearest_thing(_room(rod), around)[0] >= 0


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
