"""Where things that move go: engine rock, axle travel, propshaft sweep, steering.

A group is measured in one of its positions; the others are placed from there. Positions are rigid motions relative
to how the group was surveyed.
"""

from __future__ import annotations

import math

import numpy as np

from ..geometry import motion_of
from ..records import AxleTravel, Group, GroupState, Rock, ShaftSweep, Steer, Survey, Turn
from ..space import Vector, arm_turn_deg, cross, unit
from ..units import Length

AXLE_STATES = ("droop", "ride", "bump")


def positions(group: Group, survey: Survey) -> tuple[GroupState, ...]:
    """Every position a group is checked in, relative to how it was measured."""
    motion = group.motion
    if isinstance(motion, AxleTravel):
        return _axle(motion, group.measured_at)
    if isinstance(motion, ShaftSweep):
        return _shaft(motion, survey)
    if isinstance(motion, Rock):
        return _two_ways(motion.about, motion.axis, motion.deg, ("at rest", "rocked one way", "rocked the other way"))
    if isinstance(motion, Steer):
        return _steer(motion)
    return group.states


def _axle(motion: AxleTravel, measured_at: str) -> tuple[GroupState, ...]:
    """Droop, ride and bump. Heights are of the wheel centre; an arm turns about its pivot until it is that high."""
    heights = {"droop": -float(motion.droop_mm), "ride": 0.0, "bump": float(motion.bump_mm)}
    here = heights.get(measured_at, 0.0)
    return tuple(_axle_state(motion, name, heights[name] - here) for name in AXLE_STATES)


def _axle_state(motion: AxleTravel, name: str, rise: float) -> GroupState:
    if motion.pivot is None or abs(rise) < 1e-9:
        return GroupState(name=name, shift=(Length(0.0), Length(0.0), Length(rise)))
    pivot = motion.pivot
    axis = unit(pivot.axis)
    deg = arm_turn_deg(np.asarray(pivot.hub, dtype=float) - np.asarray(pivot.about, dtype=float), axis, rise)
    return GroupState(name=name, turn=Turn(about=pivot.about, axis=pivot.axis, deg=deg))


def _shaft(motion: ShaftSweep, survey: Survey) -> tuple[GroupState, ...]:
    """The shaft turns about its front joint as the joint behind it rides with the axle."""
    axle = survey.group(motion.follows)
    if axle is None or axle.motion is None or isinstance(axle.motion, ShaftSweep):
        return (GroupState(name="as measured"),)
    front, rear = np.asarray(motion.front, dtype=float), np.asarray(motion.rear, dtype=float)
    states = []
    for state in positions(axle, survey):
        turn, shift = motion_of(state)
        states.append(_swung(state.name, motion, front, rear - front, turn @ rear + shift - front))
    return tuple(states)


def _swung(name: str, motion: ShaftSweep, front: Vector, before: Vector, after: Vector) -> GroupState:
    axis = cross(before, after)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-9:
        return GroupState(name=name)
    deg = math.degrees(math.atan2(sine, float(before @ after)))
    way = tuple(float(c) for c in axis / sine)
    return GroupState(name=name, turn=Turn(about=motion.front, axis=(way[0], way[1], way[2]), deg=deg))


def _two_ways(about: object, axis: object, deg: float, names: tuple[str, str, str]) -> tuple[GroupState, ...]:
    turns = [Turn(about=about, axis=axis, deg=sign * deg) for sign in (1.0, -1.0)]  # type: ignore[arg-type]
    return (GroupState(name=names[0]), *(GroupState(name=n, turn=t) for n, t in zip(names[1:], turns, strict=True)))


def _steer(motion: Steer) -> tuple[GroupState, ...]:
    if motion.turn_deg:
        return _two_ways(motion.about, motion.axis, motion.turn_deg, ("straight ahead", "left lock", "right lock"))
    side = float(motion.side_mm)
    return (
        GroupState(name="straight ahead"),
        GroupState(name="left lock", shift=(Length(0.0), Length(-side), Length(0.0))),
        GroupState(name="right lock", shift=(Length(0.0), Length(side), Length(0.0))),
    )
