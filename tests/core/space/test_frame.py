"""Poses and clocks. Expected values follow from the fixed conventions (docs/sources.md), worked by hand."""

import numpy as np
import pytest

from widebend.core.space import clock_deg, heading_deg, inclination_deg, pose, roll_for_clock, toward_words, unit


def test_three_o_clock_is_vehicle_right_standing_behind() -> None:
    assert clock_deg(np.array([1.0, 0, 0]), np.array([0.0, 1, 0])) == pytest.approx(90)


def test_reference_near_plumb_leans_rearward() -> None:
    assert pose((0, 0, 0), (0, 0, 1)).reference == pytest.approx([-1, 0, 0])
    assert pose((0, 0, 0), (0, 0, -1)).reference == pytest.approx([1, 0, 0])


def test_reference_is_up_where_the_pipe_lies() -> None:
    assert pose((0, 0, 0), (1, 0, 0)).reference == pytest.approx([0, 0, 1])


def test_roll_for_clock_points_there() -> None:
    at = pose((0, 0, 0), (0.9, 0.3, -0.2)).rolled(77.0)
    side = at.side(roll_for_clock(at, 37.5))
    assert clock_deg(at.flow, side) == pytest.approx(37.5)


def test_angle_finder_and_heading() -> None:
    flow = unit((np.cos(np.radians(20)), 0, -np.sin(np.radians(20))))
    assert inclination_deg(flow) == pytest.approx(-20)
    assert heading_deg(np.array([0.0, 1.0, 0.0])) == pytest.approx(90)
    assert heading_deg(np.array([0.0, 0.0, 1.0])) is None


def test_words() -> None:
    assert toward_words(unit((0, -1, 1))) == "up and to the left"


def test_a_direction_needs_a_length() -> None:
    with pytest.raises(ValueError, match="needs a length"):
        unit((0, 0, 0))
