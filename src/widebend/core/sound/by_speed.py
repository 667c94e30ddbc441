"""How loud the system is over the engine's speed, order by order, and where it drones.

A *drone* is an order whose level stands out over its own run-up and falls into the band in which cabins boom. The
figures are the engine's usual pulses through the system as it is drawn: levels by several decibels, peaks by where they
are to a few in a hundred (the gas's temperature).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...facts import PART_KINDS
from ..gas import FlowSolution, road_kmh
from ..records import Engine, Rules
from ..space import Vector
from .levels import a_weighting
from .network import Ends, Heard, Tried, heard, mean_volume_m3_s, medium_of
from .pulses import orders_of, strengths
from .radiation import level_db

AWAY_M = 0.5
RPM_STEP, LEAST_REACH_RPM = 25.0, 1000.0
ROAD_KMH = (40.0, 150.0)  # speeds that a drone is named at
LOUDEST_WITHIN_DB = 10.0  # an order this far under the loudest is not heard as the drone
ENGINE_ENDS = (Ends(0.3), Ends(1.0), Ends(3.0))


@dataclass(frozen=True)
class BySpeed:
    """Levels at half a metre from the ends over the engine's speed: rpm (n,), orders (m,), level by order (m, n) and of
    all together, plain and weighted (n,) [dB].
    """

    rpm: Vector
    orders: Vector
    by_order: Vector
    all_db: Vector
    all_a: Vector

    def level_at(self, rpm: float) -> float:
        """Return the weighted level of all orders together at a speed [dB(A)]."""
        return float(np.interp(rpm, self.rpm, self.all_a))


@dataclass(frozen=True)
class Rings:
    """The resonance at a frequency: the pipe between two places and its length [mm], as a half or a quarter wave."""

    from_name: str
    to_name: str
    long_mm: float
    wave: str


@dataclass(frozen=True)
class Drone:
    """One drone: engine speed, order, frequency, how far it stands out and how loud it is [dB]; gears and road speeds
    at which it is met; what rings there.
    """

    rpm: float
    order: float
    hz: float
    stands_out_db: float
    level_db: float
    roads: tuple[tuple[int, float], ...]
    rings: Rings | None


def levels_by_speed(engine: Engine, breath: FlowSolution, sound: Heard) -> BySpeed:
    """Levels from idle to full speed, at the state's load throughout."""
    top = max(engine.rated_rpm, engine.cruise_rpm, engine.idle_rpm + LEAST_REACH_RPM)
    rpm = np.arange(engine.idle_rpm, top + RPM_STEP, RPM_STEP)
    orders = orders_of(engine)
    mean, banks = mean_volume_m3_s(breath), len(breath.ways.sources)
    hz = np.outer(orders, rpm) / 60.0
    through = sound.at(hz.ravel()).reshape(banks, *hz.shape)
    sent = strengths(engine, banks, orders, mean)
    flow = rpm / breath.gas.rpm
    out = np.einsum("bo,bon->on", sent, through) * flow
    levels = level_db(out.ravel(), hz.ravel(), AWAY_M).reshape(hz.shape)
    weighted = levels + a_weighting(np.maximum(hz, 1.0))
    return BySpeed(
        rpm,
        orders,
        levels,
        10 * np.log10(np.sum(10 ** (levels / 10), axis=0)),
        10 * np.log10(np.sum(10 ** (weighted / 10), axis=0)),
    )


def drones(engine: Engine, breath: FlowSolution, found: BySpeed, rules: Rules) -> list[Drone]:
    """Where an order stands out in the band in which cabins boom, the worst first."""
    from scipy.signal import find_peaks  # half a second to load: not while the program starts

    out: list[Drone] = []
    loudest = found.by_order.max(axis=0)
    for order, levels in zip(found.orders, found.by_order, strict=True):
        peaks, seen = find_peaks(levels, prominence=rules.drone_db)
        for k, prominence in zip(peaks, seen["prominences"], strict=True):
            hz = float(order * found.rpm[k] / 60.0)
            in_band = rules.cabin_low_hz <= hz <= rules.cabin_high_hz
            rpm = float(found.rpm[k])
            driven = engine.gearbox is None or roads(engine, rpm)
            if in_band and driven and levels[k] > loudest[k] - LOUDEST_WITHIN_DB:
                out.append(
                    Drone(
                        rpm,
                        float(order),
                        hz,
                        float(prominence),
                        float(levels[k]),
                        roads(engine, rpm),
                        rings_at(breath, hz),
                    )
                )
    return sorted(out, key=lambda d: -d.level_db)


