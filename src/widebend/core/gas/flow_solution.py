"""The whole system in one state of the engine: pressure, temperature and speed by place, and what each piece takes.

Gas goes forward from the engine: heat is mixed by what each way carries. Pressure is counted back from the air. Where
ways part, the flow is shared until both ask for the same pressure. The range is that of the methods, of the flow and of
the temperature, each alone, added as squares.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from ..errors import InputError
from ..laying import System
from ..records import Design, Port, Rules
from ..space import Vector
from .engine_gas import EngineGas, Span, State, gas_of
from .gas_paths import STUB_MM, GasPaths, Meeting, Stretch, ways_of
from .march import (
    BORE,
    COLUMNS,
    EMISSIVITY,
    FRICTION_FACTOR,
    KELVIN,
    LAMINAR,
    LENGTH,
    LOSS,
    MACH,
    OUTSIDE,
    SPEED,
    STATIC,
    STEP_LOSS,
    TOTAL,
    WRAP_M,
    cool,
    press,
)
from .meeting import Met, met
from .mixture import GRID_K, ZERO_C
from .road import road_kmh
from .rows import Covered, Rows, rows_of

ATMOSPHERE_PA = 101_325.0
SHARE_ROUNDS, SHARE_PA = 12, 2.0
USUAL_ROAD_KMH = 90.0
NO_LOSS = (0.0, 0.0, 0.0)
HOTTEST_K = float(GRID_K[-1])


@dataclass(frozen=True)
class PressureDrop:
    """The pressure drop of a piece, part or meeting [Pa], with its range; the gas and the skin at
    its middle [C], the fastest Mach number and speed [m/s] in it, and the methods by which it was calculated.
    """

    stretch: Stretch | None
    meeting: Meeting | None
    way: int
    kg_s: float
    pa: Span
    gas_c: Span
    skin_c: Span
    mach: float
    speed: float
    methods: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Profile:
    """Along one way: rows' middles in the vehicle (n, 3); what a gauge in the wall reads there, the total pressure over
    the air and that of bare straight pipe [Pa], gas and skin [C], speed [m/s], heat given off [W];
    each row's stretch, outside diameter [mm], length [m] and emissivity.
    """

    way: int
    middles: Vector
    gauge_pa: Vector
    total_pa: Vector
    bare_pa: Vector
    gas_c: Vector
    skin_c: Vector
    speed: Vector
    watts: Vector
    of: Vector
    outside_mm: Vector
    long_m: Vector
    black: Vector


@dataclass(frozen=True)
class FlowSolution:
    """A state of the engine: the gas, what each piece takes, the profiles; at each start the total pressure over the
    air and what a gauge tapped into the wall would read there [Pa]; the same of bare straight pipe as long and as
    wide, the least that any shape could take; at each end the speed that is blown away [Pa] and the total
    temperature [K]; the air round it [C]; and the first place that chokes.
    """

    gas: EngineGas
    ways: GasPaths
    taken: tuple[PressureDrop, ...]
    profiles: tuple[Profile, ...]
    starts_pa: dict[int, Span]
    gauges_pa: dict[int, Span]
    bare_pa: float
    ends_pa: dict[int, float]
    ends_k: dict[int, float]
    around_c: float
    chokes: Stretch | None

    @property
    def most_pa(self) -> Span:
        """The most that is asked for at any of its starts [Pa]."""
        return max(self.starts_pa.values(), key=lambda span: span.usual)


@dataclass
class _Solved:
    kg_s: dict[int, float]
    total_k: dict[int, Vector]
    skins: dict[int, Vector]
    walls: dict[int, Vector]
    inlet: dict[int, Vector]
    outlet: dict[int, Vector]
    needs: dict[int, float]  # total pressure that each way asks for at its inlet
    chokes: tuple[int, int] | None


@dataclass(frozen=True)
class _Case:
    """The inputs of one calculation: which losses, how much gas, how hot."""

    loss: int
    kg_s: float
    enters_k: float


def no_cover(_: Stretch) -> None:
    """Bare pipe."""
    return None


@dataclass(frozen=True)
class Otherwise:
    """How a solution differs from what is drawn: bends pressed so that they lose a share of their bore's area, and a
    multiple of the gas in every inlet (both banks down one pipe: twice).
    """

    lost_bore: float = 0.0
    gas: float = 1.0


AS_DRAWN = Otherwise()


def breath_of(
    design: Design,
    system: System,
    state: State,
    covered: Covered = no_cover,
    *,
    cutouts_open: bool = False,
    otherwise: Otherwise = AS_DRAWN,
) -> FlowSolution:
    """A design in a state of its engine. Raises InputError where the engine is not said, nothing leads from it, or what
    is asked for is beyond what the figures hold for.
    """
    net, gas = _ready(design, system, state, covered, cutouts_open, otherwise.lost_bore)
    return _breath(net, replace(gas, kg_s=gas.kg_s.times(otherwise.gas)))


def _ready(
    design: Design, system: System, state: State, covered: Covered, cutouts_open: bool = False, lost: float = 0.0
) -> tuple[_Net, EngineGas]:
    """A system and the gas that enters it. Raises InputError as `breath_of` does."""
    engine = design.settings.engine
    if engine is None:
        raise InputError("say what engine it is: its power or what it displaces")
    gas = gas_of(engine, state)
    ways = ways_of(design, system, cutouts_open=cutouts_open)
    if not ways.ways:
        raise InputError("no pipe leads anywhere yet: gas needs a start and a way")
    return _Net.of(ways, design.settings.rules, covered, wind_ms(design, state), gas.gas.cp, lost), gas


def skins_of(design: Design, system: System, state: State, covered: Covered = no_cover) -> dict[object, float]:
    """The wall of each piece (run id, index) and part (id) in a state [C], without ranges. Raises InputError as
    `breath_of` does.
    """
    net, gas = _ready(design, system, state, covered)
    case = _Case(1, gas.kg_s.usual, gas.enters_c.usual + ZERO_C)
    shares = _shared(net.ways, {i: 1.0 / len(m.outs) for m in net.ways.meetings.values() for i, _ in m.outs})
    solved = _solve(net, gas, case, shares)
    out: dict[object, float] = {}
    for i, way in enumerate(net.ways.ways):
        for k, stretch in enumerate(way.stretches):
            wall = float(solved.walls[i][net.rows[i].of == k].mean()) - ZERO_C
            if stretch.piece is not None:
                out[(stretch.run, stretch.piece.index)] = wall
            elif stretch.part is not None:
                out[stretch.part.id] = wall
    return out


def wind_ms(design: Design, state: State) -> float:
    """How fast the air goes along under the vehicle [m/s]: still at idle and at full load on a stand, the worst."""
    engine = design.settings.engine
    if state != "cruise" or engine is None:
        return 0.0
    kmh = road_kmh(engine, engine.cruise_rpm, len(engine.gearbox.ratios)) if engine.gearbox else USUAL_ROAD_KMH
    return kmh / 3.6 * design.settings.rules.airflow_share


@dataclass(frozen=True)
class _Net:
    """A system ready to be calculated: rows by way, losses of the meetings, and its surroundings."""

    ways: GasPaths
    rows: tuple[Rows, ...]
    mets: dict[str, Met]
    around_k: float
    wind: float
    heat: Vector  # the gas's heat capacity over GRID_K

    @classmethod
    def of(cls, ways: GasPaths, rules: Rules, covered: Covered, wind: float, heat: Vector, lost: float = 0.0) -> _Net:
        rows = tuple(rows_of(w, rules, covered, lost) for w in ways.ways)
        mets = {}
        for name, meeting in ways.meetings.items():
            bores = {i: float(rows[i].by_loss[1][-1, BORE]) * 1000 for i, _ in meeting.ins}
            bores |= {i: float(rows[i].by_loss[1][0, BORE]) * 1000 for i, _ in meeting.outs}
            mets[name] = met(meeting, bores)
        return cls(ways, rows, mets, rules.ambient_c + ZERO_C, wind, heat)

    def bare(self) -> _Net:
        """The same as straight pipe: friction alone."""
        rows = []
        for one in self.rows:
            usual = one.by_loss[1].copy()
            usual[:, [LOSS, LAMINAR, STEP_LOSS]], usual[:, FRICTION_FACTOR] = 0.0, 1.0
            rows.append(Rows((usual, usual, usual), one.of, one.middles, one.losses))
        mets = {n: Met(dict.fromkeys(m.ins, NO_LOSS), dict.fromkeys(m.outs, NO_LOSS), "") for n, m in self.mets.items()}
        return replace(self, rows=tuple(rows), mets=mets)


def _breath(net: _Net, gas: EngineGas) -> FlowSolution:
    hot = gas.enters_c.usual + ZERO_C
    usual_case = _Case(1, gas.kg_s.usual, hot)
    shares = _shares(net, gas, usual_case)
    cases = (
        usual_case,
        _Case(0, gas.kg_s.usual, hot),
        _Case(2, gas.kg_s.usual, hot),
        _Case(1, gas.kg_s.low, hot),
        _Case(1, gas.kg_s.high, hot),
        _Case(1, gas.kg_s.usual, gas.enters_c.low + ZERO_C),
        _Case(1, gas.kg_s.usual, gas.enters_c.high + ZERO_C),
    )
    solved = [_solve(net, gas, case, shares) for case in cases]
    usual = solved[0]
    bare = _solve(net.bare(), gas, usual_case, shares)
    taken = [t for i in range(len(net.rows)) for t in _of_way(net, i, solved)]
    taken += [_of_meeting(net, name, solved) for name in net.ways.meetings]
    chokes = (
        net.ways.ways[usual.chokes[0]].stretches[int(net.rows[usual.chokes[0]].of[usual.chokes[1]])]
        if usual.chokes
        else None
    )
    starts, gauges = (
        {i: _spread([float(s.inlet[i][0, kind]) - ATMOSPHERE_PA for s in solved]) for i in net.ways.sources}
        for kind in (TOTAL, STATIC)
    )
    return FlowSolution(
        gas,
        net.ways,
        tuple(taken),
        tuple(_profile(net, i, usual, bare) for i in range(len(net.rows))),
        starts,
        gauges,
        max(float(bare.inlet[i][0, TOTAL]) for i in net.ways.sources) - ATMOSPHERE_PA,
        {i: float(usual.outlet[i][-1, TOTAL]) - ATMOSPHERE_PA for i in net.ways.ends},
        {i: float(usual.total_k[i][-1]) for i in net.ways.ends},
        net.around_k - ZERO_C,
        chokes,
    )


def _shares(net: _Net, gas: EngineGas, case: _Case) -> dict[int, float]:
    """Each way's share of the flow: equal among inlets; where ways part, until they ask for the same pressure."""
    shares: dict[int, float] = {}
    parting = [m for m in net.ways.meetings.values() if len(m.outs) > 1]
    split = {i: 1.0 / len(m.outs) for m in parting for i, _ in m.outs}
    for _ in range(SHARE_ROUNDS if parting else 1):
        shares = _shared(net.ways, split)
        if not parting:
            break
        solved = _solve(net, gas, case, shares)
        off = 0.0
        for m in parting:
            asks = np.array([_asks(net, solved, m, i) - ATMOSPHERE_PA for i, _ in m.outs])
            off = max(off, float(np.ptp(asks)))
            now = np.array([split[i] for i, _ in m.outs])
            new = now * np.sqrt(np.mean(asks) / np.maximum(asks, 1.0))
            for (i, _), share in zip(m.outs, new / new.sum(), strict=True):
                split[i] = float(share)
        if off < SHARE_PA:
            break
    return shares


