"""Ready-cut slices laid to follow a drawn run: how far each one's line steps round from the last.

Every slice turns by the same; which way is the roll it is laid at. In line they wind up, half round in turn they run
straight, stepped they twist. The rolls are found slice by slice (a beam keeps the best few), then all together by
least squares.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from ..errors import InputError
from ..laying import NO_RIGID, LaidPiece, spaced
from ..space import Pose, Vector, chain, wrapped
from .tube import round_the_tube

ROLLS_DEG = np.arange(0.0, 360.0, 15.0)
BEAM = 48
MOST_SLICES = 60
STRAIGHTEN = 0.35  # what looking the run's way counts beside lying on it, in slice lengths


@dataclass(frozen=True)
class Stepped:
    """Slices on a run: each one's roll against the last [deg] and as tape [mm] round the tube, clockwise looking toward
    the engine end; how far the middle line leaves the run's at worst, and how far the end misses [mm, deg].
    """

    steps_deg: tuple[float, ...]
    steps_mm: tuple[float, ...]
    away_mm: float
    misses_mm: float
    askew_deg: float


def stepped(pieces: Sequence[LaidPiece], clr_mm: float, turn_deg: float) -> Stepped:
    """Slices of one turn and radius along pipe that is drawn. Raises InputError for a run shorter than two slices or
    longer than 60.
    """
    long = 2 * clr_mm * math.tan(math.radians(turn_deg) / 2)
    line = _line(pieces, long)
    count = len(line) - 1
    if not 2 <= count <= MOST_SLICES:
        words = f"2 to {MOST_SLICES} are laid: take fewer pieces, or slices that turn more"
        raise InputError(f"the stretch takes {count} slices of {long:.1f} mm; {words}", "last")
    rolls = _beam(pieces[0].inlet, line, long, turn_deg)

    def off(values: Vector) -> Vector:
        frames = _frames(pieces[0].inlet, values, long, turn_deg)
        apart = (frames[1:, :, 3] - line[1:, :3]).ravel()
        last = frames[-1]
        return np.concatenate([apart, 4.0 * apart[-3:], long * (last[:, 0] - line[-1, 3:])])

    found = np.degrees(least_squares(lambda v: off(np.degrees(v)), np.radians(rolls), max_nfev=60).x)
    frames = _frames(pieces[0].inlet, found, long, turn_deg)
    away = np.linalg.norm(frames[:, :, 3] - line[:, :3], axis=1)
    askew = math.degrees(math.acos(float(np.clip(frames[-1][:, 0] @ line[-1, 3:], -1.0, 1.0))))
    steps = tuple(wrapped(b - a) for a, b in zip((0.0, *found[:-1]), found, strict=True))
    od = float(pieces[0].tube.od_mm)
    tape = tuple(round_the_tube(od, s) for s in steps)
    return Stepped(steps, tape, float(away.max()), float(away[-1]), askew)


def _line(pieces: Sequence[LaidPiece], every_mm: float) -> Vector:
    """Points and directions (n, 6) along the run's middle line, a slice apart; the last at its end."""
    points = np.concatenate([spaced(p, 1.0) for p in pieces])
    keep = np.append(True, np.linalg.norm(np.diff(points, axis=0), axis=1) > 1e-9)
    points = points[keep]
    along = np.append(0.0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1)))
    count = max(1, round(along[-1] / every_mm))
    at = np.linspace(0.0, along[-1], count + 1)
    here = np.column_stack([np.interp(at, along, points[:, k]) for k in range(3)])
    flow = np.gradient(points, along, axis=0)
    look = np.column_stack([np.interp(at, along, flow[:, k]) for k in range(3)])
    look /= np.linalg.norm(look, axis=1, keepdims=True)
    look[-1] = pieces[-1].outlet.flow
    return np.hstack([here, look])


def _steps_of(rolls: Vector, long: float, turn_deg: float) -> Vector:
    """A chain of wedges: half its turn at each face, its length between."""
    steps = np.zeros((3 * len(rolls), 4))
    steps[0::3] = np.column_stack(
        [np.full(len(rolls), chain.MITRE), np.full(len(rolls), turn_deg / 2), 0 * rolls, rolls]
    )
    steps[1::3, 0], steps[1::3, 1] = chain.LEG, long
    steps[2::3] = steps[0::3]
    return steps


def _frames(start: Pose, rolls: Vector, long: float, turn_deg: float) -> Vector:
    """The frame (n + 1, 3, 4) at the start and behind each slice."""
    return np.asarray(chain.lay_frames(start.matrix(), _steps_of(rolls, long, turn_deg), NO_RIGID))[::3]


def _beam(start: Pose, line: Vector, long: float, turn_deg: float) -> Vector:
    """Rolls (n,) slice by slice: the best few kept, by how far they have left the line and look away from it."""
    kept: list[tuple[float, Vector, list[float]]] = [(0.0, start.matrix(), [])]
    for target in line[1:]:
        tried = []
        for cost, frame, rolls in kept:
            for roll in ROLLS_DEG:
                after = chain.lay_frames(frame, _steps_of(np.array([roll]), long, turn_deg), NO_RIGID)[-1]
                apart = float(np.sum((after[:, 3] - target[:3]) ** 2))
                looks = STRAIGHTEN * long * float(np.linalg.norm(after[:, 0] - target[3:]))
                tried.append((cost + apart + looks**2, after, [*rolls, float(roll)]))
        kept = sorted(tried, key=lambda t: t[0])[:BEAM]
    return np.array(kept[0][2])
