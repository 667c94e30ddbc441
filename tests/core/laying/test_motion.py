"""Where things that move go, against cases worked by hand."""

import math

import numpy as np
import pytest
from pydantic import ValidationError

from widebend.core.geometry import motion_of
from widebend.core.laying import positions
from widebend.core.records import Group, Survey


def _moved(group: Group, survey: Survey, point: tuple[float, float, float]) -> dict[str, np.ndarray]:
    out = {}
    for state in positions(group, survey):
        turn, shift = motion_of(state)
        out[state.name] = turn @ np.array(point) + shift
    return out


def _group(group_id: str, motion: dict, measured_at: str = "ride") -> Group:
    return Group.model_validate({"id": group_id, "motion": motion, "measured_at": measured_at})


def test_a_live_axle_measured_at_droop_is_placed_at_ride_and_bump() -> None:
    """110 down and 90 up from ride: measured at droop, ride is 110 up and bump 200 up from there."""
    group = _group("rear-axle", {"kind": "axle", "droop_mm": 110.0, "bump_mm": 90.0}, "droop")
    at = _moved(group, Survey(groups=(group,)), (3200.0, 0.0, 210.0))
    assert [at[s][2] for s in ("droop", "ride", "bump")] == [210.0, 320.0, 410.0]


def test_an_arm_turns_until_its_wheel_is_as_high_as_it_travels() -> None:
    """A level arm of 500: its wheel 100 up is asin(0.2) = 11.537 deg, and 500 (1 - cos) = 10.10 mm nearer the pivot."""
    pivot = {"about": (2500.0, 0.0, 300.0), "axis": (0.0, 1.0, 0.0), "hub": (3000.0, 0.0, 300.0)}
    group = _group("rear-axle", {"kind": "axle", "droop_mm": 100.0, "bump_mm": 100.0, "pivot": pivot})
    at = _moved(group, Survey(groups=(group,)), (3000.0, 0.0, 300.0))
    nearer = 500 * (1 - math.cos(math.asin(0.2)))
    assert nearer == pytest.approx(10.10, abs=0.01)
    assert np.allclose(at["bump"], [3000 - nearer, 0, 400], atol=1e-9)
    assert np.allclose(at["droop"], [3000 - nearer, 0, 200], atol=1e-9)
    # half way along the arm goes half as high
    assert _moved(group, Survey(groups=(group,)), (2750.0, 60.0, 300.0))["bump"][2] == pytest.approx(350.0)


def test_an_arm_that_is_too_short_is_refused() -> None:
    pivot = {"about": (2900.0, 0.0, 300.0), "axis": (0.0, 1.0, 0.0), "hub": (3000.0, 0.0, 300.0)}
    with pytest.raises(ValidationError, match="check the pivot"):
        _group("rear-axle", {"kind": "axle", "droop_mm": 150.0, "bump_mm": 50.0, "pivot": pivot})


def test_a_propshaft_swings_about_its_front_joint_with_the_axle() -> None:
    """Its rear joint rises 90 with the axle: the shaft of 1600 points there from its front joint, as long as before."""
    axle = _group("rear-axle", {"kind": "axle", "droop_mm": 110.0, "bump_mm": 90.0})
    shaft = _group(
        "driveline",
        {"kind": "shaft", "front": (1400.0, 0.0, 350.0), "rear": (3000.0, 0.0, 350.0), "follows": "rear-axle"},
    )
    survey = Survey(groups=(axle, shaft))
    at = _moved(shaft, survey, (3000.0, 0.0, 350.0))
    toward = np.array([1600.0, 0.0, 90.0])
    assert np.allclose(at["bump"], [1400, 0, 350] + 1600 * toward / np.linalg.norm(toward), atol=1e-6)
    assert np.allclose(_moved(shaft, survey, (1400.0, 0.0, 350.0))["droop"], [1400, 0, 350], atol=1e-9)


def test_an_engine_rocks_the_same_each_way_and_steering_slides() -> None:
    rock = _group("engine", {"kind": "rock", "about": (0.0, 0.0, 400.0), "axis": (1.0, 0.0, 0.0), "deg": 3.0})
    at = _moved(rock, Survey(groups=(rock,)), (0.0, 200.0, 400.0))
    up = 200 * math.sin(math.radians(3))
    heights = sorted(float(p[2]) for p in at.values())
    assert heights == pytest.approx([400 - up, 400.0, 400 + up])
    steer = _group("steering", {"kind": "steer", "side_mm": 70.0})
    slid = _moved(steer, Survey(groups=(steer,)), (0.0, 0.0, 300.0))
    assert sorted(float(p[1]) for p in slid.values()) == [-70.0, 0.0, 70.0]


def test_a_group_must_move() -> None:
    with pytest.raises(ValidationError, match="no travel"):
        Group.model_validate({"id": "engine"})