def _shared(ways: GasPaths, split: dict[int, float]) -> dict[int, float]:
    shares: dict[int, float] = {}
    for i in range(len(ways.ways)):
        fed = ways.before(i)
        whole = sum(shares[k] for k in fed) if fed else 1.0 / len(ways.sources)
        shares[i] = whole * split.get(i, 1.0)
    return shares


def _asks(net: _Net, solved: _Solved, meeting: Meeting, out: int) -> float:
    """The total pressure in a meeting that a way out of it asks for [Pa]."""
    head = solved.inlet[out][0, TOTAL] - solved.inlet[out][0, STATIC]
    k = net.mets[meeting.part.id].outs[out][1]
    return float(solved.needs[out] + k * head)


def _solve(net: _Net, gas: EngineGas, case: _Case, shares: dict[int, float]) -> _Solved:
    """One calculation: forward for heat, back for pressure."""
    ways, table, constant = net.ways, gas.gas.table, gas.gas.constant
    out = _Solved({i: case.kg_s * share for i, share in shares.items()}, {}, {}, {}, {}, {}, {}, None)
    for i in range(len(ways.ways)):
        fed = ways.before(i)
        enters = case.enters_k
        if fed:  # the hotter carries more for each kelvin, by its own heat capacity
            carries = [out.kg_s[k] * gas.gas.at(float(out.total_k[k][-1]))[0] for k in fed]
            enters = sum(c * out.total_k[k][-1] for c, k in zip(carries, fed, strict=True)) / sum(carries)
        rows = net.rows[i].by_loss[case.loss]
        out.total_k[i], out.skins[i], out.walls[i] = cool(
            out.kg_s[i], min(enters, HOTTEST_K), rows, table, net.around_k, net.wind
        )
    for i in reversed(range(len(ways.ways))):
        behind = ways.behind(i)
        ends = ATMOSPHERE_PA if not behind else _needed(net, out, case, i, behind, constant)
        rows = net.rows[i].by_loss[case.loss]
        out.inlet[i], out.outlet[i], chokes = press(
            out.kg_s[i], ends, not behind, rows, out.total_k[i], table, constant
        )
        out.needs[i] = float(out.inlet[i][0, TOTAL])
        if chokes >= 0 and out.chokes is None:
            out.chokes = (i, chokes)
    return out


