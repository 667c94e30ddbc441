"""A measure taken at the end of a piece that is tacked: what it is, and what it would read of any frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..laying import underside
from ..space import Vector, cross

Kind = Literal[
    "angle finder",
    "heading",
    "height",
    "left rail",
    "right rail",
    "tape",
    "clock",
    "back",
    "right",
    "up",
    "gap",
    "square",
]


@dataclass(frozen=True)
class Reading:
    """A reading at the outlet end of a piece (from 0): its kind, value and doubt, one deviation [mm or deg]; where
    a tape goes to (3,) [mm], or where a rail's inner edge is. Of a *gap* the piece is the one that is still out: `to`
    is the clock on the vehicle at its near end and at its far one [deg]. *Square* is how far the flow leans toward
    `to`. At the *inlet*: of a piece that is on behind a gap. What is *held* is known for sure and never doubted.
    """

    piece: int
    kind: Kind
    value: float
    doubt: float
    to: tuple[float, float, float] = (0.0, 0.0, 0.0)
    inlet: bool = False
    held: bool = False


def _clock(frame: Vector) -> float:
    """How far the reference line is from straight up, clockwise seen against the flow [deg]."""
    flow = frame[:, 0]
    up = np.array([0.0, 0.0, 1.0]) - flow[2] * flow
    across = np.cross(up, flow)
    return float(np.degrees(np.arctan2(frame[:, 1] @ across, frame[:, 1] @ up)))


def _beside(frame: Vector, od_mm: float, rail: float) -> float:
    """How far a pipe's side is from a rail's inner edge [mm]."""
    reach = od_mm / 2 * float(np.sqrt(max(0.0, 1.0 - frame[1, 0] ** 2)))
    return abs(rail - float(frame[1, 3])) - reach


def _rim(frame: Vector, od_mm: float, clock_deg: float) -> Vector:
    """The place on a pipe's rim at a clock on the vehicle (3,)."""
    flow = frame[:, 0]
    up = np.array([0.0, 0.0, 1.0]) - flow[2] * flow
    up /= max(float(np.sqrt(up @ up)), 1e-9)
    clock = np.radians(clock_deg)
    return np.asarray(frame[:, 3] + od_mm / 2 * (np.cos(clock) * up + np.sin(clock) * cross(up, flow)))


def _gap(frame: Vector, od_mm: float, to: Vector, before: Vector) -> float:
    """From rim to rim over a piece that is still out [mm]."""
    way = _rim(frame, od_mm, float(to[1])) - _rim(before, od_mm, float(to[0]))
    return float(np.sqrt(way @ way))


KINDS: dict[Kind, Callable[[Vector, float, Vector], float]] = {
    "angle finder": lambda f, od, to: float(np.degrees(np.arcsin(np.clip(f[2, 0], -1, 1)))),
    "heading": lambda f, od, to: float(np.degrees(np.arctan2(f[1, 0], f[0, 0]))),
    "height": lambda f, od, to: underside(f[:, 3], f[:, 0], od),
    "left rail": lambda f, od, to: _beside(f, od, float(to[1])),
    "right rail": lambda f, od, to: _beside(f, od, float(to[1])),
    "tape": lambda f, od, to: float(np.linalg.norm(f[:, 3] - to)),
    "clock": lambda f, od, to: _clock(f),
    "back": lambda f, od, to: float(f[0, 3]),
    "right": lambda f, od, to: float(f[1, 3]),
    "up": lambda f, od, to: float(f[2, 3]),
    "square": lambda f, od, to: float(np.degrees(np.arcsin(np.clip(f[:, 0] @ to, -1, 1)))),
}
ANGLES = ("angle finder", "heading", "clock")
# a unit twist: what it turns a frame by (3, 3) and shifts its point by, in the last column (3, 4)
_LITTLE = (1e-6,) * 3 + (1e-3,) * 3
_TURNS = np.zeros((6, 3, 3))
_TURNS[0, 1, 2] = _TURNS[1, 2, 0] = _TURNS[2, 0, 1] = -1.0
_TURNS[0, 2, 1] = _TURNS[1, 0, 2] = _TURNS[2, 1, 0] = 1.0
_SHIFTS = np.zeros((6, 3, 4))
_SHIFTS[[3, 4, 5], [0, 1, 2], 3] = 1.0


def read(reading: Reading, frame: Vector, od_mm: float, before: Vector) -> float:
    """Return its value at a frame (3, 4), of a gap from the frame `before` the piece; an angle the way round that is
    nearest to what was read.
    """
    if reading.kind == "gap":
        return _gap(frame, od_mm, np.array(reading.to), before)
    value = KINDS[reading.kind](frame, od_mm, np.array(reading.to))
    if reading.kind in ANGLES:
        value = reading.value + (value - reading.value + 180.0) % 360.0 - 180.0
    return value


def by_twist(reading: Reading, frame: Vector, od_mm: float, before: Vector) -> tuple[Vector, Vector]:
    """How it changes when the frame, and the one before, turns about the origin and shifts, (6,) each [radians, mm]:
    central differences.
    """
    after, ahead = np.zeros(6), np.zeros(6)
    for k in range(6):
        step = _LITTLE[k] * (_TURNS[k] @ frame + _SHIFTS[k])
        ends = read(reading, frame + step, od_mm, before), read(reading, frame - step, od_mm, before)
        after[k] = (ends[0] - ends[1]) / (2 * _LITTLE[k])
        if reading.kind == "gap":
            step = _LITTLE[k] * (_TURNS[k] @ before + _SHIFTS[k])
            ends = read(reading, frame, od_mm, before + step), read(reading, frame, od_mm, before - step)
            ahead[k] = (ends[0] - ends[1]) / (2 * _LITTLE[k])
    return after, ahead
