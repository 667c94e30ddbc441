"""A hanger's rod, from the rubber's eye to the pipe: hook, pin, stop bend, leg, and the end rolled round the pipe.

The pin lies along the pipe and rises a little toward the hook, so that load drives the rubber toward the stop bend. The
leg goes straight to where it touches the pipe's side and is rolled on round it, where it is welded.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np
from scipy.optimize import brentq

from ..errors import InputError
from ..space import Vector, unit
from ..units import format_length

RODS_MM = (10.0, 12.0, 14.0)  # bars that rods are bent from: common practice, no source
RADIUS_D = 2.0  # a rod is bent on a middle radius of this many diameters: common practice, no source
HOOK_DEG, SLOPE_DEG, ROLLED_DEG = 45.0, 5.0, 60.0  # a hanger may say another slope
TIP_MM, PAST_MM, STOP_MM = 14.0, 8.0, 3.0  # beyond the hook; of the pin beyond the rubber on either side
SHOCK = 3.0  # a pothole loads a hanger by this many times its weight: common practice, no source
YIELD_MPA = 250.0  # of mild steel rod: handbook value, from memory
NO_BEND_DEG = 1.0
MOST_STOP_DEG = (150.0, 172.0)  # the stop bend turns no more; the second is nearly back on itself
SETTLED_MM = 1e-6
UPRIGHT = 0.1  # pipe whose direction is level by less than this stands upright
NEAR_MM = 0.05  # straights that lack less than this are next to none: no bender is as near
ARC_DEG = 7.5  # a drawn arc's chord
UP = np.array([0.0, 0.0, 1.0])


@dataclass(frozen=True)
class RodBend:
    """One bend as it is made from the tip: where it begins on the straight rod [mm], how far it turns, and how far the
    rod is turned in the bender since the bend before [deg].
    """

    what: str
    mark_mm: float
    angle_deg: float
    rotation_deg: float


@dataclass(frozen=True)
class Rod:
    """A bent rod: its diameter, cut length and bends [mm, deg]; its middle line (n, 3); stress [MPa] at the stop bend
    and at the weld under a shock, and the strain of its outer fibre where it is bent. It is rolled round a pipe of
    `round_mm` whose middle line is at `middle` (3,).
    """

    od_mm: float
    radius_mm: float
    cut_mm: float
    bends: tuple[RodBend, ...]
    line: Vector
    stop_mpa: float
    weld_mpa: float
    strain: float
    middle: Vector
    round_mm: float

    @property
    def holds(self) -> bool:
        return max(self.stop_mpa, self.weld_mpa) <= YIELD_MPA


def bending_mpa(moment_nmm: float, od_mm: float) -> float:
    """Stress of a round rod under a couple: 32 M / (pi d^3).

    >>> round(bending_mpa(24543.69, 10.0), 3)
    250.0
    """
    return 32.0 * moment_nmm / (math.pi * od_mm**3)


def rod_of(
    eye: Vector,
    place: Vector,
    flow: Vector,
    pipe_od_mm: float,
    rod_mm: float,
    rubber_wide_mm: float,
    load_n: float,
    *,
    left_hand: bool = False,
    hook_ahead: bool = False,
    slope_deg: float = SLOPE_DEG,
    unit_name: str = "mm",
) -> Rod:
    """The rod from an eye (3,) to a pipe at a place (3,) of its middle line, `flow` along it [mm, N]. Of the two sides
    of the pipe that it can be rolled round it takes the right one looking along the flow, or the left one; its hook
    looks along the flow or against it. Raises InputError where there is no room for it, saying what is lacking.
    """
    radius, along = RADIUS_D * rod_mm, unit(flow)
    toward = _level(-along if hook_ahead else along)
    pin = math.cos(math.radians(slope_deg)) * toward + math.sin(math.radians(slope_deg)) * UP
    half, hooked = rubber_wide_mm / 2, radius * math.tan(math.radians(HOOK_DEG) / 2)
    hook = eye + (half + PAST_MM + hooked) * pin
    leg = _leg(eye, pin, half + STOP_MM, place, along, pipe_od_mm / 2 + rod_mm / 2, radius, left_hand, unit_name)
    up_again = _turned(pin, _cross(toward, UP), HOOK_DEG)
    touch, first, onward = leg.touch, leg.first, leg.onward
    corners = [hook + (TIP_MM + hooked) * up_again, hook, leg.stop, *leg.corners, touch]
    line, cut, bends = _bent(corners, radius, unit_name)
    rolled = _rolled(place, touch, first, onward, math.radians(ROLLED_DEG))
    arc = rolled_mm(pipe_od_mm, rod_mm)
    roll = RodBend("rolled round the pipe", cut, ROLLED_DEG, _rotation(corners[-3], corners[-2], touch, rolled[-1]))
    weight = SHOCK * abs(load_n)
    arm = float(np.linalg.norm((touch - eye)[:2]))
    return Rod(
        rod_mm,
        radius,
        cut + arc,
        (*bends, roll),
        np.vstack([line, rolled]),
        bending_mpa(weight * (half + STOP_MM), rod_mm),
        bending_mpa(weight * arm, rod_mm),
        rod_mm / (2 * radius),
        place,
        pipe_od_mm,
    )


def _level(way: Vector) -> Vector:
    """A direction made level, for the pin's rise is against the load; upright pipe's pin lies fore and aft."""
    flat = way * [1.0, 1.0, 0.0]
    return unit(flat) if float(np.linalg.norm(flat)) > UPRIGHT else np.array([1.0, 0.0, 0.0])


def rolled_mm(round_mm: float, rod_mm: float) -> float:
    """How far a rod lies round what it is rolled round [mm]: there it is welded."""
    return math.radians(ROLLED_DEG) * (round_mm + rod_mm) / 2


@dataclass(frozen=True)
class _Leg:
    """The leg's corners (3,): the stop bend, the bend that sets it to the pipe if any, where it touches; and there the
    direction from the pipe's middle, and that in which the rod goes on round the pipe.
    """

    stop: Vector
    corners: tuple[Vector, ...]
    touch: Vector
    first: Vector
    onward: Vector


def _leg(
    eye: Vector,
    pin: Vector,
    clear_mm: float,
    place: Vector,
    along: Vector,
    reach: float,
    radius: float,
    left_hand: bool,
    unit_name: str,
) -> _Leg:
    """The leg of a rod whose stop bend begins `clear_mm` from the eye: how far beyond that its corner is hangs on how
    far it turns, and that on where the corner is. Raises InputError where it does not settle.
    """

    def leg(takes: float, way: float) -> tuple[_Leg, float]:
        """The leg with its stop bend's corner so far on, rolled round one way; and how much that bend then takes."""
        stop = eye - (clear_mm + takes) * pin
        touch, first = _touch(stop, place, along, reach, left_hand, unit_name)
        onward = way * _cross(along, first)
        corners = _set_over(stop, touch, onward, radius)
        turn = math.acos(max(-1.0, min(1.0, float(-pin @ unit((corners or (touch,))[0] - stop)))))
        return _Leg(stop, corners, touch, first, onward), radius * math.tan(turn / 2)

    def off(way: float, takes: float) -> float:
        return leg(takes, way)[1] - takes

    first = leg(0.0, 1.0)[0]
    straight_on = 1.0 if first.onward @ (first.touch - first.stop) > 0 else -1.0
    for most_deg, way in itertools.product(MOST_STOP_DEG, (straight_on, -straight_on)):
        takes = _settled(partial(off, way), radius * math.tan(math.radians(most_deg) / 2))
        if takes is not None:
            return leg(takes, way)[0]
    raise InputError("the rod would turn back under its own rubber: hook it the other way, or hang it further aside")


