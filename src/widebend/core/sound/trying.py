"""Remedies for a drone, each tried on the system by ear alone: closed branches, a resonator, another length
of tailpipe, a can moved. Whether it fits under the vehicle is asked elsewhere.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from ...facts import PART_KINDS
from ..gas import FlowSolution, Stretch
from ..records import Engine, Straight
from .by_speed import Change, Drone, change
from .cans import Can
from .lines import Medium
from .network import SideBranch, Tried, heard, medium_of, mouth_impedance
from .pulses import strengths
from .resonators import FLANGED, quarter_wave_mm

MendKind = Literal["quarter wave", "volume", "resonator", "tailpipe", "moved can"]
WARM = 0.8  # a dead end is cooler than its pipe: common practice, 0.6 to 0.9 of the heat over the air
PLACES = (0.15, 0.5, 0.85)  # along a straight
LEAST_LEG_MM, EDGE_MM = 120.0, 40.0
# a neck that can be welded in and turned, and a body of tube as it is sold: length and bore [mm]; how long it may be
NECK, BODY_BORE, BODY_MM = (150.0, 35.0), 98.6, (60.0, 900.0)
BULLET = (300.0, 110.0)  # a resonator as it is sold: body long and wide [mm]
TAIL_MM = (-150.0, 150.0, 300.0)
MOVED_MM = (-200.0, 200.0)
QUIETER_DB = -2.0  # what is less is not offered
MOST = 6


@dataclass(frozen=True)
class Remedy:
    """One thing to do about a drone: its kind, on which stretch and where along it [mm], its length and bore or body
    [mm], and what it changes. A branch has its sections from mouth to cap, as length and bore [mm]; a volume is a neck
    and a body behind it.
    """

    kind: MendKind
    stretch: str
    along_mm: float
    long_mm: float
    across_mm: float
    tried: Tried
    change: Change
    sections: tuple[tuple[float, float], ...] = ()

    @property
    def litres(self) -> float:
        """Return the volume of a body [l]."""
        long, bore = self.sections[-1]
        return math.pi / 4 * bore**2 * long / 1e6


def mends(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """Return the remedies for a drone, the best first."""
    ways = (_branches, _volumes, _resonators, _tails, _moved)
    found = [mend for way in ways for mend in way(engine, breath, drone)]
    return sorted(
        (m for m in found if m.change.there_db < QUIETER_DB), key=lambda m: max(m.change.there_db, m.change.around_db)
    )


def branch_for(breath: FlowSolution, stretch: str, hz: float, bore_mm: float, along_mm: float) -> SideBranch:
    """A closed branch for a frequency on a stretch: a quarter of the wave in its own, cooler gas, less its mouth's end
    correction.
    """
    for profile in breath.profiles:
        for k, one in enumerate(breath.ways.ways[profile.way].stretches):
            if one.key == stretch:
                gas = medium_of(breath, profile, k, WARM)
                long = quarter_wave_mm(hz, gas.speed, bore_mm, FLANGED)
                return SideBranch(stretch, along_mm, ((long, bore_mm),), WARM)
    raise KeyError(stretch)


def volume_for(breath: FlowSolution, stretch: str, hz: float, along_mm: float) -> SideBranch | None:
    """A volume behind a neck for a frequency: the body as long as makes the mouth a hole to it there; None where no
    body of that width is short enough to be one.
    """
    for profile in breath.profiles:
        for k, one in enumerate(breath.ways.ways[profile.way].stretches):
            if one.key == stretch:
                gas = medium_of(breath, profile, k, WARM)
                at = np.array([hz])

                def off(long: float, gas: Medium = gas, at: np.ndarray = at) -> float:
                    return float(mouth_impedance(at, (NECK, (long, BODY_BORE)), gas)[0].imag)

                low, high = BODY_MM
                if off(low) * off(high) > 0:
                    return None
                return SideBranch(stretch, along_mm, (NECK, (float(brentq(off, low, high)), BODY_BORE)), WARM)
    return None


def _legs(breath: FlowSolution) -> list[Stretch]:
    return [
        s
        for way in breath.ways.ways
        for s in way.stretches
        if s.piece is not None and isinstance(s.piece.piece, Straight) and s.long_mm >= LEAST_LEG_MM
    ]


def _branches(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """The places where a branch does most, tried quickly at the drone alone; those looked at over the speeds."""
    near = np.linspace(0.8, 1.2, 17) * drone.hz
    before = _around(engine, breath, drone, Tried(), near)
    rated = []
    for leg in _legs(breath):
        for share in PLACES:
            along = min(max(share * leg.long_mm, EDGE_MM), leg.long_mm - EDGE_MM)
            branch = branch_for(breath, leg.key, drone.hz, leg.bore_mm, along)
            after = _around(engine, breath, drone, Tried((branch,)), near)
            rated.append((float(after.max() - before.max()), branch))
    rated.sort(key=lambda r: r[0])
    out = []
    for _, branch in rated[:MOST]:
        tried = Tried((branch,))
        out.append(
            Remedy(
                "quarter wave",
                branch.stretch,
                branch.along_mm,
                branch.long_mm,
                branch.bore_mm,
                tried,
                change(engine, breath, drone, tried),
                branch.sections,
            )
        )
    return out


def _volumes(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """A neck and a body in the middle of each straight, the best two."""
    made = [v for leg in _legs(breath) if (v := volume_for(breath, leg.key, drone.hz, leg.long_mm / 2)) is not None]
    out = [
        Remedy(
            "volume",
            v.stretch,
            v.along_mm,
            v.long_mm,
            v.bore_mm,
            Tried((v,)),
            change(engine, breath, drone, Tried((v,))),
            v.sections,
        )
        for v in made[:MOST]
    ]
    return sorted(out, key=lambda m: m.change.there_db)[:2]


def _around(engine: Engine, breath: FlowSolution, drone: Drone, tried: Tried, hz: np.ndarray) -> np.ndarray:
    """How strong the drone's order comes out, at frequencies about it [dB, of its own scale]."""
    sent = strengths(engine, len(breath.ways.sources), np.array([drone.order]), 1.0)[:, 0]
    through = heard(breath, tried, hz).through
    return np.asarray(20 * np.log10(np.maximum(np.abs(np.einsum("b,bf->f", sent, through)) * hz, 1e-12)))


