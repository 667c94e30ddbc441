"""A measure taken at the end of a piece that is tacked: what it is, and what it would read of any frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..laying import underside
from ..space import Vector

Kind = Literal["angle finder", "heading", "height", "left rail", "right rail", "tape", "clock", "back", "right", "up"]


@dataclass(frozen=True)
class Reading:
    """What was read at the outlet end of a piece (from 0): its kind, value and doubt, one deviation [mm or deg]; where
    a tape goes to (3,) [mm], or where a rail's inner edge is.
    """

    piece: int
    kind: Kind
    value: float
    doubt: float
    to: tuple[float, float, float] = (0.0, 0.0, 0.0)


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
}
ANGLES = ("angle finder", "heading", "clock")


def read(reading: Reading, frame: Vector, od_mm: float) -> float:
    """What it would read at a frame (3, 4); an angle the way round that is nearest to what was read."""
    value = KINDS[reading.kind](frame, od_mm, np.array(reading.to))
    if reading.kind in ANGLES:
        value = reading.value + (value - reading.value + 180.0) % 360.0 - 180.0
    return value


def by_twist(reading: Reading, frame: Vector, od_mm: float) -> Vector:
    """How it changes when the frame turns about the origin and shifts (6,) [radians, mm]: central differences."""
    out = np.zeros(6)
    for k in range(6):
        little = 1e-6 if k < 3 else 1e-3
        ends = []
        for way in (1.0, -1.0):
            twist = np.zeros(6)
            twist[k] = way * little
            moved = frame.copy()
            moved[:, :3] += np.cross(twist[:3], frame[:, :3].T).T
            moved[:, 3] += np.cross(twist[:3], frame[:, 3]) + twist[3:]
            ends.append(read(reading, moved, od_mm))
        out[k] = (ends[0] - ends[1]) / (2 * little)
    return out
