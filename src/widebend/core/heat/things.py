"""Heat at each thing that bears little of it: how hot it gets where the pipe lies, how near pipe may come, bare,
wrapped, or with a shield between; and the gaps a review wants by it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..gas import SIGMA, ZERO_C, FlowSolution, Span, State, breath_of
from ..geometry import clearance, mesh_gap
from ..laying import Obstacle, System, View, gap_rule, needed_gap, obstacles, system_of
from ..records import Design, Rules, Thing
from ..space import Vector
from ..units import Length
from .covers import USUAL, covered
from .near import LEAST_GAP_MM, MOST_GAP_MM, STILL_H, HotPipe, Surroundings, may_come_mm, reaches_c
from .outlet import jet_c

LOOKED_AT_MM = 600.0  # pipe farther than this from a thing does not warm it by any figure here
ABOVE_COS = 0.5  # a thing within 60 degrees of straight up is in the plume
# a free jet widens by about so much each way of its length (Abramovich, from memory); looked along in such steps [mm]
SPREADS, JET_MM, JET_STEP_MM = 0.11, 1000.0, 20.0
TYRES = ("tyre", "tire")
STATES_OF: dict[str, State] = {"at cruise": "cruise", "at full power": "full"}


@dataclass(frozen=True)
class Near:
    """A heat-shy thing beside the hottest pipe near it: where that is, what it bears and what it reaches [C], and how
    near pipe of that skin may come [mm]: bare, wrapped, with a shield; None where no distance is enough; and the pipe
    that it was calculated for.
    """

    thing: Thing
    bears_c: float
    gap_mm: float
    stretch: str
    at: Vector
    skin_c: Span
    reaches_c: Span
    needs_mm: float | None
    wrapped_mm: float | None
    shielded_mm: float | None
    above: bool
    pipe: HotPipe

    @property
    def too_hot(self) -> bool:
        return self.reaches_c.usual > self.bears_c

    @property
    def maybe(self) -> bool:
        """Whether the range reaches what it bears."""
        return not self.too_hot and self.reaches_c.high > self.bears_c


@dataclass(frozen=True)
class _Rows:
    """The pipe's outside in short stretches: middles (n, 3), radius [mm], skin [C], low and high of it, emissivity
    (n,), and what each belongs to.
    """

    middles: Vector
    radius: Vector
    skin: Vector
    low: Vector
    high: Vector
    black: Vector
    of: tuple[str, ...]


def bears_c(thing: Thing, rules: Rules) -> float | None:
    """Return the limit of a thing [C] by the shop's rule for its kind; None for what heat does not harm."""
    if thing.nature not in ("heat-shy", "soft"):
        return None
    return float(getattr(rules, gap_rule(thing).replace("_gap_mm", "_c")))


def heat_near(design: Design, breath: FlowSolution) -> list[Near]:
    """Every heat-shy thing with pipe within reach, the worst first. The vehicle has stopped: the skin is as hot as the
    state left it and no air goes by.
    """
    rows = _rows(breath)
    of: dict[str, list[Obstacle]] = {}
    for one in obstacles(design.survey, design.settings.rules):
        of.setdefault(one.thing.id, []).append(one)
    found = [near for around in of.values() if (near := _near(around, design, rows)) is not None]
    return sorted(found, key=lambda n: n.bears_c - n.reaches_c.usual)


def least_shielded_mm(thing: Thing, rules: Rules) -> float:
    """The least that pipe may come to a shielded thing, whatever the balance says [mm]: the shop's rule for that, and
    never under half of what is wanted without a shield.
    """
    return max(float(rules.shielded_gap_mm), needed_gap(thing, rules) / 2)


