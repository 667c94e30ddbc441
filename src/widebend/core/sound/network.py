"""The whole system as sound: ways as chains of matrices, joined where they meet, from the engine's pulses to the air.

Pressures at the nodes are solved for each frequency. What flows out of all ends together is what is heard far off, and
in the cabin at low frequencies. The engine end takes some of the echo: matched, unless it is asked what a harder or
softer one would do; that is a part of the range.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ...facts import PART_KINDS
from ..flow import SQUARE_F_RE, can_across_mm, can_length_mm, substrate_of
from ..gas import ATMOSPHERE_PA, FlowSolution, Profile, Stretch
from ..records import Part
from ..space import Vector
from .cans import Can, chambers, honeycomb, straight_through
from .lines import Matrices, Medium, branch_impedance, in_line, pipe, side_branch, transmission_loss_db
from .radiation import end_impedance
from .resonators import FLANGED, cut_on_hz

HZ: Vector = np.concatenate(
    [np.arange(16.0, 400.0, 2.0), np.arange(400.0, 1200.0, 8.0), np.arange(1200.0, 1817.0, 16.0)]
)
CHAMBERS = {"chambered": 2, "three passes": 3}
Bare = Callable[[Stretch], bool]


@dataclass(frozen=True)
class SideBranch:
    """A closed pipe on the side of a stretch: how far along it [mm], its sections from the mouth to the cap as length
    and bore [mm], and its gas's share of the heat over the air: dead ends are cooler.
    """

    stretch: str
    along_mm: float
    sections: tuple[tuple[float, float], ...]
    warm: float = 0.8

    @property
    def long_mm(self) -> float:
        return sum(long for long, _ in self.sections)

    @property
    def bore_mm(self) -> float:
        """At its mouth."""
        return self.sections[0][1]


@dataclass(frozen=True)
class Tried:
    """A trial on a system by ear alone: branches on its side; cans that count as plain pipe; stretches longer by
    this many mm; a can put into the middle of a straight; how much flow the packing resists (none: usual).
    """

    branches: tuple[SideBranch, ...] = ()
    bare: Bare | None = None
    longer: Mapping[str, float] = field(default_factory=dict)
    cans: Mapping[str, Can] = field(default_factory=dict)
    resists: float | None = None


AS_DRAWN = Tried()


@dataclass(frozen=True)
class Heard:
    """Return the response to each inlet's volume velocity, all ends together: (banks, f) complex; of one frequency
    grid.
    """

    hz: Vector
    through: Vector

    def at(self, hz: Vector) -> Vector:
        """The same at other frequencies (banks, n): by size and angle between the grid's."""
        out = np.empty((len(self.through), len(hz)), dtype=complex)
        for i, row in enumerate(self.through):
            size, turn = np.abs(row), np.unwrap(np.angle(row))
            out[i] = np.interp(hz, self.hz, size) * np.exp(1j * np.interp(hz, self.hz, turn))
        return out


@dataclass(frozen=True)
class Ends:
    """How the engine's end echoes: its impedance over that of the first pipe. 1 is matched."""

    engine: float = 1.0


def medium_of(breath: FlowSolution, profile: Profile, stretch: int, warm: float = 1.0) -> Medium:
    """The gas in a stretch: of its mean temperature and speed."""
    here = profile.of == stretch
    celsius = breath.around_c + (float(profile.gas_c[here].mean()) - breath.around_c) * warm
    kelvin = celsius + 273.15
    gas = breath.gas.gas
    speed, density = gas.sound(kelvin), gas.density(kelvin, ATMOSPHERE_PA)
    mach = min(0.6, float(profile.speed[here].mean()) / speed) if warm == 1.0 else 0.0
    return Medium(speed, density, mach, gas.at(kelvin)[1] / density)


