"""How hot a thing gets beside a hot pipe, and how near the pipe may come.

A flat face that looks at the pipe, its back insulated: it takes the pipe's radiation, gives up its own, and the air
takes or brings the rest. A small face before a long cylinder sees r / (r + g) of it (view factor of an element whose
normal meets the axis; Howell's catalogue, from memory): long is the worst. Above the pipe and in still air stands its
plume: g' = 2.6 B^(2/3) / z of a line source (Rouse, Yih and Humphreys 1952, from memory). Through a narrow gap the air
between conducts too, and less of it passes. A shield is a sheet half way (`shield`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..gas import ATMOSPHERE_PA, SIGMA, ZERO_C, convective_flux
from .shield import SHIELD_EMISSIVITY, air_w_m_k, behind_shield_c, passing_w_m2_k

THING_EMISSIVITY = 0.9  # plastic, rubber, paint: handbook, from memory
STILL_H = 8.0  # [W/m2 K] of a face in still air: handbook, 5 to 10, from memory
PLUME = 2.6
EDGES = 0.1
LEAST_GAP_MM, MOST_GAP_MM = 3.0, 600.0


@dataclass(frozen=True)
class HotPipe:
    """The hot pipe beside a thing: its skin [C], radius [mm], emissivity."""

    skin_c: float
    radius_mm: float
    black: float

    def by_air_w_m(self, air_c: float) -> float:
        """Return the convection off it in still air [W/m]."""
        across = 2 * self.radius_mm / 1000.0
        return float(convective_flux(self.skin_c + ZERO_C, air_c + ZERO_C, across, 0.0) * math.pi * across)


@dataclass(frozen=True)
class Surroundings:
    """The still air [C]; whether the thing is over the pipe; whether a shield stands between."""

    air_c: float
    above: bool = False
    shielded: bool = False


def view_factor(radius_mm: float, gap_mm: float) -> float:
    """How much of what a small face sees is the pipe.

    >>> view_factor(30.0, 30.0)
    0.5
    """
    return radius_mm / (radius_mm + max(gap_mm, 0.0))


def plume_rise_k(by_air_w_m: float, above_mm: float, air_c: float) -> float:
    """How much warmer than the air the middle of a plume is, so far over its line [K]."""
    kelvin = air_c + ZERO_C
    density, heat, gravity = ATMOSPHERE_PA / (287.05 * kelvin), 1006.0, 9.81
    buoyancy = gravity * max(by_air_w_m, 0.0) / (density * heat * kelvin)
    return float(PLUME * buoyancy ** (2 / 3) / (max(above_mm, 1.0) / 1000.0) * kelvin / gravity)


def reaches_c(pipe: HotPipe, gap_mm: float, around: Surroundings) -> float:
    """How hot the face of a thing gets at a gap [C]; never hotter than the pipe."""
    air = around.air_c
    if around.above:
        air += plume_rise_k(pipe.by_air_w_m(air), gap_mm + pipe.radius_mm, around.air_c)
    air = min(air, pipe.skin_c)
    sees = view_factor(pipe.radius_mm, gap_mm)
    if around.shielded:
        sees = view_factor(pipe.radius_mm, gap_mm / 2)
        takes = sees * pipe.black * SHIELD_EMISSIVITY
        behind = behind_shield_c(pipe.skin_c, takes, sees, gap_mm, air, THING_EMISSIVITY)
        # never better than by a tenth of what comes straight: it looks in past the edges. Common practice, no source
        return max(behind, air + EDGES * (_bare_c(pipe, gap_mm, air) - air))
    return _bare_c(pipe, gap_mm, air)


def _bare_c(pipe: HotPipe, gap_mm: float, air_c: float) -> float:
    """Where what a face takes of a pipe, net of what it would get from its surroundings, is what it gives up."""
    takes = view_factor(pipe.radius_mm, gap_mm) * pipe.black * THING_EMISSIVITY
    gap = max(gap_mm, 1e-3)
    hot, air = (pipe.skin_c + ZERO_C) ** 4, (air_c + ZERO_C) ** 4
    low, high = min(air_c, pipe.skin_c), max(pipe.skin_c, air_c)
    for _ in range(40):
        mid = (low + high) / 2
        convective_flux = air_w_m_k((mid + pipe.skin_c) / 2 + ZERO_C) / (gap / 1000.0) * (pipe.skin_c - mid)
        h = min(STILL_H, passing_w_m2_k(mid, air_c, gap, 2 * pipe.radius_mm, 1.0))
        gives = h * (mid - air_c) + THING_EMISSIVITY * SIGMA * ((mid + ZERO_C) ** 4 - air)
        if takes * SIGMA * (hot - air) + convective_flux > gives:
            low = mid
        else:
            high = mid
    return (low + high) / 2


def may_come_mm(pipe: HotPipe, bears_c: float, around: Surroundings, least_mm: float = LEAST_GAP_MM) -> float | None:
    """How near a pipe may come to what bears so much, no nearer than `least_mm` whatever it reaches [mm]; None where no
    distance that is looked at is enough.
    """
    if reaches_c(pipe, MOST_GAP_MM, around) > bears_c:
        return None
    if reaches_c(pipe, least_mm, around) <= bears_c:
        return least_mm
    low, high = least_mm, MOST_GAP_MM
    for _ in range(30):
        mid = (low + high) / 2
        low, high = (mid, high) if reaches_c(pipe, mid, around) > bears_c else (low, mid)
    return high
