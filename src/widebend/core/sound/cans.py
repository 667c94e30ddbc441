"""Parts with an inside of their own: perforated tubes in a can, chambers, honeycombs.

A straight-through can is two ducts side by side, the tube and the can round it, that exchange gas by the holes: four
coupled equations along it, solved exactly for each frequency, the can closed at both ends (Sullivan and Crocker 1978;
Peat). The holes' impedance is Rao and Munjal's (1986), packing Delany and Bazley's (1970). A honeycomb is a bundle
of narrow pipes with the resistance of their flow. All from memory; the tests hold them against their limits.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..space import Vector
from .lines import Matrices, Medium, in_line, pipe

# a perforated tube as it is sold: open share of its wall, thickness and holes [m]
OPEN_SHARE, SHEET_M, HOLE_M = 0.25, 0.0012, 0.0035
PACKING_RESISTS = 12_000.0  # basalt or long glass at its usual fill [Pa s/m2]: 5 to 30 thousand, common practice
DELANY_BAZLEY = (0.01, 1.0)  # density times frequency over resistance: between these the regression holds


@dataclass(frozen=True)
class Can:
    """A can: how long and how wide it is inside, the bore that runs through it [mm], and whether it is packed."""

    long_mm: float
    across_mm: float
    bore_mm: float
    packed: bool = True
    resists: float = PACKING_RESISTS


def holes(hz: Vector, gas: Medium, share: float = OPEN_SHARE) -> NDArray[Any]:
    """The impedance of a perforated wall over that of the gas (Rao and Munjal), with the flow grazing it."""
    real = 7.337e-3 * (1.0 + 72.23 * gas.mach)
    imaginary = 2.2245e-5 * np.asarray(hz) * (1.0 + 51.0 * SHEET_M) * (1.0 + 204.0 * HOLE_M)
    return np.asarray((real + 1j * imaginary) / share)


def packing(hz: Vector, gas: Medium, resists: float) -> tuple[NDArray[Any], NDArray[Any]]:
    """Wave number [1/m] and impedance [Pa s/m] of packed gas (Delany and Bazley)."""
    x = np.clip(gas.density * np.asarray(hz) / resists, *DELANY_BAZLEY)
    k = 2 * math.pi * np.asarray(hz) / gas.speed
    number = k * (1 + 0.0978 * x**-0.700 - 0.189j * x**-0.595)
    impedance = gas.density * gas.speed * (1 + 0.0571 * x**-0.754 - 0.087j * x**-0.732)
    return np.asarray(number), np.asarray(impedance)


def straight_through(hz: Vector, can: Can, gas: Medium) -> Matrices:
    """A perforated tube through a closed can, packed or not."""
    n, omega = len(hz), 2 * math.pi * np.asarray(hz)
    inner = math.pi / 4 * (can.bore_mm / 1000.0) ** 2
    outer = math.pi / 4 * ((can.across_mm / 1000.0) ** 2 - (can.bore_mm / 1000.0) ** 2)
    if outer <= 0:
        return pipe(hz, can.long_mm, can.bore_mm, gas)
    k1 = omega / gas.speed * (1 - 1e-4j)
    z1 = gas.density * gas.speed
    k2, z2 = packing(hz, gas, can.resists) if can.packed else (k1, np.full(n, z1, dtype=complex))
    through = math.pi * can.bore_mm / 1000.0 / (z1 * holes(hz, gas))  # volume velocity by length and pressure across
    a = np.zeros((n, 4, 4), dtype=complex)  # d/dx of (p1, U1, p2, U2)
    a[:, 0, 1] = -1j * k1 * z1 / inner
    a[:, 1, 0] = -1j * k1 * inner / z1 - through
    a[:, 1, 2] = through
    a[:, 2, 3] = -1j * k2 * z2 / outer
    a[:, 3, 2] = -1j * k2 * outer / z2 - through
    a[:, 3, 0] = through
    return _closed_at_both_ends(a, can.long_mm / 1000.0)


def _closed_at_both_ends(a: NDArray[Any], long_m: float) -> Matrices:
    """The tube's own matrix of four coupled equations dy/dx = a y, the outer duct's flow nothing at both ends.

    Each wave is counted from the end where it is largest, so that none of them drowns the others.
    """
    values, vectors = np.linalg.eig(a)
    grows = values.real > 0
    at_inlet = vectors * np.exp(np.where(grows, -values * long_m, 0.0))[:, None, :]
    at_outlet = vectors * np.exp(np.where(grows, 0.0, values * long_m))[:, None, :]
    asked = np.stack([at_outlet[:, 0], at_outlet[:, 1], at_outlet[:, 3], at_inlet[:, 3]], axis=1)
    wanted = np.zeros((len(a), 4, 2), dtype=complex)
    wanted[:, 0, 0] = wanted[:, 1, 1] = 1.0
    return np.ascontiguousarray(at_inlet[:, :2] @ np.linalg.solve(asked, wanted))


def chambers(hz: Vector, can: Can, gas: Medium, count: int) -> Matrices:
    """Chambers one behind the other, joined by short pipes of the bore, the can's length shared among them."""
    neck = min(60.0, can.long_mm / (4 * count))
    each = (can.long_mm - (count - 1) * neck) / count
    still = Medium(gas.speed, gas.density, 0.0, gas.viscosity)
    parts = []
    for i in range(count):
        parts.append(pipe(hz, each, can.across_mm, still))
        if i < count - 1:
            parts.append(pipe(hz, neck, can.bore_mm, gas))
    return in_line(parts)


def honeycomb(hz: Vector, long_mm: float, across_mm: float, open_share: float, resists: float, gas: Medium) -> Matrices:
    """A catalyst's cells, whose flow resistance is `resists` [Pa s/m2] on the speed in them."""
    omega = 2 * math.pi * np.asarray(hz)
    slows = np.sqrt(1 + resists / (1j * omega * gas.density))
    k = omega / gas.speed * slows
    z = gas.density * gas.speed * slows / (open_share * math.pi / 4 * (across_mm / 1000.0) ** 2)
    out = np.empty((len(omega), 2, 2), dtype=complex)
    along = k * long_mm / 1000.0
    out[:, 0, 0] = out[:, 1, 1] = np.cos(along)
    out[:, 0, 1], out[:, 1, 0] = 1j * z * np.sin(along), 1j / z * np.sin(along)
    return out