def roads(engine: Engine, rpm: float) -> tuple[tuple[int, float], ...]:
    """Each gear and road speed [km/h] at an engine speed, of those that are driven steadily; the highest gear first."""
    if engine.gearbox is None:
        return ()
    every = [(gear, road_kmh(engine, rpm, gear)) for gear in range(len(engine.gearbox.ratios), 0, -1)]
    return tuple((gear, kmh) for gear, kmh in every if ROAD_KMH[0] <= kmh <= ROAD_KMH[1])


def rings_at(breath: FlowSolution, hz: float, within: float = 0.15) -> Rings | None:
    """The pipe whose half or quarter wave comes nearest to a frequency; None where none comes near."""
    best: tuple[float, Rings] | None = None
    for names, long_mm, speed in _pipes(breath):
        for wave, share in (("half wave", 2.0), ("quarter wave", 4.0)):
            own = speed / (share * long_mm / 1000.0)
            off = abs(own / hz - 1.0)
            if off < within and (best is None or off < best[0]):
                best = off, Rings(*names, long_mm, wave)
    return best[1] if best else None


def _pipes(breath: FlowSolution) -> list[tuple[tuple[str, str], float, float]]:
    """Pipe between any two places where the bore jumps (cans, meetings, ends), with its length [mm] and mean speed of
    sound.
    """
    out = []
    for end in breath.ways.ends:
        places = [("the open end", 0.0, 0.0)]  # what, distance and travel time counted forward from the end
        way: int | None = end
        far, time = 0.0, 0.0
        while way is not None:
            profile = next(p for p in breath.profiles if p.way == way)
            for k in reversed(range(len(breath.ways.ways[way].stretches))):
                stretch = breath.ways.ways[way].stretches[k]
                is_can = stretch.part is not None and PART_KINDS[stretch.part.item.kind].is_can
                name = (stretch.part.name or stretch.part.item.kind) if stretch.part else ""
                if is_can:
                    places.append((f"the {name} outlet", far, time))
                far += stretch.long_mm
                time += stretch.long_mm / medium_of(breath, profile, k).speed
                if is_can:
                    places.append((f"the {name} inlet", far, time))
            before = breath.ways.before(way)
            if len(before) != 1:
                meeting = breath.ways.meetings.get(breath.ways.ways[way].head)
                start = (meeting.part.name or meeting.part.item.kind) if meeting else "the start"
                places.append((start, far, time))
            way = before[0] if before else None
        for i, (to, a, t_a) in enumerate(places):
            for name, b, t_b in places[i + 1 :]:
                if b - a > 150.0:
                    out.append(((name, to), b - a, (b - a) / (t_b - t_a)))
    return out


@dataclass(frozen=True)
class Change:
    """How much louder something makes a drone where it was, and the worst within a fifth of its speed [dB], with the
    range over how the engine's end echoes.
    """

    there_db: float
    low_db: float
    high_db: float
    around_db: float


def change(engine: Engine, breath: FlowSolution, drone: Drone, tried: Tried) -> Change:
    """Trials against the system as drawn, at a drone."""
    there, around = [], []
    for ends in ENGINE_ENDS:
        before, after = (levels_by_speed(engine, breath, heard(breath, t, ends=ends)) for t in (Tried(), tried))
        i = int(np.argmin(np.abs(before.rpm - drone.rpm)))
        o = int(np.argmin(np.abs(before.orders - drone.order)))
        near = np.abs(before.rpm / drone.rpm - 1.0) < 0.2
        there.append(float(after.by_order[o, i] - before.by_order[o, i]))
        around.append(float(after.by_order[o, near].max() - before.by_order[o, near].max()))
    return Change(there[1], min(there), max(there), around[1])