def _settled(off: Callable[[float], float], most: float) -> float | None:
    """Where a figure that is off by so much is right, between nothing and the most; None where it is nowhere."""
    try:
        if off(most) >= 0:
            return None
        found = float(brentq(off, 0.0, most, xtol=SETTLED_MM))
    except InputError:  # so far on it would be in the pipe
        return None
    return found if abs(off(found)) < NEAR_MM else None


def _touch(
    stop: Vector, place: Vector, along: Vector, reach: float, left_hand: bool, unit_name: str
) -> tuple[Vector, Vector]:
    """Where the leg touches the pipe (3,), and the direction from the pipe's middle to there (3,)."""
    off = stop - place
    across = off - (off @ along) * along
    far = float(np.linalg.norm(across))
    if far < reach * 1.05:
        lacks = format_length(reach * 1.05 - far, unit_name, 0)
        raise InputError(
            f"the rubber's eye is {lacks} too near the pipe for a rod: hang it higher, or further to the side"
        )
    out = across / far
    side = _cross(along, out) * (-1.0 if left_hand else 1.0)
    angle = math.acos(reach / far)
    way = math.cos(angle) * out + math.sin(angle) * side
    return place + reach * way, way


def _cross(a: Vector, b: Vector) -> Vector:
    """The cross product of two vectors (3,): numpy's own takes ten times as long for one."""
    (x, y, z), (u, v, w) = a, b
    return np.array([y * w - z * v, z * u - x * w, x * v - y * u])


