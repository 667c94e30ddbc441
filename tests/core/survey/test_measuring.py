"""Directions from inclinations against vectors, sizes and places against figures worked by hand."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from widebend.core.errors import InputError
from widebend.core.laying import lay_pieces
from widebend.core.records import Design, Rails, Stance, Tube
from widebend.core.space import pose
from widebend.core.survey import OldBend, copy_pipe, line_through, standing
from widebend.core.survey.measuring import (
    edge_to_edge,
    face_direction,
    off_the_rail,
    pipe_direction,
    plumb_and_rule,
    plumb_face_direction,
    round_the_pipe,
    tape_line,
)
from widebend.core.units import Length

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


@given(st.floats(-80, 80), st.floats(-80, 80))
def test_a_face_from_two_inclinations_is_the_plane_through_both_lines(along: float, across: float) -> None:
    """Both lines that the finder lay on must lie in the face: their dot products with its direction are nothing."""
    a, b = math.radians(along), math.radians(across)
    found = face_direction(along, across, 0.3).direction
    assert abs(found @ np.array([math.cos(a), 0.0, math.sin(a)])) < 1e-9
    assert abs(found @ np.array([0.0, math.cos(b), math.sin(b)])) < 1e-9
    assert np.linalg.norm(found) == pytest.approx(1.0)


def test_a_plumb_face_cannot_be_told_by_inclination() -> None:
    with pytest.raises(InputError, match="cannot tell"):
        face_direction(90.0, 90.0, 0.3)
    found = plumb_face_direction(90.0, 0.5)
    assert np.allclose(found.direction, [1.0, 0.0, 0.0])


@given(st.floats(-70, 70), st.floats(-170, 170))
def test_a_pipes_direction_is_its_slope_and_heading(slope: float, heading: float) -> None:
    found = pipe_direction(slope, heading, 0.3)
    x, y, z = found.direction
    assert math.degrees(math.asin(z)) == pytest.approx(slope, abs=1e-9)
    assert math.degrees(math.atan2(y, x)) == pytest.approx(heading, abs=1e-9)


def test_a_reading_without_a_heading_cannot_tell() -> None:
    with pytest.raises(InputError, match="square off the rail"):
        pipe_direction(12.0, None, 0.3)
    assert np.allclose(pipe_direction(89.0, None, 0.3).direction, [0, 0, 1])


def test_places_and_sizes_by_hand() -> None:
    assert np.allclose(off_the_rail(1200, 150, 40, -430, 380, 1.0, 1.0).point, [1200, -280, 340])
    assert np.allclose(off_the_rail(1200, 150, 40, 430, 380, -1.0, 1.0).point, [1200, 280, 340])
    assert plumb_and_rule(1, 2, 3, 1.0).plus_minus_mm == pytest.approx(math.sqrt(3))
    # 3-4-5: 400 along, 300 up is 500 long and slopes atan(3/4) = 36.87 deg
    leg = tape_line(np.array([0.0, 0, 0]), np.array([400.0, 0, 300]), 1.0)
    assert (leg.length_mm, leg.slope_deg) == (pytest.approx(500.0), pytest.approx(36.8699, abs=1e-4))
    # tubes of 60 and 80 whose centres are 200 apart: left edges 190, right edges 210
    both = edge_to_edge(190.0, 210.0, 60.0, 80.0, 1.0)
    assert (both.mm, both.said) == (pytest.approx(200.0), ())
    assert "Measure round both" in edge_to_edge(190.0, 220.0, 60.0, 80.0, 1.0).said[0]
    # pi x 63.5 = 199.49
    assert round_the_pipe(199.4911, 0.0, 1.0).mm == pytest.approx(63.5, abs=1e-3)
    with pytest.raises(InputError, match="too near"):
        tape_line(np.zeros(3), np.array([5.0, 0, 0]), 2.0)


def test_the_old_pipe_ends_where_its_bends_lead_and_its_mirror_on_the_other_side() -> None:
    """Two bends of 45 the opposite way in one plane: an S whose ends are parallel, worked by hand."""
    s = copy_pipe(100.0, [OldBend(45, 0, 200), OldBend(45, 180, 100)], 95.25, TUBE)
    rise = 2 * 95.25 * (1 - math.cos(math.pi / 4)) + 200 * math.sin(math.pi / 4)
    run = 200 + 2 * 95.25 * math.sin(math.pi / 4) + 200 * math.cos(math.pi / 4)
    assert s.ends_mm == pytest.approx(math.hypot(rise, run), abs=1e-9)
    plain = [OldBend(30, 0, 120), OldBend(50, 70, 80)]
    ends = []
    for mirrored in (False, True):
        copy = copy_pipe(60.0, plain, 95.25, TUBE, mirrored=mirrored)
        ends.append(lay_pieces(pose((0, 0, 0), (1, 0, 0)), copy.pieces, Design(), TUBE)[-1].outlet.point)
    assert np.allclose(ends[0] * [1, -1, 1], ends[1], atol=1e-9)


def test_the_tape_between_the_ends_checks_the_copy() -> None:
    bends = [OldBend(45, 0, 200), OldBend(45, 180, 100)]
    true = copy_pipe(100.0, bends, 95.25, TUBE).ends_mm
    assert copy_pipe(100.0, bends, 95.25, TUBE, taped_ends_mm=true + 1).agrees
    assert copy_pipe(100.0, bends, 95.25, TUBE, taped_ends_mm=true + 60).agrees is False


def test_heights_go_from_the_lift_to_ride_and_back() -> None:
    rails = Rails.model_validate(
        {
            "left_y_mm": -400.0,
            "right_y_mm": 400.0,
            "front_at_mm": 500.0,
            "rear_at_mm": 2500.0,
            "front_height_mm": 250.0,
            "rear_height_mm": 250.0,
        }
    )
    # on the lift 1500 at the front place, 1570 at the rear one: asin(70 / 2000) = 2.0058 deg up to the back
    stance = Stance.model_validate({"on": "lift", "front_rail_now_mm": 1500.0, "rear_rail_now_mm": 1570.0})
    now = standing(stance, rails)
    assert now.pitch_deg == pytest.approx(2.0058, abs=1e-4)
    place = np.array([1800.0, 120.0, 330.0])
    assert np.allclose(now.at_ride(now.now(place)), place, atol=1e-9)
    front = now.now(np.array([500.0, -400.0, 250.0]))
    assert front[2] == pytest.approx(1500.0, abs=1e-9)
    rear = now.now(np.array([2500.0, -400.0, 250.0]))
    assert rear[2] == pytest.approx(1570.0, abs=0.1)
    odd = standing(stance.replace(rail_pitch_deg=5.0), rails)
    assert "measure one of them again" in odd.said[0]
    with pytest.raises(InputError, match="at ride"):
        standing(stance, None)


def test_a_low_line_through_points() -> None:
    level = line_through([(1000, -400, 150), (1000, 400, 150)])
    assert tuple(level.n) == (0.0, 0.0, 1.0)
    assert level.d == pytest.approx(150)
    # rising 40 in 2000 to the back: on the line at 1500 back its height is 160
    sloping = line_through([(500, 0, 140), (2500, 0, 180)])
    n = np.array(sloping.n)
    assert n @ [1500, 77, 160] == pytest.approx(float(sloping.d), abs=1e-6)
    with pytest.raises(InputError, match="straight string"):
        line_through([(0, 0, 150), (1000, 0, 150), (1000, 500, 150), (0, 500, 200)])
    with pytest.raises(InputError, match="one line"):
        line_through([(0, 0, 150), (1000, 0, 150), (2000, 0, 150)])
    with pytest.raises(InputError, match="far from level"):
        line_through([(0, 0, 150), (1000, 0, 900)])


def test_standing_on_the_lift_is_a_turn_about_the_mark_that_is_taped_from() -> None:
    """A vehicle 5 deg up at the back and 1.5 deg up at the right: turned by rotation matrices of their own about the
    front mark on the rail. 5 deg is 174.3 mm in 2 m along the rail (arc sine), which atan2 would read as 4.98.
    """
    rails = Rails(
        left_y_mm=Length(-430),
        right_y_mm=Length(430),
        front_at_mm=Length(500),
        rear_at_mm=Length(2500),
        front_height_mm=Length(300),
        rear_height_mm=Length(300),
    )
    stance = Stance(
        on="lift",
        suspension="droop",
        rail_roll_deg=1.5,
        front_rail_now_mm=Length(1500),
        rear_rail_now_mm=Length(1500 + 2000 * math.sin(math.radians(5.0))),
    )
    here = standing(stance, rails)
    assert here.pitch_deg == pytest.approx(5.0, abs=1e-9)
    turn = Rotation.from_euler("xyz", [1.5, -5.0, 0.0], degrees=True)
    mark = np.array([500.0, 0.0, 300.0])
    point = np.array([2100.0, -200.0, 260.0])
    want = mark + turn.apply(point - mark)
    assert here.now(point)[:2] == pytest.approx(want[:2], abs=1e-6)
    assert here.at_ride(here.now(point)) == pytest.approx(point, abs=1e-9)
    left = np.array([500.0, -430.0, 300.0])
    assert here.now(left)[2] == pytest.approx(1500.0)
    assert here.now(np.array([500.0, 0.0, 300.0]))[:2] == pytest.approx([500.0, 0.0])
