"""How much gas an engine gives, by its power and fuel or by what it displaces."""

from __future__ import annotations

from typing import Literal


def by_power(power_kw: float, fuel_g_kwh: float, air_fuel: float) -> float:
    """Gas by power [kg/s]: fuel and the air that burns it."""
    return power_kw * fuel_g_kwh / 3.6e6 * (1.0 + air_fuel)


def by_displacement(
    litres: float, rpm: float, filled: float, air_kg_m3: float, air_fuel: float, strokes: Literal[2, 4] = 4
) -> float:
    """Gas by what the engine draws [kg/s]: its cylinders filled to a share with air of a density, and its fuel."""
    air = litres / 1000.0 * rpm / (60.0 * strokes / 2) * filled * air_kg_m3
    return air * (1.0 + 1.0 / air_fuel)