def heard(breath: FlowSolution, tried: Tried = AS_DRAWN, hz: Vector = HZ, ends: Ends | None = None) -> Heard:
    """The system's sound: from each inlet to all ends together, with what is tried on it."""
    ways = breath.ways.ways
    profiles = {p.way: p for p in breath.profiles}
    chains = [_chain(breath, profiles[i], tried, hz) for i in range(len(ways))]
    nodes = {name: n for n, name in enumerate(dict.fromkeys(x for w in ways for x in (w.head, w.tail)))}
    y = np.zeros((len(hz), len(nodes), len(nodes)), dtype=complex)
    for way, t in zip(ways, chains, strict=True):
        h, e = nodes[way.head], nodes[way.tail]
        a, b, c, d = t[:, 0, 0], t[:, 0, 1], t[:, 1, 0], t[:, 1, 1]
        y[:, h, h] += d / b
        y[:, h, e] -= (a * d - b * c) / b
        y[:, e, h] -= 1 / b
        y[:, e, e] += a / b
    radiates = {
        i: end_impedance(
            hz, ways[i].stretches[-1].leaves_mm, medium_of(breath, profiles[i], len(ways[i].stretches) - 1)
        )
        for i in breath.ways.ends
    }
    for i, z in radiates.items():
        y[:, nodes[ways[i].tail], nodes[ways[i].tail]] += 1 / z
    for i in breath.ways.sources:
        own = medium_of(breath, profiles[i], 0).impedance(ways[i].stretches[0].bore_mm)
        y[:, nodes[ways[i].head], nodes[ways[i].head]] += 1 / (own * (ends or Ends()).engine)
    sent = np.zeros((len(hz), len(nodes), len(breath.ways.sources)), dtype=complex)
    for n, i in enumerate(breath.ways.sources):
        sent[:, nodes[ways[i].head], n] = 1.0
    pressure = np.linalg.solve(y, sent)
    out = sum(pressure[:, nodes[ways[i].tail]] / z[:, None] for i, z in radiates.items())
    return Heard(hz, np.asarray(out).T)


def _chain(breath: FlowSolution, profile: Profile, tried: Tried, hz: Vector) -> Matrices:
    """One way's stretches one behind the other."""
    parts: list[Matrices] = []
    for k, stretch in enumerate(breath.ways.ways[profile.way].stretches):
        gas = medium_of(breath, profile, k)
        if stretch.key in tried.longer:
            stretch = replace(stretch, long_mm=max(1.0, stretch.long_mm + tried.longer[stretch.key]))
        own = [SideBranch(c.stretch, c.along_mm, c.sections) for c in breath.ways.capped]
        on_it = (b for b in (*own, *tried.branches) if b.stretch == stretch.key)
        here = sorted(on_it, key=lambda b: b.along_mm)
        if here:
            parts += _with_branches(hz, stretch, here, gas, [medium_of(breath, profile, k, b.warm) for b in here])
        elif stretch.key in tried.cans:
            can = tried.cans[stretch.key]
            side = max((stretch.long_mm - can.long_mm) / 2, 0.5)
            plain = pipe(hz, side, stretch.bore_mm, gas)
            parts += [plain, straight_through(hz, can, gas), plain]
        else:
            is_bare = tried.bare is not None and tried.bare(stretch)
            parts.append(_stretch(stretch, gas, hz, is_bare, tried.resists))
    return in_line(parts)


def _with_branches(
    hz: Vector, stretch: Stretch, branches: Sequence[SideBranch], gas: Medium, inside: Sequence[Medium]
) -> list[Matrices]:
    """A stretch of pipe with closed branches on its side."""
    parts, done = [], 0.0
    for branch, warm in zip(branches, inside, strict=True):
        along = min(max(branch.along_mm, 1.0), stretch.long_mm - 1.0)
        parts.append(pipe(hz, max(along - done, 0.5), stretch.bore_mm, gas))
        parts.append(_on_side(hz, branch, warm))
        done = along
    return [*parts, pipe(hz, max(stretch.long_mm - done, 0.5), stretch.bore_mm, gas)]


def _on_side(hz: Vector, branch: SideBranch, gas: Medium) -> Matrices:
    """A closed branch; its mouth in the pipe's wall counts as a flanged one."""
    return side_branch(mouth_impedance(hz, branch.sections, replace(gas, mach=0.0)))