def _rows(breath: FlowSolution) -> _Rows:
    middles, radius, skin, low, high, black, of = [], [], [], [], [], [], []
    spans = {t.stretch.key: t.skin_c for t in breath.taken if t.stretch is not None}
    for profile in breath.profiles:
        way = breath.ways.ways[profile.way]
        for i, middle in enumerate(profile.middles):
            key = way.stretches[int(profile.of[i])].key
            span = spans.get(key, Span(profile.skin_c[i], profile.skin_c[i], profile.skin_c[i]))
            middles.append(middle)
            radius.append(float(profile.outside_mm[i]) / 2)
            skin.append(float(profile.skin_c[i]))
            low.append(float(profile.skin_c[i]) + span.low - span.usual)
            high.append(float(profile.skin_c[i]) + span.high - span.usual)
            black.append(float(profile.black[i]))
            of.append(key)
    return _Rows(
        np.array(middles), np.array(radius), np.array(skin), np.array(low), np.array(high), np.array(black), tuple(of)
    )


def _near(bodies: Sequence[Obstacle], design: Design, rows: _Rows) -> Near | None:
    thing = bodies[0].thing
    bears = bears_c(thing, design.settings.rules)
    if bears is None or not len(rows.middles):
        return None
    gaps, above = _gaps(bodies, rows)
    close = [int(i) for i in np.flatnonzero(gaps < LOOKED_AT_MM)]
    if not close:
        return None
    air = design.settings.rules.ambient_c
    worst, hottest = -1, -math.inf
    for i in close:
        reached = reaches_c(_pipe(rows, i, rows.skin[i]), gaps[i], _around(air, above[i], thing))
        if reached > hottest:
            worst, hottest = i, reached
    around = _around(air, above[worst], thing)
    at = [reaches_c(_pipe(rows, worst, s[worst]), gaps[worst], around) for s in (rows.low, rows.skin, rows.high)]
    pipe = _pipe(rows, worst, rows.skin[worst])
    wrapped, least = _wrapped(pipe, air), least_shielded_mm(thing, design.settings.rules)
    bare = least if thing.shielded else LEAST_GAP_MM
    return Near(
        thing,
        bears,
        float(gaps[worst]),
        rows.of[worst],
        rows.middles[worst],
        Span(float(rows.low[worst]), float(rows.skin[worst]), float(rows.high[worst])),
        Span(at[0], at[1], at[2]),
        may_come_mm(pipe, bears, around, bare),
        may_come_mm(wrapped, bears, around, bare),
        may_come_mm(pipe, bears, Surroundings(air, around.above, shielded=True), least),
        around.above,
        pipe,
    )


def _pipe(rows: _Rows, i: int, skin: float) -> HotPipe:
    return HotPipe(float(skin), float(rows.radius[i]), float(rows.black[i]))


def _around(air: float, above: bool, thing: Thing) -> Surroundings:
    return Surroundings(air, bool(above), thing.shielded)


def _wrapped(pipe: HotPipe, air_c: float) -> HotPipe:
    """The same pipe in the usual wrap: its outside where what comes through the wrap is what it sheds, the bare wall
    about as hot as it was, which a wrap makes hotter still.
    """
    thick, conducts, black = USUAL["wrap"]
    outer = pipe.radius_mm + thick
    through = 2 * math.pi * conducts / math.log(outer / pipe.radius_mm)
    low, high = air_c, pipe.skin_c
    for _ in range(40):
        mid = (low + high) / 2
        sheds = (STILL_H * (mid - air_c) + black * SIGMA * ((mid + ZERO_C) ** 4 - (air_c + ZERO_C) ** 4)) * 2 * math.pi
        low, high = (mid, high) if through * (pipe.skin_c - mid) > sheds * outer / 1000 else (low, mid)
    return HotPipe(high, outer, black)


def _gaps(around: Sequence[Obstacle], rows: _Rows) -> tuple[Vector, Vector]:
    """From each row's skin to a thing in any of its positions [mm] (n,), and whether the thing lies above it (n,)."""
    here, over = _distances(around, rows.middles), _distances(around, rows.middles + np.array([0.0, 0.0, 1.0]))
    return np.maximum(here - rows.radius, 0.0), np.asarray(here - over > ABOVE_COS)


