"""Readings to check on the vehicle for each piece: angle finder, heading, height, distance to the rail.

Values are for ride height, in the vehicle frame: an angle finder reads inclination against gravity only, so the
vehicle must stand level or the rail's own reading be taken off.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..records import Design
from ..space import Pose, Vector, heading_deg, inclination_deg
from .route import LaidPiece


@dataclass(frozen=True)
class Check:
    """One place on a piece. Lengths mm, angles deg; None where the vehicle or the pipe does not offer it."""

    station_mm: float
    right_mm: float
    underside_mm: float
    angle_finder_deg: float
    heading_off_rail_deg: float | None
    left_rail_gap_mm: float | None
    right_rail_gap_mm: float | None


def underside(point: Vector, flow: Vector, od_mm: float) -> float:
    """Height of a tube's lowest line over ground at a place [mm]."""
    return float(point[2] - od_mm / 2 * math.sqrt(max(0.0, 1.0 - flow[2] ** 2)))


def check_at(design: Design, at: Pose, od_mm: float) -> Check:
    """The expected readings at one place of a pipe."""
    rails = design.survey.rails
    reach = od_mm / 2 * math.sqrt(max(0.0, 1.0 - at.flow[1] ** 2))
    y = float(at.point[1])
    return Check(
        float(at.point[0]),
        y,
        underside(at.point, at.flow, od_mm),
        inclination_deg(at.flow),
        heading_deg(at.flow),
        y - reach - rails.left_y_mm if rails else None,
        rails.right_y_mm - (y + reach) if rails else None,
    )


def checks(design: Design, piece: LaidPiece) -> tuple[Check, Check]:
    """At a piece's inlet and at its outlet."""
    od = float(piece.tube.od_mm)
    return check_at(design, piece.inlet, od), check_at(design, piece.outlet, od)
