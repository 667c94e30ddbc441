"""What pipe costs the flow, said as the length of straight pipe of the same bore that would cost as much.

Equivalent lengths in bores for smooth 90 deg bends by radius and for single mitres by angle: Crane, Technical Paper 410
(values from memory). A bend of another angle counts by its share of 90 deg (common practice). Parts in line (mufflers,
catalysts, flex) are not counted: their makers measure them.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .records import Bend, Mitre, Pie
from .route import LaidPiece

BEND_RADIUS = (1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 10.0)  # centre-line radius in bores
BEND_BORES = (20.0, 14.0, 12.0, 12.0, 14.0, 17.0, 24.0, 30.0)  # as much straight pipe, in bores
MITRE_DEG = (0.0, 15.0, 30.0, 45.0, 60.0, 75.0, 90.0)
MITRE_BORES = (0.0, 4.0, 8.0, 15.0, 25.0, 40.0, 60.0)


def as_straight_mm(pieces: Sequence[LaidPiece]) -> float:
    """The length of straight pipe that costs the flow as much as these pieces do [mm].

    >>> as_straight_mm([])
    0.0
    """
    return float(sum(p.length_mm + _bores(p) * _bore(p) for p in pieces))


def _bore(piece: LaidPiece) -> float:
    return float(piece.tube.od_mm - 2 * piece.tube.wall_mm)


def _bores(piece: LaidPiece) -> float:
    """What a turn costs besides its own length, in bores."""
    p = piece.piece
    if isinstance(p, Bend):
        whole = float(np.interp(float(p.clr_mm) / _bore(piece), BEND_RADIUS, BEND_BORES)) * p.angle_deg / 90.0
        return max(0.0, whole - piece.length_mm / _bore(piece))
    if isinstance(p, Mitre):
        return float(np.interp(p.turn_deg, MITRE_DEG, MITRE_BORES))
    if isinstance(p, Pie):
        return p.slices * float(np.interp(p.turn_each_deg, MITRE_DEG, MITRE_BORES))
    return 0.0