def _distances(around: Sequence[Obstacle], points: Vector) -> Vector:
    """From points (n, 3) to the nearest of some bodies [mm] (n,)."""
    least = np.full(len(points), np.inf)
    for one in around:
        if len(one.solids):
            owner = np.zeros(len(one.solids), dtype=np.int64)
            least = np.minimum(least, clearance.least_distances(points, one.solids, owner, 1)[:, 0])
        if one.mesh is not None:
            mesh = one.mesh.mesh
            own = np.ascontiguousarray((points - one.mesh.shift) @ one.mesh.turn)
            least = np.minimum(least, mesh_gap.point_depths(own, mesh.rows, mesh.low, mesh.high, mesh.closed))
    return least


# --- in the jet ---------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Struck:
    """A thing that the gas out of an end blows on: how far behind the outlet [mm], how hot the jet's middle is there
    and what the thing bears [C].
    """

    outlet: str
    thing: Thing
    behind_mm: float
    jet_c: float
    bears_c: float

    @property
    def too_hot(self) -> bool:
        return self.jet_c > self.bears_c


def struck(design: Design, breath: FlowSolution) -> list[Struck]:
    """Return the things in the gas behind each end within a metre, the hottest first: heat-shy and soft things, and
    tyres.
    """
    of: dict[str, list[Obstacle]] = {}
    for one in obstacles(design.survey, design.settings.rules):
        of.setdefault(one.thing.id, []).append(one)
    found = []
    for i in breath.ways.ends:
        last = breath.ways.ways[i].stretches[-1]
        profile = next(p for p in breath.profiles if p.way == i)
        a, b = last.points[-2], last.points[-1]
        way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
        at = np.arange(JET_STEP_MM, JET_MM, JET_STEP_MM)
        along = b + at[:, None] * way
        wide = last.leaves_mm / 2 + SPREADS * at
        for bodies in of.values():
            thing = bodies[0].thing
            bears = bears_c(thing, design.settings.rules)
            if bears is None and any(word in thing.name.lower() for word in TYRES):
                bears = design.settings.rules.soft_c
            if bears is None:
                continue
            hit = np.flatnonzero(_distances(bodies, along) < wide)
            if len(hit):
                behind = float(at[hit[0]])
                hot = jet_c(float(profile.gas_c[-1]), last.leaves_mm, behind, breath.around_c)
                found.append(Struck(last.key, thing, behind, hot, bears))
    return sorted(found, key=lambda s: s.bears_c - s.jet_c)


# --- gaps by heat -------------------------------------------------------------------------------------------------


def heat_gaps(design: Design, system: System) -> dict[str, float]:
    """The gap that each heat-shy thing wants by the skin of the pipe near it [mm], where the job wants that; empty
    where it does not, or where the engine does not say enough.
    """
    state = STATES_OF.get(design.settings.heat_gaps)
    if state is None or not design.survey.things:
        return {}
    try:
        breath = breath_of(design, system, state, covered(design))
    except InputError:
        return {}
    least = float(design.settings.rules.hard_gap_mm)
    return {
        near.thing.id: MOST_GAP_MM if near.needs_mm is None else max(least, near.needs_mm)
        for near in heat_near(design, breath)
    }


def obstacles_of(design: Design, view: View = "coming", system: System | None = None) -> list[Obstacle]:
    """Every thing used, with the gap it wants: its own, the shop's rule, or by the heat of pipe near it."""
    survey = design.survey
    if design.settings.heat_gaps != "fixed":
        wanted = heat_gaps(design, system or system_of(design))
        things = tuple(
            t.replace(needed_gap_mm=Length(wanted[t.id])) if t.id in wanted and t.needed_gap_mm is None else t
            for t in survey.things
        )
        survey = survey.replace(things=things)
    return obstacles(survey, design.settings.rules, view)
