"""How stiff a rubber is: as it was pulled, as it is said, or by its shape and hardness; with its spread.

By shape: a bonded cylinder's Young's modulus is E0 (1 + 2 k S^2), S the loaded area over the area free to bulge, its
shear modulus G (Lindley, Engineering Design with Natural Rubber, the table from memory: reference E024). Hardness is
held to 5 degrees either way by those who mould it (common practice, no source): the spread is what that does.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..records import Hanger, HangWay, Rubber
from ..space import Vector
from ..units import Length

HARDNESS = (40.0, 50.0, 60.0, 70.0)  # IRHD
SHEAR_MPA = (0.45, 0.64, 1.06, 1.73)
YOUNG_MPA = (1.50, 2.20, 4.45, 7.35)
SHAPE = (0.85, 0.73, 0.57, 0.53)
OFF_DEG = 5.0
USUAL_HARDNESS = 50.0
USUAL_N_MM, USUAL_LEAST, USUAL_MOST = 12.0, 5.0, 25.0  # of a rubber with two holes: reference E026, from memory
ACROSS = 0.25  # of its stiffness along, what a rubber with two holes resists sideways: common practice, no source
PULLED = 0.10  # a pull test in the shop is right to a tenth: common practice, no source
SOLID_N_MM = 20_000.0  # a solid tie: a 10 mm rod of half a metre pulled, in round figures

RUBBERS: dict[str, Rubber] = {
    "two-hole": Rubber(name="two-hole rubber", long_mm=Length(45), wide_mm=Length(30), least_n=10, most_n=90),
    "two-hole-stiff": Rubber(
        name="two-hole rubber, stiff", long_mm=Length(45), wide_mm=Length(34), along_n_mm=20.0, least_n=25, most_n=150
    ),
    "two-hole-hot": Rubber(
        name="two-hole rubber, silicone",
        long_mm=Length(45),
        wide_mm=Length(30),
        along_n_mm=9.0,
        least_n=8,
        most_n=70,
        limit_c=200,
    ),
    "ring": Rubber(
        name="ring", shape="ring", long_mm=Length(55), wide_mm=Length(14), along_n_mm=6.0, least_n=5, most_n=50
    ),
    "bobbin-50": Rubber(
        name="bobbin 50 x 30",
        shape="bobbin",
        long_mm=Length(30),
        wide_mm=Length(50),
        hardness=50,
        least_n=5,
        most_n=150,
    ),
    "bobbin-70": Rubber(
        name="bobbin 70 x 40",
        shape="bobbin",
        long_mm=Length(40),
        wide_mm=Length(70),
        hardness=50,
        least_n=10,
        most_n=300,
    ),
}


@dataclass(frozen=True)
class RubberStiffness:
    """N/mm along and across, both between what they may be; `how` says where they are from."""

    along: float
    across: float
    least: float
    most: float
    how: str


def rubber_of(hanger: Hanger) -> Rubber:
    """The rubber in a hanger: its own, or the usual one for how it hangs."""
    return hanger.rubber or RUBBERS["bobbin-70" if hanger.way.startswith("bobbin") else "two-hole"]


def stiffness_of(rubber: Rubber) -> RubberStiffness:
    """How stiff a rubber is. A pull test goes before what is said, that before what its shape gives."""
    bobbin = rubber.shape == "bobbin"
    hardness = rubber.hardness or USUAL_HARDNESS
    shaped = [
        _cylinder(float(rubber.wide_mm), float(rubber.long_mm), h)
        for h in (hardness, hardness - OFF_DEG, hardness + OFF_DEG)
    ]
    if rubber.pull_n and rubber.stretch_mm:
        along = rubber.pull_n / float(rubber.stretch_mm)
        least, most, how = along * (1 - PULLED), along * (1 + PULLED), "pulled in the shop"
    elif rubber.along_n_mm:
        along, how = rubber.along_n_mm, "as it is sold"
        least, most = along * 0.85, along * 1.15  # what its hardness leaves open: 5 degrees of 50 do as much
    elif bobbin:
        (along, _), (least, _), (most, _) = shaped
        how = f"from its shape and a hardness of {hardness:g}"
    else:
        along, least, most, how = USUAL_N_MM, USUAL_LEAST, USUAL_MOST, "the usual one: pull one to know"
    across = rubber.across_n_mm or (shaped[0][1] * along / shaped[0][0] if bobbin else ACROSS * along)
    return RubberStiffness(along, across, least, most, how)


def hold(way: HangWay, rubber: Rubber, count: int) -> Vector:
    """Return the stiffness of a hanger's rubbers at the rod's eye: stiffness (3, 3) [N/mm], down the third axis. A
    sheared bobbin stands across: it is soft downward and stiff to its side.
    """
    if way == "solid":
        return np.eye(3) * SOLID_N_MM
    found = stiffness_of(rubber)
    along, across = count * found.along, count * found.across
    return np.diag([across, along, across] if way == "bobbin sheared" else [across, across, along])


def _cylinder(wide_mm: float, long_mm: float, hardness: float) -> tuple[float, float]:
    """A bonded cylinder pulled or pressed, and sheared [N/mm].

    >>> [round(k, 1) for k in _cylinder(50.0, 30.0, 50.0)]
    [180.5, 41.9]
    """
    g, e, k = (float(np.interp(hardness, HARDNESS, row)) for row in (SHEAR_MPA, YOUNG_MPA, SHAPE))
    area, shape = math.pi * wide_mm**2 / 4, wide_mm / (4 * long_mm)
    return e * (1 + 2 * k * shape**2) * area / long_mm, g * area / long_mm
