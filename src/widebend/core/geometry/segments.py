"""Stretches of tube as rows of the clearance kernel, made and read by name: nobody else counts columns.

The layout stands in `clearance`. Rows are (14,), lengths mm, directions unit vectors.
"""

from __future__ import annotations

import math

import numpy as np

from ..space import Vector
from .clearance import ARC, HEEL, SEGMENT_WIDTH, STRAIGHT, centre, reach_of

INLET, OUTLET = 5, 10  # the flags of a row's two ends: open and square, or open and faced by a heel


def straight_row(point: Vector, flow: Vector, length: float, radius: float, open_ends: int = 0) -> Vector:
    """A straight; `open_ends` 1 = inlet, 2 = outlet, 3 = both."""
    row = np.zeros(SEGMENT_WIDTH)
    row[0], row[1], row[2] = STRAIGHT, length, radius
    row[3:6], row[6:9], row[13] = point, flow, open_ends
    return row


def straight_rows(points: Vector, flow: Vector, length: float, radius: float) -> Vector:
    """Straights of one flow from each of several points (n, 3): (n, 14)."""
    rows = np.zeros((len(points), SEGMENT_WIDTH))
    rows[:, 0], rows[:, 1], rows[:, 2] = STRAIGHT, length, radius
    rows[:, 3:6], rows[:, 6:9] = points, flow
    return rows


def arc_row(point: Vector, flow: Vector, side: Vector, length: float, radius: float, clr: float) -> Vector:
    """A bend that turns from `flow` toward `side`, `length` along its centre line."""
    row = straight_row(point, flow, length, radius)
    row[0], row[9:12], row[12] = ARC, side, clr
    return row


def heel_row(point: Vector, flow: Vector, side: Vector, radius: float, cut_deg: float) -> Vector:
    """Return the heel of a straight cut `cut_deg` off square at a point, longest toward `side`."""
    row = straight_row(point, flow, 0.0, radius)
    row[0], row[9:12], row[12] = HEEL, side, radius * math.tan(math.radians(cut_deg))
    return row


def rows_of(rows: list[Vector]) -> Vector:
    """Rows as one table (n, 14), also when there are none."""
    return np.array(rows).reshape(-1, SEGMENT_WIDTH)


def open_ends(rows: list[Vector]) -> None:
    """Flag the first and last straight or bend of a stretch: flat where it is cut square, else faced by its heel."""
    bodies = [k for k, row in enumerate(rows) if row[0] != HEEL]
    if bodies:
        rows[bodies[0]][13] += 1 if bodies[0] == 0 else 4
        rows[bodies[-1]][13] += 2 if bodies[-1] == len(rows) - 1 else 8


def stretch(row: Vector, a: float, b: float) -> Vector:
    """A straight or bend from a to b mm along; an end that was cut here is no open end."""
    part, here = row.copy(), np.empty(6)
    centre(row, a, here)
    part[1], part[3:6], part[6:9] = b - a, here[:3], here[3:]
    if row[0] == ARC:
        t = a / row[12]
        part[9:12] = math.cos(t) * row[9:12] - math.sin(t) * row[6:9]
    flags = int(row[13])
    part[13] = (flags & INLET if a < 1e-9 else 0) + (flags & OUTLET if b > row[1] - 1e-9 else 0)
    return part


def length_of(row: Vector) -> float:
    """How long a segment is along its centre line [mm]."""
    return float(row[1])


def bar_points(row: Vector, most_mm: float) -> tuple[Vector, float]:
    """A segment as a round-ended bar through points (n, 3), at most `most_mm` apart on a bend, and the bar's radius; a
    heel is a ball of its reach.
    """
    if row[0] == HEEL:
        return np.array([row[3:6], row[3:6]]), float(reach_of(row))
    steps = max(1, math.ceil(float(row[1]) / most_mm)) if row[0] == ARC else 1
    here, points = np.empty(6), []
    for s in np.linspace(0.0, float(row[1]), steps + 1):
        centre(row, s, here)
        points.append(here[:3].copy())
    return np.array(points), float(row[2])


def chords(rows: Vector) -> Vector:
    """Where segments (n, 14) begin, and where they would end if they ran straight on: (2n, 3)."""
    return np.concatenate([rows[:, 3:6], rows[:, 3:6] + rows[:, 6:9] * rows[:, 1:2]])


def highest(rows: Vector) -> float:
    """The highest place of segments (n, 14), as if every one were a ball-ended bar: never too low [mm]."""
    ends = np.maximum(rows[:, 5], rows[:, 5] + rows[:, 8] * rows[:, 1])
    sag = np.where(rows[:, 12] > 0, rows[:, 12] * (1 - np.cos(rows[:, 1] / np.maximum(rows[:, 12], 1e-9) / 2)), 0.0)
    return float((ends + rows[:, 2] + sag).max())


def lowest(rows: Vector) -> float:
    """The lowest place of segments (n, 14), as if every one were a ball-ended bar: never too high [mm]."""
    mirrored = rows.copy()
    mirrored[:, (5, 8)] *= -1.0
    return -highest(mirrored)