def _needed(net: _Net, solved: _Solved, case: _Case, way: int, behind: list[int], constant: float) -> float:
    """The total pressure at a way's end [Pa]: what those behind it ask for, and what it loses as it gets there."""
    meeting = net.mets.get(net.ways.ways[way].tail)
    asks = []
    for j in behind:
        head = solved.inlet[j][0, TOTAL] - solved.inlet[j][0, STATIC]
        asks.append(solved.needs[j] + (meeting.outs[j][case.loss] * head if meeting else 0.0))
    node = float(np.average(asks, weights=[solved.kg_s[j] for j in behind]))
    if meeting is None or way not in meeting.ins:
        return node
    rows = net.rows[way].by_loss[case.loss]
    density = node / (constant * solved.total_k[way][-1])
    area = math.pi / 4 * rows[-1, BORE] ** 2
    return float(node + meeting.ins[way][case.loss] * (solved.kg_s[way] / area) ** 2 / (2 * density))


def _spread(figures: Sequence[float]) -> Span:
    """A figure with its range: as usual, then by pairs what each cause does by itself; added as squares."""
    middle = figures[0]
    off = [figure - middle for figure in figures[1:]]
    pairs = [off[0:2], off[2:4], off[4:6]]
    down = math.sqrt(sum(min(0.0, *pair) ** 2 for pair in pairs))
    up = math.sqrt(sum(max(0.0, *pair) ** 2 for pair in pairs))
    return Span(middle - down, middle, middle + up)


