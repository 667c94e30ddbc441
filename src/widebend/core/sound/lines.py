"""Plane waves through what lies one behind the other: transfer matrices of pressure and volume velocity.

Each matrix is (f, 2, 2), one a frequency; they multiply from the engine to the tip. A flow carries the waves along; the
wall takes a little of them by its film (Kirchhoff) and by the flow's friction. Munjal, Acoustics of Ducts and Mufflers,
from memory; the tests hold it against the closed forms.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..space import Vector

GAS_CONSTANT = 8.314462618
AIR_KG_MOL, AIR_GAMMA = 0.0289647, 1.4
ATMOSPHERE_PA, ZERO_C = 101_325.0, 273.15
Matrices = NDArray[np.complex128]
# what film of air and heat at the wall adds: 1 + (gamma - 1) / root of Prandtl's number, of exhaust; Darcy's factor of
# pipe as it is used
FILM, FRICTION = 1.36, 0.022


@dataclass(frozen=True)
class Medium:
    """The gas in a stretch: its speed of sound [m/s] and density [kg/m3]; the Mach number of its flow, and its
    kinematic viscosity [m2/s], nothing for walls without loss.
    """

    speed: float
    density: float
    mach: float = 0.0
    viscosity: float = 0.0

    @classmethod
    def air(cls, temperature_c: float) -> Medium:
        """Ideal air of constant heat ratio at a temperature; exhaust at 900 C is about 4 % slower."""
        kelvin = temperature_c + ZERO_C
        return cls(speed_of_sound(temperature_c), ATMOSPHERE_PA * AIR_KG_MOL / (GAS_CONSTANT * kelvin))

    def impedance(self, across_mm: float) -> float:
        """The acoustic impedance of a round pipe, pressure over volume velocity [Pa s/m3]."""
        return self.density * self.speed / _area(across_mm)


def speed_of_sound(temperature_c: float, gamma: float = AIR_GAMMA, kg_mol: float = AIR_KG_MOL) -> float:
    """The speed of sound of an ideal gas [m/s]: sqrt(gamma R T / M).

    >>> round(speed_of_sound(20.0), 1)
    343.2
    """
    return math.sqrt(gamma * GAS_CONSTANT * (temperature_c + ZERO_C) / kg_mol)


def _area(across_mm: float) -> float:
    return math.pi / 4 * (across_mm / 1000.0) ** 2


def wave_number(hz: Vector, across_mm: float, gas: Medium) -> NDArray[Any]:
    """The wave number in a pipe [1/m], with what its wall takes as the imaginary part."""
    k = 2 * math.pi * np.asarray(hz) / gas.speed
    radius = across_mm / 2000.0
    film = np.sqrt(math.pi * np.asarray(hz) * gas.viscosity) * FILM / (radius * gas.speed)
    return np.asarray(k + film - 1j * (film + FRICTION * gas.mach / (4 * radius)))


def pipe(hz: Vector, long_mm: float, across_mm: float, gas: Medium) -> Matrices:
    """A straight stretch of pipe; an empty chamber is a wide one: pressure and volume velocity go on where it jumps."""
    along = wave_number(hz, across_mm, gas) * long_mm / 1000.0 / (1 - gas.mach**2)
    z = gas.impedance(across_mm)
    carried = np.exp(-1j * gas.mach * along)
    out = np.empty((len(hz), 2, 2), dtype=complex)
    out[:, 0, 0] = out[:, 1, 1] = carried * np.cos(along)
    out[:, 0, 1], out[:, 1, 0] = carried * 1j * z * np.sin(along), carried * 1j / z * np.sin(along)
    return out


def branch_impedance(hz: Vector, long_mm: float, across_mm: float, gas: Medium) -> NDArray[Any]:
    """Return the impedance of a closed side pipe, its end correction included: -j Z cot(k L)."""
    kl = wave_number(hz, across_mm, gas) * long_mm / 1000.0
    with np.errstate(divide="ignore"):
        return np.asarray(-1j * gas.impedance(across_mm) / np.tan(kl))


def side_branch(impedance: NDArray[Any]) -> Matrices:
    """Return the matrix of a side branch with an impedance, one a frequency."""
    out = np.zeros((len(impedance), 2, 2), dtype=complex)
    out[:, 0, 0] = out[:, 1, 1] = 1.0
    out[:, 1, 0] = 1.0 / impedance
    return out


def in_line(parts: Sequence[Matrices]) -> Matrices:
    """Return the product of matrices from the engine to the tip."""
    out = parts[0]
    for part in parts[1:]:
        out = out @ part
    return out


def transmission_loss_db(line: Matrices, ahead_z: float, behind_z: float) -> Vector:
    """Return the transmission loss of a line between echo-free pipes of these impedances [dB], one a frequency."""
    a, b, c, d = line[:, 0, 0], line[:, 0, 1], line[:, 1, 0], line[:, 1, 1]
    through = (a + b / behind_z + c * ahead_z + d * ahead_z / behind_z) / 2
    return np.asarray(20 * np.log10(np.abs(through)) + 10 * np.log10(behind_z / ahead_z))
