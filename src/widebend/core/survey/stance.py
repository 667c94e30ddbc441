"""How the vehicle stood when it was measured: heights and readings for how it stands now, and for ride height.

A vehicle on a lift is higher, and seldom level. Its body is rigid: what was taped from the floor now is turned and
lowered to where it is at ride height. The rail's own reading by the angle finder, or two heights to its underside,
give the slope. Pitch is plus where the rail climbs rearward more than at ride, roll where the right side is higher.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..geometry import rotation_from_rpy
from ..records import Rails, Stance, Survey
from ..space import Pose, Vector

PITCH_AGREES_DEG = 0.6  # two heights and the angle finder that differ by more than this are said


@dataclass(frozen=True)
class Standing:
    """The rigid motion from ride height to how the vehicle stands: now = turn @ ride + shift, and what to say."""

    turn: Vector
    shift: Vector
    pitch_deg: float
    roll_deg: float
    said: tuple[str, ...] = ()

    def now(self, point: Vector) -> Vector:
        """Where a point of the vehicle (3,) is now."""
        return np.asarray(self.turn @ point + self.shift)

    def at_ride(self, point: Vector) -> Vector:
        """Where a point taped as the vehicle stands now lies at ride height."""
        return np.asarray(self.turn.T @ (point - self.shift))

    def way_now(self, direction: Vector) -> Vector:
        return np.asarray(self.turn @ direction)

    def way_at_ride(self, direction: Vector) -> Vector:
        return np.asarray(self.turn.T @ direction)

    def pose_now(self, at: Pose) -> Pose:
        """A pipe end as it is now."""
        return Pose(self.now(at.point), self.way_now(at.flow), self.way_now(at.reference))

    @property
    def moved(self) -> bool:
        return bool(np.abs(self.shift).max() > 0.05 or abs(self.pitch_deg) > 0.01 or abs(self.roll_deg) > 0.01)


LEVEL = Standing(np.eye(3), np.zeros(3), 0.0, 0.0)


def standing(stance: Stance, rails: Rails | None) -> Standing:
    """How the vehicle stands, from what was read. Raises InputError for heights without their places on the rail."""
    pitch, said = _pitch(stance, rails)
    turn = rotation_from_rpy((stance.rail_roll_deg, -pitch, 0.0))
    shift = np.zeros(3)
    if rails and rails.front_height_mm is not None:
        # "back" and "right" are taped from a mark on the rail, which stays the mark however high it stands
        mark = np.array([rails.front_at_mm, 0.0, rails.front_height_mm], dtype=float)
        shift[:2] = (mark - turn @ mark)[:2]
    if stance.front_rail_now_mm is not None and rails and rails.front_height_mm is not None:
        place = np.array([rails.front_at_mm, rails.left_y_mm, rails.front_height_mm], dtype=float)
        shift[2] = float(stance.front_rail_now_mm) - float((turn @ place)[2])
    return Standing(turn, shift, pitch, float(stance.rail_roll_deg), said)


def stands(survey: Survey) -> Standing:
    """How the vehicle of a survey stands; as at ride where the readings do not say."""
    try:
        return standing(survey.stance, survey.rails)
    except InputError:
        return LEVEL


def _pitch(stance: Stance, rails: Rails | None) -> tuple[float, tuple[str, ...]]:
    """The slope over that at ride: from two heights where they are known, checked by the angle finder."""
    own = rail_slope_deg(rails)
    read = None if stance.rail_pitch_deg is None else float(stance.rail_pitch_deg) - own
    if stance.front_rail_now_mm is None or stance.rear_rail_now_mm is None:
        return read or 0.0, ()
    if rails is None or rails.front_height_mm is None or rails.rear_height_mm is None:
        raise InputError("two rail heights now need the same two heights at ride: measure them on level ground")
    long = float(rails.rear_at_mm - rails.front_at_mm)
    apart = math.hypot(long, float(rails.rear_height_mm - rails.front_height_mm))  # along the rail: that stays
    rise = float(stance.rear_rail_now_mm - stance.front_rail_now_mm)
    if abs(rise) >= apart:
        raise InputError(
            f"the two rail heights now differ by {abs(rise):.0f} mm on {apart:.0f} mm of rail: measure again"
        )
    taped = math.degrees(math.asin(rise / apart)) - own
    if read is not None and abs(read - taped) > PITCH_AGREES_DEG:
        words = f"the two rail heights say {taped:.1f}°, the angle finder {read:.1f}°: measure one of them again"
        return taped, (words,)
    return taped, ()


def rail_slope_deg(rails: Rails | None) -> float:
    """The rail's own slope at ride height [deg], plus where it climbs rearward; 0 when its heights are not known."""
    if rails is None or rails.front_height_mm is None or rails.rear_height_mm is None:
        return 0.0
    long = float(rails.rear_at_mm - rails.front_at_mm)
    return math.degrees(math.atan2(float(rails.rear_height_mm - rails.front_height_mm), long))


def rail_underside(rails: Rails | None, back_mm: float) -> float | None:
    """Height of the rail's underside at a place [mm], on the line through its two heights; None without them."""
    if rails is None or rails.front_height_mm is None or rails.rear_height_mm is None:
        return None
    share = (back_mm - float(rails.front_at_mm)) / float(rails.rear_at_mm - rails.front_at_mm)
    return float(rails.front_height_mm) + share * float(rails.rear_height_mm - rails.front_height_mm)