def _of_way(net: _Net, way: int, solved: Sequence[_Solved]) -> list[PressureDrop]:
    rows, out, usual = net.rows[way], [], solved[0]
    for k, stretch in enumerate(net.ways.ways[way].stretches):
        if stretch.long_mm <= STUB_MM:
            continue
        here = np.flatnonzero(rows.of == k)
        first, last, mid = int(here[0]), int(here[-1]), int(here[len(here) // 2])
        out.append(
            PressureDrop(
                stretch,
                None,
                way,
                usual.kg_s[way],
                _spread([_drop(s, way, first, last) for s in solved]),
                _spread([float(s.total_k[way][mid + 1]) - ZERO_C for s in solved]),
                _spread([float(s.skins[way][mid]) - ZERO_C for s in solved]),
                float(usual.outlet[way][here, MACH].max()),
                float(usual.outlet[way][here, SPEED].max()),
                rows.losses[k].methods or (("friction only (Colebrook)", 0.0),),
            )
        )
    return out


def _drop(solved: _Solved, way: int, first: int, last: int) -> float:
    """Total pressure that rows take, with the step ahead of the first; the last of all also blows its speed away."""
    inlet, outlet = solved.inlet[way], solved.outlet[way]
    ahead = outlet[first - 1, TOTAL] if first > 0 else inlet[first, TOTAL]
    return float(ahead - outlet[last, TOTAL])


def _of_meeting(net: _Net, name: str, solved: Sequence[_Solved]) -> PressureDrop:
    meeting, losses, usual = net.ways.meetings[name], net.mets[name], solved[0]

    def mean(one: _Solved, ways: tuple[tuple[int, Port], ...], at_end: bool) -> float:
        ends = [one.outlet[i][-1, TOTAL] if at_end else one.inlet[i][0, TOTAL] for i, _ in ways]
        return float(np.average(ends, weights=[one.kg_s[i] for i, _ in ways]))

    def takes(one: _Solved) -> float:
        return mean(one, meeting.ins, True) - (mean(one, meeting.outs, False) if meeting.outs else ATMOSPHERE_PA)

    first = meeting.ins[0][0]
    last = usual.outlet[first][-1]
    most = max((k[1] for k in (*losses.ins.values(), *losses.outs.values())), default=0.0)
    return PressureDrop(
        None,
        meeting,
        first,
        sum(usual.kg_s[i] for i, _ in meeting.ins),
        _spread([takes(s) for s in solved]),
        _spread([float(s.total_k[first][-1]) - ZERO_C for s in solved]),
        _spread([float(s.skins[first][-1]) - ZERO_C for s in solved]),
        float(last[MACH]),
        float(last[SPEED]),
        ((losses.method, most),),
    )


def _profile(net: _Net, way: int, solved: _Solved, bare: _Solved) -> Profile:
    inlet, outlet, total = solved.inlet[way], solved.outlet[way], solved.total_k[way]
    rows, heats = net.rows[way].by_loss[1], np.interp((total[:-1] + total[1:]) / 2, GRID_K, net.heat)
    return Profile(
        way,
        net.rows[way].middles,
        (inlet[:, STATIC] + outlet[:, STATIC]) / 2 - ATMOSPHERE_PA,
        (inlet[:, TOTAL] + outlet[:, TOTAL]) / 2 - ATMOSPHERE_PA,
        (bare.inlet[way][:, TOTAL] + bare.outlet[way][:, TOTAL]) / 2 - ATMOSPHERE_PA,
        (inlet[:, KELVIN] + outlet[:, KELVIN]) / 2 - ZERO_C,
        solved.skins[way] - ZERO_C,
        (inlet[:, SPEED] + outlet[:, SPEED]) / 2,
        solved.kg_s[way] * heats * (total[:-1] - total[1:]),
        net.rows[way].of,
        1000.0 * (rows[:, OUTSIDE] + 2 * rows[:, WRAP_M]),
        rows[:, LENGTH],
        rows[:, EMISSIVITY],
    )


@lru_cache(maxsize=1)
def warmed() -> bool:
    """Compile what the march needs, before somebody waits for it."""
    rows = np.ones((2, COLUMNS))
    table = np.ones((3, len(GRID_K))) * 1000.0
    total, _, _ = cool(0.01, 700.0, rows, table, 300.0, 0.0)
    press(0.01, ATMOSPHERE_PA, True, rows, total, table, 287.0)
    return True
