"""The composition of exhaust, and its properties over temperature.

Pure gases come from a kept library of equations of state (`pure_gases`); the mixture is ideal: heat capacities by
mass, viscosity and conductivity by Wilke's rule (1950).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property, lru_cache

import numpy as np
from scipy.optimize import brentq

from ..records import Fuel
from ..space import Vector
from .march import LOW_K, STEP_K
from .pure_gases import PURE

GAS_CONSTANT, ZERO_C = 8.314462618, 273.15
NITROGEN_BY_OXYGEN = 3.76  # dry air, argon counted as nitrogen
SHIFT = 3.5  # the water-gas balance of a rich mixture as it freezes: Heywood, from memory
# hydrogen and oxygen atoms to each carbon atom; E85 of 85 parts of ethanol by volume, from its atoms
ATOMS: dict[Fuel, tuple[float, float]] = {"petrol": (1.85, 0.0), "diesel": (1.86, 0.0), "E85": (2.75, 0.39)}
KG_MOL = {
    "CarbonDioxide": 0.0440095,
    "Water": 0.0180153,
    "Nitrogen": 0.0280134,
    "Oxygen": 0.0319988,
    "CarbonMonoxide": 0.0280101,
    "Hydrogen": 0.00201588,
}
CARBON, HYDROGEN, OXYGEN, AIR = 0.0120107, 0.00100794, 0.0159994, 0.0289647
HIGH_K = 1600.0
GRID_K: Vector = np.arange(LOW_K, HIGH_K + STEP_K / 2, STEP_K)


@dataclass(frozen=True)
class Gas:
    """A mixture's properties over `GRID_K`: heat capacity [J/kg K], viscosity [Pa s], conductivity [W/m K] (n,), and
    its molar mass [kg/mol].
    """

    kg_mol: float
    cp: Vector
    viscosity: Vector
    conductivity: Vector

    @property
    def constant(self) -> float:
        """Its own gas constant [J/kg K]."""
        return GAS_CONSTANT / self.kg_mol

    @cached_property
    def table(self) -> Vector:
        """Return the tables of the kernels: heat capacity, viscosity, conductivity (3, n)."""
        return np.ascontiguousarray(np.stack([self.cp, self.viscosity, self.conductivity]))

    def at(self, kelvin: float) -> tuple[float, float, float]:
        """Heat capacity, viscosity and conductivity at a temperature [K]."""
        cp, viscosity, conductivity = (float(np.interp(kelvin, GRID_K, row)) for row in self.table)
        return cp, viscosity, conductivity

    def density(self, kelvin: float, pascal: float) -> float:
        """Of an ideal gas [kg/m3]."""
        return pascal / (self.constant * kelvin)

    def heat_ratio(self, kelvin: float) -> float:
        """Heat capacity at constant pressure over that at constant volume."""
        cp = self.at(kelvin)[0]
        return cp / (cp - self.constant)

    def sound(self, kelvin: float) -> float:
        """The speed of sound in it [m/s]."""
        return float(np.sqrt(self.heat_ratio(kelvin) * self.constant * kelvin))


def stoichiometric(fuel: Fuel) -> float:
    """Air that burns a fuel whole, by mass.

    >>> round(stoichiometric("petrol"), 1), round(stoichiometric("E85"), 1)
    (14.6, 9.8)
    """
    h, o = ATOMS[fuel]
    return (1 + h / 4 - o / 2) * (1 + NITROGEN_BY_OXYGEN) * AIR / (CARBON + h * HYDROGEN + o * OXYGEN)


def burnt(fuel: Fuel, air: float) -> dict[str, float]:
    """Return the products of a fuel burnt with a share of the air it needs (lambda), as mole shares; rich, by the
    balance of water gas.
    """
    h, o = ATOMS[fuel]
    need = 1 + h / 4 - o / 2
    nitrogen = air * need * NITROGEN_BY_OXYGEN
    if air >= 1:
        parts = {"CarbonDioxide": 1.0, "Water": h / 2, "Oxygen": (air - 1) * need, "Nitrogen": nitrogen}
    else:
        oxygen = o + 2 * air * need

        def off(co2: float) -> float:
            water = oxygen - 1 - co2
            return (1 - co2) * water - SHIFT * co2 * (h / 2 - water)

        co2 = float(brentq(off, max(0.0, oxygen - 1 - h / 2), min(1.0, oxygen - 1)))
        water = oxygen - 1 - co2
        parts = {
            "CarbonDioxide": co2,
            "CarbonMonoxide": 1 - co2,
            "Water": water,
            "Hydrogen": h / 2 - water,
            "Nitrogen": nitrogen,
        }
    whole = sum(parts.values())
    return {name: share / whole for name, share in parts.items() if share > 0}


@lru_cache(maxsize=64)
def exhaust(fuel: Fuel, air: float) -> Gas:
    """The gas of a fuel burnt with so much of the air it needs."""
    return mixed(burnt(fuel, air))


def mixed(shares: dict[str, float]) -> Gas:
    """An ideal mixture of pure gases by their mole shares."""
    names = list(shares)
    x = np.array([shares[n] for n in names])
    mass = np.array([KG_MOL[n] for n in names])
    cp, viscosity, conductivity = (np.array([PURE[n][k] for n in names]) for k in range(3))
    whole = float(x @ mass)
    weights = x * mass / whole
    heavier, phi = mass[:, None] / mass[None], viscosity[:, None] / viscosity[None]
    wilke = (1 + np.sqrt(phi) / heavier[:, :, None] ** 0.25) ** 2 / np.sqrt(8 * (1 + heavier[:, :, None]))
    under = np.einsum("j,ijt->it", x, wilke)
    return Gas(
        whole,
        weights @ cp,
        np.sum(x[:, None] * viscosity / under, axis=0),
        np.sum(x[:, None] * conductivity / under, axis=0),
    )
