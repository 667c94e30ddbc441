"""How alike two systems run: their pipe from the side and from below at stations along the vehicle."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..laying import System, spaced
from ..records import InLine
from ..space import Vector

STATIONS = 12
SPACING_MM = 40.0
FAR_MM = 400.0  # so far apart all along, two systems have nothing in common


def shape_of_system(system: System) -> Vector:
    """Where the pipe is: its first and last place back, and how far right and up at stations between, mean of all runs
    (2 + 2 * STATIONS,) [mm]; empty without pipe.
    """
    points = [
        spaced(p, SPACING_MM)
        for run in system.runs
        for p in run.pieces
        if not isinstance(p.piece, InLine) and p.length_mm > 1.0
    ]
    if not points:
        return np.zeros(0)
    cloud = np.concatenate(points)
    cloud = cloud[np.argsort(cloud[:, 0])]
    first, last = float(cloud[0, 0]), float(cloud[-1, 0])
    edges = np.linspace(first, last, STATIONS + 1)
    at = (edges[:-1] + edges[1:]) / 2
    # of two sides the mean of how far out they are: a twin is like its own half
    out, up = np.interp(at, cloud[:, 0], np.abs(cloud[:, 1])), np.interp(at, cloud[:, 0], cloud[:, 2])
    return np.concatenate([[first, last], out, up])


def likeness(one: Sequence[float] | Vector, other: Sequence[float] | Vector) -> float:
    """From 1 for the same to 0 for nothing in common.

    >>> likeness([0.0, 1.0], [0.0, 1.0]), likeness([0.0], []), likeness([0.0, 0.0], [9000.0, 9000.0])
    (1.0, 0.0, 0.0)
    """
    a, b = np.asarray(one, dtype=float), np.asarray(other, dtype=float)
    if not len(a) or len(a) != len(b):
        return 0.0
    return float(max(0.0, 1.0 - float(np.sqrt(np.mean((a - b) ** 2))) / FAR_MM))