def _turned(way: Vector, about: Vector, deg: float) -> Vector:
    t, axis = math.radians(deg), unit(about)
    return np.asarray(way * math.cos(t) + _cross(axis, way) * math.sin(t) + axis * (axis @ way) * (1 - math.cos(t)))


def _set_over(stop: Vector, touch: Vector, onward: Vector, radius: float) -> tuple[Vector, ...]:
    """The corner of the bend that sets a leg which comes aslant along the pipe square to it, so that it ends where the
    rod touches; none where it comes square.

    With the way from the stop to the touch x along `onward` and y across it, a corner s before the touch turns by
    atan2(y, x - s), and its bend takes s = R tan(turn / 2): s^2 (y - 2 R) + 2 R x s - y R^2 = 0.
    """
    way = touch - stop
    x = float(way @ onward)
    y = float(np.linalg.norm(way - x * onward))
    if math.degrees(math.atan2(y, x)) <= NO_BEND_DEG:
        return ()
    square, once = y - 2 * radius, 2 * radius * x
    if abs(square) < 1e-9:
        takes = y * radius**2 / once
    else:
        root = math.sqrt(max(0.0, once**2 + 4 * square * y * radius**2))
        takes = (root - once) / (2 * square)
    return (touch - takes * onward,)


def _rolled(place: Vector, touch: Vector, first: Vector, onward: Vector, turn: float) -> Vector:
    """The end rolled round the pipe from where it touches, on as the leg came (n, 3)."""
    reach = float(np.linalg.norm(touch - place))
    steps = np.linspace(0.0, turn, max(2, math.ceil(math.degrees(turn) / ARC_DEG)) + 1)[1:]
    return np.array([place + reach * (math.cos(t) * first + math.sin(t) * onward) for t in steps])


def _bent(corners: Sequence[Vector], radius: float, unit_name: str) -> tuple[Vector, float, list[RodBend]]:
    """A rod along corners, each rounded: its middle line (n, 3), its length [mm] and its bends."""
    names = ("hook", "stop bend", "set to the pipe")
    ways = [unit(b - a) for a, b in itertools.pairwise(corners)]
    turns = [math.acos(max(-1.0, min(1.0, float(a @ b)))) for a, b in itertools.pairwise(ways)]
    takes = [0.0, *(radius * math.tan(t / 2) for t in turns), 0.0]
    points, cut, bends = [corners[0]], 0.0, list[RodBend]()
    for k, (a, b) in enumerate(itertools.pairwise(corners)):
        straight = float(np.linalg.norm(b - a)) - takes[k] - takes[k + 1]
        if straight < -NEAR_MM:
            lacks = format_length(-straight, unit_name, 0)
            raise InputError(
                f"between two bends the rod lacks {lacks}: a thinner rod, or the rubber further from the pipe"
            )
        cut += max(0.0, straight)
        if straight > 1e-6:
            points.append(b - takes[k + 1] * ways[k])
        if k < len(turns) and math.degrees(turns[k]) > NO_BEND_DEG:
            rotation = _rotation(*corners[k - 1 : k + 3]) if k else 0.0
            bends.append(RodBend(names[k], cut, math.degrees(turns[k]), rotation))
            cut += radius * turns[k]
            points += _arc(b, ways[k], ways[k + 1], radius, turns[k])
    return np.array(points), cut, bends


def _arc(corner: Vector, before: Vector, after: Vector, radius: float, turn: float) -> list[Vector]:
    """A rounded corner's middle line without its first point."""
    inward = unit(after - before)
    middle = corner + inward * radius / math.cos(turn / 2)
    start = corner - before * radius * math.tan(turn / 2) - middle
    axis = unit(_cross(before, after))
    steps = np.linspace(0.0, turn, max(2, math.ceil(math.degrees(turn) / ARC_DEG)) + 1)[1:]
    return [middle + _turned(start, axis, math.degrees(t)) for t in steps]


def _rotation(a: Vector, b: Vector, c: Vector, d: Vector) -> float:
    """How far the plane of b-c-d is turned from that of a-b-c about b-c [deg]."""
    axis = unit(c - b)
    one, two = _cross(b - a, axis), _cross(axis, d - c)
    if min(float(np.linalg.norm(one)), float(np.linalg.norm(two))) < 1e-9:
        return 0.0
    one, two = unit(one), unit(two)
    return math.degrees(math.atan2(float(_cross(one, two) @ axis), float(one @ two)))
