"""How hot a thing gets beside a hot pipe, and how near the pipe may come.

A flat face that looks at the pipe, its back insulated: it takes the pipe's radiation, gives up its own, and the air
takes or brings the rest. A small face before a long cylinder sees r / (r + g) of it (view factor of an element whose
normal meets the axis; Howell's catalogue, from memory): long is the worst. Above the pipe and in still air stands its
plume: g' = 2.6 B^(2/3) / z of a line source (Rouse, Yih and Humphreys 1952, from memory). A shield is a bright sheet
half way, itself in balance.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..gas import ATMOSPHERE_PA, SIGMA, ZERO_C, by_air

THING_BLACK = 0.9  # plastic, rubber, paint: handbook, from memory
SHIELD_BLACK = 0.15  # bright aluminium after some road: handbook gives 0.05 new to 0.2, from memory
STILL_H = 8.0  # [W/m2 K] of a face in still air: handbook, 5 to 10, from memory
PLUME = 2.6
LEAST_GAP_MM, MOST_GAP_MM = 3.0, 600.0


@dataclass(frozen=True)
class HotPipe:
    """What stands by the thing: its skin [C], radius [mm], emissivity."""

    skin_c: float
    radius_mm: float
    black: float

    def by_air_w_m(self, air_c: float) -> float:
        """What still air carries off it [W/m]."""
        across = 2 * self.radius_mm / 1000.0
        return float(by_air(self.skin_c + ZERO_C, air_c + ZERO_C, across, 0.0) * math.pi * across)


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
    if not around.shielded:
        return _balance(pipe.skin_c, sees * pipe.black * THING_BLACK, air, STILL_H, THING_BLACK)
    sees = view_factor(pipe.radius_mm, gap_mm / 2)
    # the sheet: pipe on one side, air on both
    sheet = _balance(pipe.skin_c, sees * pipe.black * SHIELD_BLACK, air, 2 * STILL_H, 2 * SHIELD_BLACK)
    return _balance(sheet, SHIELD_BLACK * THING_BLACK, around.air_c, STILL_H, THING_BLACK)


def _balance(hot_c: float, takes: float, air_c: float, h: float, black: float) -> float:
    """Where what a face takes of something hot, net of what it would get from its surroundings, is what it gives up."""
    hot, air = (hot_c + ZERO_C) ** 4, (air_c + ZERO_C) ** 4
    low, high = min(air_c, hot_c), max(hot_c, air_c)
    for _ in range(40):
        mid = (low + high) / 2
        gives = h * (mid - air_c) + black * SIGMA * ((mid + ZERO_C) ** 4 - air)
        if takes * SIGMA * (hot - air) > gives:
            low = mid
        else:
            high = mid
    return (low + high) / 2


def may_come_mm(pipe: HotPipe, bears_c: float, around: Surroundings) -> float | None:
    """How near a pipe may come to what bears so much [mm]; None where no distance we reckon with is enough."""
    if reaches_c(pipe, MOST_GAP_MM, around) > bears_c:
        return None
    if reaches_c(pipe, LEAST_GAP_MM, around) <= bears_c:
        return LEAST_GAP_MM
    low, high = LEAST_GAP_MM, MOST_GAP_MM
    for _ in range(30):
        mid = (low + high) / 2
        low, high = (mid, high) if reaches_c(pipe, mid, around) > bears_c else (low, mid)
    return high
