"""A bracket of flat bar or bent tube from a bolt hole to a rubber's pin: its cut length, its stress, its stiffness.

Bend allowance BA = angle (Ri + K t); outside setback OSSB = (Ri + t) tan(angle / 2); what is laid flat is each outside
leg less its setback, and the allowance between (Machinery's Handbook, bend allowances, from memory: reference E027).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..records import BracketKind
from ..space import Vector
from ..templates import Stroke, Template, Word
from ..units import format_length
from .rods import SHOCK, YIELD_MPA

K_FACTOR = 0.42  # of soft steel bent on about its own thickness: Machinery's Handbook, 0.64 t + 1.57 R, from memory
STEEL_MPA = 210_000.0
TUBE_RADIUS_D = 2.0  # small tube is bent on a middle radius of two diameters in a hand bender: common practice
EDGE_HOLES = 1.2  # of a hole from its middle to an edge, at least: EN 1993-1-8 table 3.3, from memory


@dataclass(frozen=True)
class Bracket:
    """A bracket as it is cut: bar wide and thick, or tube so wide with its wall; holes and middles of bends from one
    end along it [mm]; stress [MPa] and give [N/mm] at the pin, and the give of a round tube of as much metal.
    """

    kind: BracketKind
    wide_mm: float
    thick_mm: float
    flat_mm: float
    holes: tuple[tuple[float, float], ...]  # place along the bar, diameter
    folds: tuple[tuple[float, float], ...]  # place of the middle of the bend, angle
    stress_mpa: float
    stiff_n_mm: float
    tube_n_mm: float

    @property
    def holds(self) -> bool:
        return self.stress_mpa <= YIELD_MPA


def bend_allowance(
    angle_deg: float, inside_mm: float, thick_mm: float, k: float = K_FACTOR
) -> tuple[float, float, float]:
    """Bend allowance, outside setback and bend deduction [mm].

    >>> [round(x, 6) for x in bend_allowance(90.0, 3.0, 3.0, 0.33)]
    [6.267477, 6.0, 5.732523]
    """
    t = math.radians(angle_deg)
    allowance, setback = t * (inside_mm + k * thick_mm), (inside_mm + thick_mm) * math.tan(t / 2)
    return allowance, setback, 2 * setback - allowance


def bracket_of(
    pin_from_hole: Vector,
    bolt_mm: float,
    pin_mm: float,
    load_n: float,
    *,
    wide_mm: float = 30.0,
    thick_mm: float = 4.0,
    inside_mm: float = 4.0,
    k: float = K_FACTOR,
    unit: str = "mm",
) -> Bracket:
    """A bar bolted flat under a hole, out to over the pin and down to it: `pin_from_hole` (3,) [mm]; it bends first at
    the bolt, where its hole takes some of its width. Raises InputError
    for a bar too narrow for its holes, or a pin that is not below the bar.
    """

    def says(mm: float) -> str:
        return format_length(mm, unit, 0)

    if wide_mm < 2 * EDGE_HOLES * max(bolt_mm, pin_mm):
        widest = says(2 * EDGE_HOLES * max(bolt_mm, pin_mm))
        raise InputError(f"a bar of {says(wide_mm)} is too narrow for its holes: {widest} or more")
    out, down = float(np.hypot(*pin_from_hole[:2])), -float(pin_from_hole[2])
    allowance, setback, _ = bend_allowance(90.0, inside_mm, thick_mm, k)
    ends = [EDGE_HOLES * d for d in (bolt_mm, pin_mm)]
    if down < setback + pin_mm:
        raise InputError(f"for a bent bar the pin is {says(setback + pin_mm)} or more under the bolt")
    first, second = out + thick_mm / 2 - setback, down - setback
    if first < ends[0] / 2:
        raise InputError(f"for a bent bar the pin is {says(ends[0] / 2 + setback)} or more to the side of the bolt")
    fold = ends[0] + first + allowance / 2
    pin = ends[0] + first + allowance + second
    moment = SHOCK * abs(load_n) * out
    second_moment = wide_mm * thick_mm**3 / 12
    stiff = 3 * STEEL_MPA * second_moment / max(out, 1.0) ** 3
    stress = 6 * moment / ((wide_mm - bolt_mm) * thick_mm**2)
    return Bracket(
        "flat bar",
        wide_mm,
        thick_mm,
        pin + ends[1],
        ((ends[0], bolt_mm), (pin, pin_mm)),
        ((fold, 90.0),),
        stress,
        stiff,
        _as_tube(wide_mm, thick_mm, out),
    )


def tube_bracket_of(
    pin_from_hole: Vector,
    bolt_mm: float,
    pin_mm: float,
    load_n: float,
    *,
    od_mm: float = 22.0,
    wall_mm: float = 2.0,
    unit: str = "mm",
) -> Bracket:
    """A tube pressed flat at both ends and bent once, from a hole out and down to a pin; bent on a middle radius of two
    diameters. Raises InputError where it has no room for its bend.
    """

    def says(mm: float) -> str:
        return format_length(mm, unit, 0)

    out, down = float(np.hypot(*pin_from_hole[:2])), -float(pin_from_hole[2])
    radius, ends = TUBE_RADIUS_D * od_mm, [EDGE_HOLES * d for d in (bolt_mm, pin_mm)]
    for room, words in ((out, "to the side of the bolt"), (down, "under the bolt")):
        if room < radius + max(bolt_mm, pin_mm):
            raise InputError(f"for a bent tube the pin is {says(radius + max(bolt_mm, pin_mm))} or more {words}")
    arc = math.pi / 2 * radius
    fold = ends[0] + out - radius + arc / 2
    pin = ends[0] + (out - radius) + arc + (down - radius)
    second = math.pi / 64 * (od_mm**4 - (od_mm - 2 * wall_mm) ** 4)
    moment = SHOCK * abs(load_n) * out
    stiff = 3 * STEEL_MPA * second / out**3
    return Bracket(
        "tube",
        od_mm,
        wall_mm,
        pin + ends[1],
        ((ends[0], bolt_mm), (pin, pin_mm)),
        ((fold, 90.0),),
        moment * od_mm / 2 / second,
        stiff,
        stiff,
    )


def bracket_line(hole: Vector, pin: Vector) -> Vector:
    """The middle line of either (3, 3): from the hole out at its height, and down to the pin."""
    return np.array([hole, [pin[0], pin[1], hole[2]], pin])


def _as_tube(wide_mm: float, thick_mm: float, out_mm: float) -> float:
    """How stiff a round tube of the same metal would be [N/mm]: 2 mm of wall, as wide as that gives."""
    wall = 2.0
    od = wide_mm * thick_mm / (math.pi * wall) + wall
    second = math.pi / 64 * (od**4 - (od - 2 * wall) ** 4)
    return 3 * STEEL_MPA * second / max(out_mm, 1.0) ** 3


def bracket_template(one: Bracket, name: str, unit: str = "mm") -> Template:
    """The flat bar at true size, with its holes and its bend line."""

    def says(mm: float) -> str:
        return format_length(mm, unit)

    w, long = one.wide_mm / 2, one.flat_mm
    outline = np.array([(0.0, -w), (long, -w), (long, w), (0.0, w)])
    strokes = [Stroke(outline, closed=True)]
    turn = np.linspace(0.0, 2 * math.pi, 49)[:-1]
    ring = np.column_stack([np.cos(turn), np.sin(turn)])
    strokes += [Stroke(np.array([x, 0.0]) + d / 2 * ring, closed=True) for x, d in one.holes]
    strokes += [Stroke(np.array([(x, -w), (x, w)]), "fold") for x, _ in one.folds]
    words = tuple(Word(x + 3.0, -w + 4.0, f"bend {deg:g}°") for x, deg in one.folds)
    apart = one.holes[1][0] - one.holes[0][0]
    what = "flat" if one.kind == "flat bar" else "tube, its ends pressed flat"
    bar = f"{says(one.wide_mm)} x {says(one.thick_mm)} {what}, {says(long)} long"
    note = f"{bar}. Holes {says(apart)} apart, same edge to same edge."
    return Template(f"Bracket, {name}", (note,), tuple(strokes), words)
