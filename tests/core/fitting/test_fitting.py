"""What was fitted, from readings: against small steps, sampled builds, and builds whose errors are known."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from widebend.core.fitting import (
    Chain,
    Reading,
    Spreads,
    at_end,
    built,
    chain_of,
    find,
    read,
    sampled_ends,
    spreads_of,
    tells_most,
    twists,
)
from widebend.core.laying import run_start
from widebend.core.records import Bend, Design, Settings, Straight
from widebend.core.space import pose
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

SYSTEMS = {"estate": cat_back, "twin": twin_x, "truck": low_truck, "quad": quad_rear, "pie": pie_downpipe}


def _plan(design: Design, run: int = 0) -> Chain:
    one = design.runs[run]
    start = run_start(design, one)
    assert start is not None
    return chain_of(design, start, one.pieces, one.tube)


@pytest.mark.parametrize("name", SYSTEMS)
def test_what_an_error_moves_is_what_a_small_one_moves(name: str) -> None:
    plan = _plan(SYSTEMS[name]())
    none = np.zeros((len(plan.steps), 5))
    frames, by = built(plan, none), twists(plan, none)
    used = spreads_of(plan, Spreads()) > 0
    for k, j in np.argwhere(used):
        little = none.copy()
        little[k, j] = 1e-4
        moved = built(plan, little)
        for step in range(k + 1, len(frames)):
            turn, shift = by[k, j, :3], by[k, j, 3:]
            point = np.cross(turn, frames[step][:, 3]) + shift
            assert (moved[step][:, 3] - frames[step][:, 3]) / 1e-4 == pytest.approx(point, abs=2e-3)
            flow = np.cross(turn, frames[step][:, 0])
            assert (moved[step][:, 0] - frames[step][:, 0]) / 1e-4 == pytest.approx(flow, abs=1e-5)


@pytest.mark.parametrize("name", SYSTEMS)
def test_the_linear_answer_and_sampled_builds_agree(name: str) -> None:
    """Within five of a hundred of the deviation; 3,000 builds know it to 1.3 of a hundred."""
    plan = _plan(SYSTEMS[name]())
    spreads = spreads_of(plan, Spreads())
    ends = sampled_ends(plan, spreads, 3000)
    off = ends[:, :, 3] - built(plan, np.zeros_like(spreads))[-1][:, 3]
    assert at_end(plan, spreads).off_mm == pytest.approx(np.sqrt((off**2).sum(axis=1).mean()), rel=0.05)
    assert at_end(plan, spreads).shares.sum() == pytest.approx(1.0)


def _turn(axis: np.ndarray, rad: float) -> np.ndarray:
    return np.asarray(Rotation.from_rotvec(axis * rad).as_matrix())


def _end_of_a_build(
    bends: list[tuple[float, float, float]], legs: list[float], off: np.ndarray, *, line: bool
) -> np.ndarray:
    """The end of straights and bends (angle, radius, clock) whose clocks are off (n,) [deg], laid by turning vectors:
    set line to line the whole piece turns and all behind it; set to the vehicle its plane alone does.
    """
    at, flow, ref = np.zeros(3), np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])
    for (angle, radius, clock), leg, wrong in zip(bends, legs, off, strict=True):
        at = at + leg * flow
        if line:
            ref = _turn(-flow, np.radians(wrong)) @ ref
        side = _turn(-flow, np.radians(clock + (0.0 if line else wrong))) @ ref
        axis, turn = np.cross(flow, side), np.radians(angle)
        at = at + radius * (np.sin(turn) * flow + (1 - np.cos(turn)) * side)
        by = _turn(axis, turn)
        flow, ref = by @ flow, by @ ref
    return at + legs[-1] * flow


@pytest.mark.parametrize("clocked", ["line to line", "to the vehicle"])
def test_a_wrong_clock_turns_what_is_behind_or_its_own_bend_alone(clocked: str) -> None:
    """Four bends in space: one deviation of the end by the linear answer and by builds laid by their own code."""
    bends = [(40.0, 95.0, 0.0), (60.0, 95.0, 120.0), (35.0, 95.0, 250.0), (50.0, 95.0, 30.0)]
    legs = [200.0, 420.0, 310.0, 500.0]
    pieces = [
        piece
        for k, ((angle, radius, clock), leg) in enumerate(zip(bends, legs, strict=True))
        for piece in (
            Straight(id=f"l{k}", length_mm=leg),
            Bend(id=f"b{k}", angle_deg=angle, clr_mm=radius, roll_deg=clock),
        )
    ]
    pieces.append(Straight(id="last", length_mm=legs[-1]))
    settings = Settings.model_validate({"clocked": clocked})
    plan = chain_of(Design(settings=settings), pose((0, 0, 0), (1, 0, 0), (0, 0, 1)), pieces, cat_back().runs[0].tube)
    spreads = np.zeros((len(plan.steps), 5))
    spreads[1:-1:2, 2] = 1.8
    rng = np.random.default_rng(4)
    ends = np.array(
        [_end_of_a_build(bends, legs, rng.normal(0, 1.8, 4), line=clocked == "line to line") for _ in range(4000)]
    )
    none = built(plan, np.zeros_like(spreads))[-1][:, 3]
    assert none == pytest.approx(_end_of_a_build(bends, legs, np.zeros(4), line=True), abs=1e-9)
    off = np.linalg.norm(ends - none, axis=1)
    assert at_end(plan, spreads).off_mm == pytest.approx(np.sqrt((off**2).mean()), rel=0.04)


def _readings(rng: np.random.Generator, plan: Chain, frames: np.ndarray, pieces: range) -> list[Reading]:
    """Height, off the rail, angle finder and two tapes on each piece, as they would be read."""
    out = []
    for piece in pieces:
        step = plan.step_of(piece)
        some = [
            Reading(piece, "height", 0, 1.0),
            Reading(piece, "right rail", 0, 1.5, (0.0, 430.0, 0.0)),
            Reading(piece, "angle finder", 0, 0.2),
            Reading(piece, "tape", 0, 1.0, (1450.0, -380.0, 330.0)),
            Reading(piece, "tape", 0, 1.0, (2620.0, 60.0, 410.0)),
        ]
        for one in some:
            value = read(one, frames[step + 1], float(plan.od_mm[step]), frames[step]) + rng.normal(0, one.doubt)
            out.append(replace(one, value=value))
    return out


def test_what_is_found_is_as_near_as_it_says() -> None:
    """150 builds with errors drawn by their spreads, and noisy readings: 95 of 100 lie within what is stated."""
    plan = _plan(cat_back())
    spreads = spreads_of(plan, Spreads())
    rng, inside, off = np.random.default_rng(2), [], []
    for _ in range(150):
        real = built(plan, rng.normal(size=spreads.shape) * spreads)
        found = find(plan, spreads, _readings(rng, plan, real, range(0, 9, 3)))
        step = plan.step_of(6)
        miss = found.frames[step + 1][:, 3] - real[step + 1][:, 3]
        doubt = 1.96 * np.sqrt(np.diag(found.place_spread(step)))
        inside.append(np.abs(miss) < doubt)
        off.append(float(np.linalg.norm(miss)))
    assert 0.93 < np.mean(inside) < 0.97
    assert np.median(off) < 1.5  # mm: readings to a millimetre give the place to about one


def test_a_reading_that_cannot_be_is_named_and_left_out() -> None:
    plan = _plan(cat_back())
    spreads = spreads_of(plan, Spreads())
    rng = np.random.default_rng(3)
    real = built(plan, np.zeros_like(spreads))
    readings = _readings(rng, plan, real, range(0, 4, 3))
    tenfold = [replace(readings[0], value=readings[0].value * 10), *readings[1:]]
    found = find(plan, spreads, tenfold)
    assert [(one.at, one.absurd) for one in found.odd] == [(0, True)]
    assert found.odd[0].should_read == pytest.approx(readings[0].value, abs=12.0)
    assert not find(plan, spreads, readings).odd


def test_two_readings_that_contradict_are_named() -> None:
    plan = _plan(cat_back())
    spreads = spreads_of(plan, Spreads())
    rng = np.random.default_rng(4)
    readings = _readings(rng, plan, built(plan, np.zeros_like(spreads)), range(9))
    wrong = [*readings, replace(readings[40], value=readings[40].value + 9.0)]
    odd = find(plan, spreads, wrong).odd
    assert [(one.at, one.absurd) for one in odd] == [(len(readings), False)]
    assert odd[0].should_read == pytest.approx(readings[40].value, abs=3.0)


def test_nothing_read_leaves_the_plan_and_its_spreads() -> None:
    plan = _plan(cat_back())
    spreads = spreads_of(plan, Spreads())
    found = find(plan, spreads, [])
    assert found.frames == pytest.approx(built(plan, np.zeros_like(spreads)))
    step = len(plan.steps) - 1
    assert found.place_spread(step) == pytest.approx(at_end(plan, spreads).place)


def test_the_reading_that_tells_most_is_the_one_that_tightens_most() -> None:
    plan = _plan(cat_back())
    spreads = spreads_of(plan, Spreads())
    found = find(plan, spreads, [])
    some = [Reading(8, "height", 0, 1.0), Reading(0, "height", 0, 1.0), Reading(8, "angle finder", 0, 5.0)]
    order = tells_most(found, 8, some)
    assert (order[0][0].piece, order[0][0].kind) == (8, "height")
    assert order[0][1] > order[1][1] >= 0.0
    step = plan.step_of(8)
    after = find(
        plan, spreads, [replace(some[0], value=read(some[0], found.frames[step + 1], 63.5, found.frames[step]))]
    )
    before = np.sqrt(np.trace(found.place_spread(step)))
    assert 1 - np.sqrt(np.trace(after.place_spread(step))) / before == pytest.approx(order[0][1], abs=0.01)
