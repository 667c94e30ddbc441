"""The low line as it is set under a vehicle: a string or tape from rail to rail, or through any points."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import InputError
from ..records import LowLine
from ..units import Length

OFF_MM = 3.0  # a string that misses its points by more than this is not one line
STEEPEST = 0.35  # rise over run: a low line steeper than this is a slip of the pen


def line_through(points: Sequence[Sequence[float]]) -> LowLine:
    """The low line through points (n, 3) [mm]: level across for two points, a plane for three or more.

    Raises InputError for points that give no line, or one that stands far from level.
    """
    at = np.asarray(points, dtype=float)
    off = at - at.mean(axis=0)
    # two points say nothing of the way across them: there the line is level
    axes = [0, 1] if len(at) > 2 else [int(np.abs(off[0, :2]).argmax())]
    slopes, _, rank, _ = np.linalg.lstsq(off[:, axes], off[:, 2], rcond=1e-6)
    if len(at) > 1 and rank < len(axes):
        raise InputError("these points lie in one line, or on one place: add one beside it, or enter the height alone")
    if np.abs(off[:, 2] - off[:, axes] @ slopes).max() > OFF_MM:
        raise InputError(f"a straight string cannot pass all of these within {OFF_MM:g} mm: measure them again")
    tilt = np.zeros(2)
    tilt[axes] = slopes
    if np.abs(tilt).max() > STEEPEST:
        raise InputError("that line is far from level: check the heights")
    normal = np.array([-tilt[0], -tilt[1], 1.0])
    return _made(normal / np.linalg.norm(normal), at)


def _made(normal: np.ndarray, at: np.ndarray) -> LowLine:
    places = tuple((Length(p[0]), Length(p[1]), Length(p[2])) for p in at)
    n = (float(normal[0]), float(normal[1]), float(normal[2]))
    return LowLine(n=n, d=Length(round(float(normal @ at.mean(axis=0)), 6)), through=places)
