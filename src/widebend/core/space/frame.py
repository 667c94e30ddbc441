"""Where a pipe end is, which way the gas goes, and which way is 'up' on it.

A `Pose` is a point, a unit flow direction and a unit reference square to it. Looking *against* the flow with the
reference at twelve, three o'clock is `across` = reference x flow: for rearward flow that is the vehicle's right.
Rolls and clocks are clockwise in that view. docs/sources.md, "Conventions".
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

Vector = NDArray[np.float64]

UP: Vector = np.array([0.0, 0.0, 1.0])
FORWARD: Vector = np.array([-1.0, 0.0, 0.0])
REARWARD: Vector = np.array([1.0, 0.0, 0.0])
NEAR_VERTICAL_DEG = 10.0  # within this of plumb, "up" on the pipe is decided by leaning it rearward


def wrapped(deg: float) -> float:
    """An angle as the shorter way round: [-180, 180) deg."""
    return float((deg + 180.0) % 360.0 - 180.0)


def cross(a: Vector, b: Vector) -> Vector:
    """Cross product of two (3,) vectors; numpy's own spends most of its time on shapes."""
    return np.array([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


@dataclass(frozen=True)
class Pose:
    """A point [mm], a unit flow direction and a unit reference square to it; arrays of shape (3,)."""

    point: Vector
    flow: Vector
    reference: Vector

    @property
    def across(self) -> Vector:
        """Three o'clock seen against the flow."""
        return cross(self.reference, self.flow)

    @property
    def backwards(self) -> Pose:
        """The same end with the gas going the other way; the reference stays."""
        return Pose(self.point, -self.flow, self.reference)

    def rolled(self, roll_deg: float) -> Pose:
        """The reference turned clockwise, seen against the flow."""
        return Pose(self.point, self.flow, self.side(roll_deg))

    def side(self, roll_deg: float) -> Vector:
        """The unit direction that lies `roll_deg` clockwise from the reference, seen against the flow."""
        angle = math.radians(roll_deg)
        return math.cos(angle) * self.reference + math.sin(angle) * self.across

    def roll_of(self, direction: Vector) -> float:
        """The roll [deg, 0..360) at which `direction`, projected square to the flow, lies."""
        return math.degrees(math.atan2(direction @ self.across, direction @ self.reference)) % 360.0

    def matrix(self) -> Vector:
        """Columns flow, reference, across, point: shape (3, 4), as the chain kernel takes it."""
        out = np.empty((3, 4))
        out[:, 0], out[:, 1], out[:, 2], out[:, 3] = self.flow, self.reference, self.across, self.point
        return out


def pose_from_matrix(matrix: Vector) -> Pose:
    """The inverse of `Pose.matrix`."""
    return Pose(matrix[:, 3].copy(), matrix[:, 0].copy(), matrix[:, 1].copy())


def unit(vector: ArrayLike) -> Vector:
    """`vector` at length one. Raises ValueError for a vector without direction."""
    array = np.asarray(vector, dtype=float)
    length = math.sqrt(float(array @ array))
    if not math.isfinite(length) or length < 1e-9:
        raise ValueError(f"a direction needs a length, got {array.tolist()}")
    return array / length


def vehicle_up_reference(flow: Vector) -> Vector:
    """Vehicle-up projected square to `flow`; near plumb, the limit of a pipe leaning slightly rearward.

    Flow up gives forward, flow down gives rearward.
    """
    if abs(flow[2]) > math.cos(math.radians(NEAR_VERTICAL_DEG)):
        base = FORWARD if flow[2] > 0 else REARWARD
        return unit(base - (base @ flow) * flow)
    return unit(UP - flow[2] * flow)


def pose(point: ArrayLike, flow: ArrayLike, reference: ArrayLike | None = None) -> Pose:
    """A pose from any direction; the reference is squared to the flow, or derived from vehicle-up."""
    f = unit(flow)
    if reference is None:
        return Pose(np.asarray(point, dtype=float), f, vehicle_up_reference(f))
    r = np.asarray(reference, dtype=float)
    return Pose(np.asarray(point, dtype=float), f, unit(r - (r @ f) * f))


def clock_deg(flow: Vector, toward: Vector) -> float:
    """The clock direction of `toward` [deg from 12, 0..360) on a pipe flowing along `flow`, seen against the flow."""
    return Pose(np.zeros(3), flow, vehicle_up_reference(flow)).roll_of(toward)


def roll_for_clock(at: Pose, clock: float) -> float:
    """The roll [deg] from `at`'s reference that points at `clock` [deg from 12]."""
    twelve = Pose(at.point, at.flow, vehicle_up_reference(at.flow))
    return at.roll_of(twelve.side(clock))


def near_vertical(flow: Vector) -> bool:
    """Whether a clock face means nothing on this pipe."""
    return bool(abs(flow[2]) > math.cos(math.radians(NEAR_VERTICAL_DEG)))


def needs_words(flow: Vector) -> bool:
    """Whether a clock on this pipe needs words beside it, because the pipe does not mainly run rearward."""
    return bool(flow[0] < 0.3)


def toward_words(direction: Vector) -> str:
    """A direction in the vehicle, in words: "up and to the left"."""
    names = [("forward", "rearward"), ("to the left", "to the right"), ("down", "up")]
    order = (2, 1, 0)
    words = [names[i][int(direction[i] > 0)] for i in order if abs(direction[i]) > 0.38]
    return " and ".join(words) if words else "level"


def inclination_deg(flow: Vector) -> float:
    """Return the reading of an angle finder along the pipe: degrees from level, positive where the pipe climbs."""
    return math.degrees(math.asin(max(-1.0, min(1.0, float(flow[2])))))


def heading_deg(flow: Vector) -> float | None:
    """Degrees off the rail seen from above, positive toward the vehicle's right; None where the pipe is plumb."""
    if near_vertical(flow):
        return None
    return math.degrees(math.atan2(flow[1], flow[0]))


def flow_of(heading: float, slope: float) -> Vector:
    """The unit direction of a heading off the rail [deg, right is plus] and a slope [deg, up is plus]."""
    turn, rise = math.radians(heading), math.radians(slope)
    return np.array([math.cos(rise) * math.cos(turn), math.cos(rise) * math.sin(turn), math.sin(rise)])


def arm_turn_deg(arm: Vector, axis: Vector, rise_mm: float) -> float:
    """The turn [deg] about a unit axis through the pivot that lifts the end of `arm` (3,) by `rise_mm`.

    Height of the end after a turn t: h(t) = A cos t + B sin t + C with A = (arm square to the axis).z,
    B = (axis x arm).z, C the rest. Raises ValueError when the arm is too short to go there.
    """
    along = float(arm @ axis) * axis
    a, b = float((arm - along)[2]), float(cross(axis, arm)[2])
    reach, wanted = math.hypot(a, b), a + rise_mm
    if reach < 1e-9 or abs(wanted) > reach:
        raise ValueError(f"an arm of {reach:.0f} mm cannot lift its end by {rise_mm:.0f} mm: check the pivot")
    lead = math.atan2(b, a)
    turns = [lead + sign * math.acos(wanted / reach) for sign in (1.0, -1.0)]
    best = min((math.remainder(t, 2 * math.pi) for t in turns), key=abs)
    return math.degrees(best)
