"""Distance, rotation, angle both ways: how a machine or a bench lists a pipe, and points back to pieces.

Sense here: the rotation before a bend is the difference of its roll and the last bend's, clockwise seen against the
flow. Machines differ; many list it right-handed about the travel, which is the negative of ours: see `right_handed`.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from ..laying import angle_between
from ..records import Bend, Piece, Straight
from ..space import Pose, Vector, pose, unit, wrapped
from ..units import Length


@dataclass(frozen=True)
class Row:
    """One line of a bend list: straight before the bend, rotation since the last bend, bend angle, its radius."""

    distance_mm: float
    rotation_deg: float
    angle_deg: float
    clr_mm: float


def turned_back(deg: float) -> float:
    """An angle brought into (-180, 180]."""
    return -wrapped(-deg)


def rows_from_pieces(pieces: Sequence[Piece]) -> tuple[list[Row], float]:
    """A run of legs and bends as distance-rotation-angle rows, and the last straight [mm].

    The first rotation is measured from the run's reference. Raises ValueError for pieces a bender cannot make.
    """
    rows: list[Row] = []
    distance, last_roll = 0.0, 0.0
    for piece in pieces:
        if isinstance(piece, Straight):
            distance += piece.length_mm
        elif isinstance(piece, Bend):
            rows.append(Row(distance, turned_back(piece.roll_deg - last_roll), piece.angle_deg, float(piece.clr_mm)))
            distance, last_roll = 0.0, piece.roll_deg
        else:
            raise ValueError(f"piece {piece.id} is a {piece.kind}: a bender makes straights and bends only")
    return rows, distance


def pieces_from_rows(rows: Sequence[Row], last_mm: float) -> tuple[Piece, ...]:
    """The run that a list of rows makes. A straight of nothing is left out."""
    out: list[Piece] = []
    roll = 0.0
    for row in rows:
        if row.distance_mm:
            out.append(Straight(id=f"p{len(out) + 1}", length_mm=Length(row.distance_mm)))
        roll = turned_back(roll + row.rotation_deg)
        out.append(Bend(id=f"p{len(out) + 1}", angle_deg=row.angle_deg, clr_mm=Length(row.clr_mm), roll_deg=roll))
    if last_mm:
        out.append(Straight(id=f"p{len(out) + 1}", length_mm=Length(last_mm)))
    return tuple(out)


def right_handed(rows: Sequence[Row]) -> list[Row]:
    """The same list with rotations right-handed about the direction of travel (or back again)."""
    return [Row(r.distance_mm, -r.rotation_deg, r.angle_deg, r.clr_mm) for r in rows]


def from_the_other_end(rows: Sequence[Row], last_mm: float) -> tuple[list[Row], float]:
    """The same pipe begun at its other end: straights, angles and rotations between bends reversed, signs kept.

    The first rotation becomes zero: where the bench starts is free. An identity of the geometry; reference value
    AL013 states it.
    """
    if not rows:
        return [], last_mm
    distances = [r.distance_mm for r in rows[1:]] + [last_mm]
    rotations = [r.rotation_deg for r in rows[1:]]
    turned = [
        Row(d, rot, r.angle_deg, r.clr_mm)
        for d, rot, r in zip(distances[::-1], [0.0, *rotations[::-1]], rows[::-1], strict=True)
    ]
    return turned, rows[0].distance_mm


def start_and_rows_from_points(points: ArrayLike, clr_mm: float, reference: Vector) -> tuple[Pose, list[Row], float]:
    """Rows from corner points (n, 3) with one radius: the start pose, the rows and the last straight.

    Raises ValueError naming the corner where the straights do not leave room for the bend.
    """
    corners = np.asarray(points, dtype=float)
    flows = [unit(b - a) for a, b in itertools.pairwise(corners)]
    lengths = [float(np.linalg.norm(b - a)) for a, b in itertools.pairwise(corners)]
    start = pose(corners[0], flows[0], reference)
    here, rows, used, last_roll = start, [], 0.0, 0.0
    for i, (f, g) in enumerate(itertools.pairwise(flows)):
        angle = angle_between(f, g)
        tangent = clr_mm * float(np.tan(np.radians(angle) / 2))
        straight = lengths[i] - used - tangent
        if straight < -1e-9:
            raise ValueError(f"corner {i + 2} needs {-straight:.1f} mm more straight before it")
        roll = here.roll_of(g - (g @ f) * f)
        rows.append(Row(straight, turned_back(roll - last_roll), angle, clr_mm))
        here, used, last_roll = _carried(here, g), tangent, roll
    return start, rows, lengths[-1] - used


def _carried(here: Pose, flow: Vector) -> Pose:
    """The reference carried rigidly round the corner to a new flow."""
    axis = np.cross(here.flow, flow)
    sine = float(np.linalg.norm(axis))
    if sine < 1e-12:
        return here
    k, c = axis / sine, float(here.flow @ flow)
    r = here.reference
    turned = r * c + np.cross(k, r) * sine + k * (k @ r) * (1 - c)
    return pose(here.point, flow, turned)