def mouth_impedance(hz: Vector, sections: Sequence[tuple[float, float]], gas: Medium) -> NDArray[Any]:
    """Return the impedance of a closed branch of several sections, its mouth's end correction in the first."""
    (first, bore), *rest = sections
    lengths = [(first + FLANGED * bore / 2, bore), *rest]
    z = branch_impedance(hz, *lengths[-1], gas)
    for long, across in reversed(lengths[:-1]):
        t = pipe(hz, long, across, gas)
        z = (t[:, 0, 0] * z + t[:, 0, 1]) / (t[:, 1, 0] * z + t[:, 1, 1])
    return np.asarray(z)


def _stretch(stretch: Stretch, gas: Medium, hz: Vector, is_bare: bool, resists: float | None) -> Matrices:
    part = stretch.part
    if part is None or is_bare or not PART_KINDS[part.item.kind].is_can:
        half = stretch.long_mm / 2
        if stretch.bore_mm == stretch.leaves_mm:
            return pipe(hz, max(stretch.long_mm, 0.5), stretch.bore_mm, gas)
        return in_line([pipe(hz, half, stretch.bore_mm, gas), pipe(hz, half, stretch.leaves_mm, gas)])
    long = min(can_length_mm(part) or stretch.long_mm, stretch.long_mm)
    spigot = max((stretch.long_mm - long) / 2, 0.5)
    across = max(can_across_mm(part), stretch.bore_mm * 1.02)
    inner = _inside(part, Can(long, across, stretch.bore_mm), gas, hz, resists)
    return in_line([pipe(hz, spigot, stretch.bore_mm, gas), inner, pipe(hz, spigot, stretch.leaves_mm, gas)])


def _inside(part: Part, can: Can, gas: Medium, hz: Vector, resists: float | None) -> Matrices:
    if part.item.kind == "cat":
        stone = substrate_of(part)
        viscous = SQUARE_F_RE / 2 * gas.viscosity * gas.density / (stone.bore_mm / 1000.0) ** 2
        return honeycomb(hz, can.long_mm, can.across_mm, stone.open_share, viscous, gas)
    if part.item.inside in CHAMBERS:
        return chambers(hz, can, gas, CHAMBERS[part.item.inside])
    can = replace(can, packed=part.item.packed, resists=can.resists if resists is None else resists)
    return straight_through(hz, can, gas)


def can_losses_db(breath: FlowSolution, hz: Vector = HZ) -> list[tuple[str, Vector]]:
    """The transmission loss of each muffler, resonator and catalyst in its own gas, spigots and all [dB] (f,), by its
    part's id.
    """
    out = []
    for profile in breath.profiles:
        for k, stretch in enumerate(breath.ways.ways[profile.way].stretches):
            if stretch.part is not None and PART_KINDS[stretch.part.item.kind].is_can:
                gas = medium_of(breath, profile, k)
                line = _stretch(stretch, gas, hz, False, None)
                ahead, behind = gas.impedance(stretch.bore_mm), gas.impedance(stretch.leaves_mm)
                out.append((stretch.part.id, transmission_loss_db(line, ahead, behind)))
    return out


def plane_waves_to_hz(breath: FlowSolution) -> float:
    """Up to where no can carries more than plane waves: the calculation's own bound [Hz]."""
    found = [
        cut_on_hz(can_across_mm(s.part), medium_of(breath, p, k).speed)
        for p in breath.profiles
        for k, s in enumerate(breath.ways.ways[p.way].stretches)
        if s.part is not None and PART_KINDS[s.part.item.kind].is_can
    ]
    return min(found, default=float(HZ[-1]))


def insertion_loss_db(with_it: Heard, without: Heard) -> Vector:
    """How much less comes out of all ends with something than without it, the inlets one by one [dB] (f,)."""
    louder, quieter = (np.sum(np.abs(h.through) ** 2, axis=0) for h in (without, with_it))
    return np.asarray(10 * np.log10(np.maximum(louder, 1e-30) / np.maximum(quieter, 1e-30)))


def mean_volume_m3_s(breath: FlowSolution) -> float:
    """All gas where it enters, as volume."""
    kelvin = breath.gas.enters_c.usual + 273.15
    return breath.gas.kg_s.usual / breath.gas.gas.density(kelvin, ATMOSPHERE_PA)
