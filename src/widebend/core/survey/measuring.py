"""Measuring under a vehicle: what a tape, a rule, a square and an angle finder say, as places and directions.

Every helper gives a value, how well it is known (+/-, 95 in 100) and how it was taken, in words that stay with it.
Doubts of independent readings add as the root of their squares (docs/sources.md, "Doubt"). Tapes to marks are in
`tapes`. Vehicle frame: X back from the front axle line, Y right of centre, Z up from the ground.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..space import Vector, cross, flow_of, heading_deg, inclination_deg, near_vertical, unit

PARALLEL_DEG = 8.0  # two lines in a face nearer than this to each other do not fix the face
EDGES_AGREE_MM = 4.0  # left edges and right edges that differ by more than the diameters say are said


@dataclass(frozen=True)
class Place:
    """A measured point (3,) [mm] with its doubt and how it was taken."""

    point: Vector
    plus_minus_mm: float
    how: str
    said: tuple[str, ...] = ()


@dataclass(frozen=True)
class Heading:
    """A measured direction: unit (3,), its slope [deg, up is plus], its heading off the rail [deg, right is plus].

    `heading_deg` is None where the direction is plumb.
    """

    direction: Vector
    slope_deg: float
    heading_deg: float | None
    plus_minus_deg: float
    how: str
    length_mm: float | None = None


@dataclass(frozen=True)
class Size:
    """A measured length [mm] with its doubt and how it was taken."""

    mm: float
    plus_minus_mm: float
    how: str
    said: tuple[str, ...] = ()


def plumb_and_rule(back_mm: float, right_mm: float, up_mm: float, doubt_mm: float) -> Place:
    """A plumb bob dropped to the floor: along and across on the floor, height by rule. `doubt_mm` is of one reading."""
    return Place(np.array([back_mm, right_mm, up_mm]), math.sqrt(3) * doubt_mm, "plumb and rule")


def off_the_rail(
    back_mm: float, out_mm: float, down_mm: float, rail_y_mm: float, rail_z_mm: float, inward: float, doubt_mm: float
) -> Place:
    """Squared off a rail's inner edge: back along it, `out_mm` in from it, `down_mm` below its underside.

    `inward` is +1 for the left rail (in is to the right) and -1 for the right one.
    """
    point = np.array([back_mm, rail_y_mm + inward * out_mm, rail_z_mm - down_mm])
    return Place(point, math.sqrt(3) * doubt_mm, f"squared off the {'left' if inward > 0 else 'right'} rail")


def edge_to_edge(
    left_edges_mm: float, right_edges_mm: float | None, first_od_mm: float, second_od_mm: float, doubt_mm: float
) -> Size:
    """Centre to centre of two tubes from left edge to left edge; right edge to right edge checks it.

    centre distance = left to left + (second OD - first OD) / 2, the second lying to the right; equal diameters cancel.

    >>> edge_to_edge(140.0, None, 63.5, 76.2, 1.0).mm
    146.35
    """
    from_left = left_edges_mm + (second_od_mm - first_od_mm) / 2
    if right_edges_mm is None:
        return Size(from_left, doubt_mm, "left edge to left edge")
    from_right = right_edges_mm - (second_od_mm - first_od_mm) / 2
    said: tuple[str, ...] = ()
    if abs(from_left - from_right) > max(EDGES_AGREE_MM, 2 * doubt_mm):
        odd = right_edges_mm - left_edges_mm
        said = (
            f"the two readings differ by {abs(from_left - from_right):.0f} mm: by them the diameters differ by "
            f"{odd:.0f} mm, not {second_od_mm - first_od_mm:.0f} mm. Measure round both tubes",
        )
    return Size((from_left + from_right) / 2, doubt_mm / math.sqrt(2), "edge to edge, both sides", said)


def tape_line(first: Vector, second: Vector, doubt_mm: float) -> Heading:
    """A tape stretched from one point (3,) to another: length, slope and heading of the leg that would follow it.

    Raises InputError for points too near each other to give a direction.
    """
    gap = np.asarray(second, dtype=float) - np.asarray(first, dtype=float)
    length = float(np.linalg.norm(gap))
    if length < 10.0 * max(doubt_mm, 0.5):
        raise InputError(f"the points are {length:.0f} mm apart: too near each other to give a direction")
    way = gap / length
    doubt = math.degrees(math.atan2(math.sqrt(2) * doubt_mm, length))
    return Heading(way, inclination_deg(way), heading_deg(way), doubt, "tape line", length)


def pipe_direction(slope_deg: float, off_rail_deg: float | None, doubt_deg: float) -> Heading:
    """A pipe's direction from an angle finder laid along it and its heading squared off a rail.

    Raises InputError when the reading alone cannot tell: an angle finder knows nothing of the compass.
    """
    slope = math.radians(slope_deg)
    if near_vertical(np.array([0.0, 0.0, math.sin(slope)])):
        up = np.array([0.0, 0.0, math.copysign(1.0, slope_deg)])
        return Heading(up, slope_deg, None, doubt_deg, "angle finder along the pipe")
    if off_rail_deg is None:
        raise InputError(
            "the angle finder reads slope only: square off the rail too (0 where the pipe runs along it), "
            "or stretch a tape line between two points"
        )
    return Heading(flow_of(off_rail_deg, slope_deg), slope_deg, off_rail_deg, doubt_deg, "angle finder and rail")


def face_direction(lengthwise_deg: float, crosswise_deg: float, doubt_deg: float) -> Heading:
    """The direction square to a flat face from two readings on it.

    The first with the finder's edge held fore and aft (up toward the back is plus), the second held across (up
    toward the right is plus). The direction points rearward, or down where the face lies level. Raises InputError
    when the two lines are nearly the same line: a plumb face reads 90 both ways, whatever way it looks.
    """
    a, b = math.radians(lengthwise_deg), math.radians(crosswise_deg)
    fore_aft, across = np.array([math.cos(a), 0.0, math.sin(a)]), np.array([0.0, math.cos(b), math.sin(b)])
    square = cross(fore_aft, across)
    sine = float(np.linalg.norm(square))
    if sine < math.sin(math.radians(PARALLEL_DEG)):
        raise InputError(
            "these readings cannot tell: a face that stands plumb reads 90° both ways whichever way it looks. "
            "Square off the rail along the face instead, and enter it as a heading"
        )
    way = unit(square)
    if way[0] < -1e-9 or (abs(way[0]) <= 1e-9 and way[2] > 0):
        way = -way
    return Heading(way, inclination_deg(way), heading_deg(way), doubt_deg / sine, "angle finder on the face, two ways")


def plumb_face_direction(off_rail_deg: float, doubt_deg: float) -> Heading:
    """The direction square to a face that stands plumb, from the angle between the face and the rail.

    `off_rail_deg` is how far the face's edge runs off the rail (90 = square across the vehicle, looking back).
    """
    return Heading(flow_of(off_rail_deg - 90.0, 0.0), 0.0, off_rail_deg - 90.0, doubt_deg, "face squared off the rail")


def round_the_pipe(round_mm: float, tape_thick_mm: float, doubt_mm: float) -> Size:
    """Outside diameter from a tape round the pipe: (round / pi) less the tape's thickness.

    >>> round(round_the_pipe(200.0, 0.13, 1.0).mm, 2)
    63.53
    """
    od = round_mm / math.pi - tape_thick_mm
    if od <= 0:
        raise InputError("the tape round the pipe must be longer than the tape is thick")
    return Size(od, doubt_mm / math.pi, "tape round the pipe")