def _resonators(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """A bullet in each straight that is long enough for it."""
    long, across = BULLET
    out = []
    for leg in _legs(breath):
        if leg.long_mm >= long + 2 * LEAST_LEG_MM:
            tried = Tried(cans={leg.key: Can(long, across, leg.bore_mm)})
            out.append(
                Remedy("resonator", leg.key, leg.long_mm / 2, long, across, tried, change(engine, breath, drone, tried))
            )
    return out


def _tails(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """The last pipe of every way shorter or longer."""
    keys = [breath.ways.ways[i].stretches[-1] for i in breath.ways.ends]
    out = []
    for by in TAIL_MM:
        if all(s.long_mm + by > EDGE_MM for s in keys):
            tried = Tried(longer={s.key: by for s in keys})
            out.append(Remedy("tailpipe", keys[0].key, 0.0, by, 0.0, tried, change(engine, breath, drone, tried)))
    return out


def _moved(engine: Engine, breath: FlowSolution, drone: Drone) -> list[Remedy]:
    """A can moved along between two straights."""
    out = []
    for way in breath.ways.ways:
        for ahead, can, behind in zip(way.stretches, way.stretches[1:], way.stretches[2:], strict=False):
            is_can = can.part is not None and PART_KINDS[can.part.item.kind].is_silencer
            if not is_can or ahead.piece is None or behind.piece is None:
                continue
            for by in MOVED_MM:
                if ahead.long_mm + by > EDGE_MM and behind.long_mm - by > EDGE_MM:
                    tried = Tried(longer={ahead.key: by, behind.key: -by})
                    out.append(Remedy("moved can", can.key, 0.0, by, 0.0, tried, change(engine, breath, drone, tried)))
    return out
