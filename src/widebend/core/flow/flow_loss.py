"""The loss of pipe as the length of straight pipe of the same bore that would cost as much.

Equivalent lengths in bores for smooth 90 deg bends by radius and for single mitres by angle: Crane, Technical Paper 410
(values from memory). What a bend of another angle costs besides its own length is a share of what one of 90 deg does:
0.9 sin(angle) up to 70 deg, 0.7 + 0.35 angle / 90 from 100 deg, between them straight through 1 at 90 (Idelchik,
Handbook of Hydraulic Resistance, diagram 6-1, from memory). Handbooks differ by a fifth to a third. Parts in line
(mufflers, catalysts, flex) are not counted: their makers measure them. A pressed bend has lost a share of its area: at
the same mass flow friction goes with the fifth power of the bore (Darcy and Weisbach), so with the area's 2.5th.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..laying import LaidPiece
from ..records import Bend, Mitre, SegmentedBend
from .fittings import bend_crane

SMALL_DEG, LARGE_DEG = 70.0, 100.0
MITRE_DEG = (0.0, 15.0, 30.0, 45.0, 60.0, 75.0, 90.0)
MITRE_BORES = (0.0, 4.0, 8.0, 15.0, 25.0, 40.0, 60.0)


def as_straight_mm(pieces: Sequence[LaidPiece], lost_bore: float = 0.0) -> float:
    """The length of straight pipe that costs the flow as much as these pieces do [mm]; every bend has lost so much of
    its bore's area, as a share.

    >>> as_straight_mm([])
    0.0
    """
    pressed = (1.0 - lost_bore) ** -2.5
    return float(
        sum((p.length_mm + _bores(p) * _bore(p)) * (pressed if isinstance(p.piece, Bend) else 1.0) for p in pieces)
    )


def share_of_90(angle_deg: float) -> float:
    """Return the loss of a smooth bend besides its own length, as a share of one of 90 deg.

    >>> round(share_of_90(30.0), 3), share_of_90(90.0), round(share_of_90(180.0), 3)
    (0.45, 1.0, 1.4)
    """
    if angle_deg <= SMALL_DEG:
        return 0.9 * math.sin(math.radians(angle_deg))
    ends = (0.9 * math.sin(math.radians(SMALL_DEG)), 1.0, 0.7 + 0.35 * LARGE_DEG / 90.0)
    return (
        0.7 + 0.35 * angle_deg / 90.0
        if angle_deg >= LARGE_DEG
        else float(np.interp(angle_deg, (SMALL_DEG, 90.0, LARGE_DEG), ends))
    )


def _bore(piece: LaidPiece) -> float:
    return float(piece.tube.od_mm - 2 * piece.tube.wall_mm)


def _bores(piece: LaidPiece) -> float:
    """Return the loss of a turn besides its own length, in bores."""
    p = piece.piece
    if isinstance(p, Bend):
        radius = float(p.clr_mm) / _bore(piece)
        return share_of_90(p.angle_deg) * bend_crane(radius, 1.0)  # K of a factor of one is bores of straight
    if isinstance(p, Mitre):
        return float(np.interp(p.turn_deg, MITRE_DEG, MITRE_BORES))
    if isinstance(p, SegmentedBend):
        return p.slices * float(np.interp(p.turn_each_deg, MITRE_DEG, MITRE_BORES))
    return 0.0
