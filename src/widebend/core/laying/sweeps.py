"""The ways between the positions that something takes: what travels is everywhere between them, not only at their ends.

From one position to the next goes one turn about an axis with a slide along it, or a plain slide (Chasles). Positions
are reached from the one in which nothing has moved, where that is among them; else each from the one before it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial.transform import Rotation

from ..geometry import SWEEP_WIDTH
from ..space import Vector, cross

STILL_MM, STILL_COSINE = 1e-9, 1e-15  # a motion of less is none
ONE_AXIS_MM = 1e-6  # axes that lie this near are one


@dataclass(frozen=True, eq=False)
class Sweeps:
    """Ways between positions: rows (k, SWEEP_WIDTH) of the kernel, and which two positions each joins (k, 2). Compared
    by identity.
    """

    rows: Vector
    ends: tuple[tuple[int, int], ...]


def sweeps_between(poses: Sequence[tuple[Vector, Vector]]) -> Sweeps:
    """The ways between some poses, each a turn (3, 3) and a shift (3,). Of a single pose the way that stays there."""
    if len(poses) < 2:
        return Sweeps(np.array([_sweep(poses[0], poses[0])]), ((0, 0),))
    hub = next((k for k, pose in enumerate(poses) if _is_still(pose)), None)
    if hub is None:
        ends = [(k, k + 1) for k in range(len(poses) - 1)]
    else:
        ends = [(hub, k) for k in range(len(poses)) if k != hub]
    rows = [_sweep(poses[a], poses[b]) for a, b in ends]
    if hub is not None:
        ends, rows = _straightened(ends, rows, poses)
    return Sweeps(np.array(rows), tuple(ends))


def _straightened(
    ends: list[tuple[int, int]], rows: list[Vector], poses: Sequence[tuple[Vector, Vector]]
) -> tuple[list[tuple[int, int]], list[Vector]]:
    """Ways from rest that go on from each other, as rocked one way and the other, made one."""
    out_ends, out_rows, left = list[tuple[int, int]](), list[Vector](), list(range(len(ends)))
    while left:
        k = left.pop(0)
        other = next((i for i in left if _goes_on(rows[k], rows[i])), None)
        if other is None:
            out_ends.append(ends[k])
            out_rows.append(rows[k])
            continue
        left.remove(other)
        out_ends.append((ends[k][1], ends[other][1]))
        out_rows.append(_sweep(poses[ends[k][1]], poses[ends[other][1]]))
    return out_ends, out_rows


def _goes_on(one: Vector, other: Vector) -> bool:
    """Whether one way from rest is another's the other way round: slides along one line, or turns about one axis."""
    if (one[6] == 0.0) != (other[6] == 0.0):
        return False
    if one[6] == 0.0:
        a, b = one[7:10], other[7:10]
        return bool(float(a @ b) < 0 and np.linalg.norm(np.cross(a, b)) < STILL_MM * np.linalg.norm(a))
    off = other[0:3] - one[0:3]
    same_axis = np.linalg.norm(off - (off @ one[3:6]) * one[3:6]) < ONE_AXIS_MM
    opposite = float(one[3:6] @ other[3:6]) < -1 + ONE_AXIS_MM**2
    return bool(opposite and same_axis and not one[7:10].any() and not other[7:10].any() and one[6] + other[6] < np.pi)


def _is_still(pose: tuple[Vector, Vector]) -> bool:
    turn, shift = pose
    return bool(np.abs(turn - np.eye(3)).max() < STILL_MM and np.abs(shift).max() < STILL_MM)


def _sweep(first: tuple[Vector, Vector], last: tuple[Vector, Vector]) -> Vector:
    """The row of the way from one pose to another: its axis runs through half of (s + cot(angle / 2) axis x s), s being
    the shift across it.
    """
    row = np.zeros(SWEEP_WIDTH)
    row[5] = 1.0
    row[10:19], row[19:22] = first[0].ravel(), first[1]
    turn = last[0] @ first[0].T
    shift = last[1] - turn @ first[1]
    cosine = 0.5 * (float(turn[0, 0] + turn[1, 1] + turn[2, 2]) - 1.0)
    if cosine > 1.0 - STILL_COSINE:
        row[7:10] = shift
        return row
    axis, angle = _axis_of(turn, cosine)
    along = float(axis @ shift)
    along = along if abs(along) > STILL_MM else 0.0
    across = shift - along * axis
    about = 0.5 * (across + cross(axis, across) / math.tan(0.5 * angle))
    row[0:3], row[3:6], row[6], row[7:10] = about, axis, angle, along * axis
    return row


def _axis_of(turn: Vector, cosine: float) -> tuple[Vector, float]:
    """The unit axis and the angle [rad] of a turn that is one."""
    if cosine < -0.99:  # hardly told by the sine any more
        vector = Rotation.from_matrix(turn).as_rotvec()
        angle = float(np.linalg.norm(vector))
        return vector / angle, angle
    twice = np.array([turn[2, 1] - turn[1, 2], turn[0, 2] - turn[2, 0], turn[1, 0] - turn[0, 1]])
    size = math.sqrt(float(twice @ twice))
    return twice / size, math.atan2(0.5 * size, cosine)


def part_way(first: str, last: str) -> str:
    """Return the name of a place between two positions.

    >>> part_way("", "rocked one way"), part_way("droop", "ride")
    ('rocked one way, part way', 'between droop and ride')
    """
    return f"{last}, part way" if first in ("", "at rest", "straight ahead") else f"between {first} and {last}"
