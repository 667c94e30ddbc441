"""Closing: hidden chains must be found again with no more bends; what cannot be is refused with a reason."""

import numpy as np
import pytest

from tests.chains import end_by_rotations, hidden_chain, random_pose
from widebend.core.closing import BendOptions, changes_that_work, close, why_not
from widebend.core.laying import NO_RIGID, angle_between, lay_pieces
from widebend.core.records import Design, Straight, Tube
from widebend.core.space import chain, pose, pose_from_matrix
from widebend.core.units import Length

CLRS = (95.25, 63.5)


@pytest.mark.parametrize("block", range(20))
def test_hidden_chains_are_found_with_no_more_bends(block: int) -> None:
    """2,000 in all, legs now and then nothing, parallel, collinear, opposed and 180 among them."""
    rng = np.random.default_rng(1000 + block)
    for _ in range(100):
        n = int(rng.integers(0, 4))
        start, steps = random_pose(rng), hidden_chain(rng, n, CLRS)
        target = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
        answers = close(start, target, BendOptions(CLRS, most_bends=n))
        assert answers, steps.tolist()
        for answer in answers:
            assert len(answer.bends) <= n
            point, flow = end_by_rotations(start, answer.steps)  # separate code lays it again
            assert np.linalg.norm(point - target.point) < 1e-6
            assert angle_between(flow, target.flow) < 1e-6
            assert (answer.legs >= -1e-9).all()


@pytest.mark.parametrize("seed", range(30))
def test_angles_from_the_set_stay_in_the_set(seed: int) -> None:
    rng = np.random.default_rng(seed)
    angles = (15.0, 22.5, 30.0, 45.0, 60.0, 90.0)
    steps = hidden_chain(rng, 2, (95.25,))
    steps[1::2, 1] = rng.choice(angles, 2)
    start = random_pose(rng)
    target = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
    answers = close(start, target, BendOptions((95.25,), angles, free=False, most_bends=2))
    assert answers
    for answer in answers:
        assert all(min(abs(a - b) for b in angles) < 1e-6 for a in answer.bends[:, 1])


@pytest.mark.parametrize("seed", range(40))
def test_three_bends_that_fit_at_one_roll_only_are_found(seed: int) -> None:
    """Hidden chains of three bends from the set whose legs are barely longer than the shortest allowed: a few degrees
    of the first roll hold all there is, and seldom one that a sweep in steps of five would meet.
    """
    rng = np.random.default_rng(300 + seed)
    angles = (22.5, 30.0, 45.0, 60.0, 90.0)
    steps = hidden_chain(rng, 3, (95.25,))
    steps[1::2, 1], steps[1::2, 3] = rng.choice(angles, 3), rng.uniform(0, 360, 3)
    steps[0::2, 1] = 60.0 + rng.uniform(0.5, 4.0, 4)
    start = random_pose(rng)
    target = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
    answers = close(start, target, BendOptions((95.25,), angles, free=False, most_bends=3, shortest_mm=60.0))
    assert answers


def test_a_plain_jog_is_two_equal_bends() -> None:
    """Rolling offset arithmetic: travel between corners = offset / sin(angle) (reference A046: 150 at 30 deg, 300)."""
    start, target = pose((0, 0, 0), (1, 0, 0)), pose((900, 150, 0), (1, 0, 0))
    answers = close(start, target, BendOptions((95.25,), (30.0,), free=False, most_bends=2))
    answer = answers[0]
    tangent = 95.25 * np.tan(np.radians(15))
    assert answer.bends[:, 1] == pytest.approx([30, 30])
    assert answer.legs[1] == pytest.approx(300 - 2 * tangent)


IMPOSSIBLE = {
    "no way back within a radius": (pose((50, 0, 0), (-1, 0, 0)), 2),
    "a jog with one bend": (pose((900, 150, 0), (1, 0, 0)), 1),
    "lines that never meet, one bend": (pose((300, 40, 90), (0, 1, 0)), 1),
    "not straight ahead, no bend": (pose((300, 1, 0), (1, 0, 0)), 0),
    "behind, no bend": (pose((-300, 0, 0), (1, 0, 0)), 0),
    "no room for the tangents, one bend": (pose((60, 60, 0), (0, 1, 0)), 1),
}


@pytest.mark.parametrize("name", IMPOSSIBLE)
def test_known_impossible_is_refused(name: str) -> None:
    target, most = IMPOSSIBLE[name]
    start = pose((0, 0, 0), (1, 0, 0))
    ways = BendOptions((95.25,), most_bends=most, shortest_mm=40)
    assert close(start, target, ways) == []
    assert f"No way with up to {most} bends" in why_not(start, target, ways)


def test_a_change_that_is_named_was_solved() -> None:
    start, target = pose((0, 0, 0), (1, 0, 0)), pose((150, 40, 0), (1, 0, 0))
    ways = BendOptions((95.25,), (90.0,), free=False, shortest_mm=60.0)
    assert close(start, target, ways) == []
    changes = changes_that_work(start, target, ways, 63.5)
    assert changes
    for change in changes:
        moved = pose(target.point + change.aim_shift_mm * target.flow, target.flow)
        assert close(start, moved, change.ways), change.words


def test_same_input_same_answers() -> None:
    start, target = pose((0, 0, 0), (1, 0, 0.1)), pose((700, 200, 90), (0.8, 0.1, -0.2))
    first, second = (close(start, target, BendOptions(CLRS)) for _ in range(2))
    assert [a.steps.tolist() for a in first] == [a.steps.tolist() for a in second]


@pytest.mark.parametrize("sliver", [0.008, 0.05, 0.29])
def test_a_straight_of_next_to_nothing_is_none_and_the_end_is_met_all_the_same(sliver: float) -> None:
    """The pieces that are shown meet the end, not only the steps they were made from."""
    start = pose((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    steps = np.array(
        [
            (chain.LEG, 300.0, 0, 0),
            (chain.BEND, 30.0, 95.25, 0),
            (chain.LEG, sliver, 0, 0),
            (chain.BEND, 45.0, 95.25, 80.0),
            (chain.LEG, 200.0, 0, 0),
        ]
    )
    target = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
    answers = close(start, target, BendOptions((95.25,), (30.0, 45.0), most_bends=2))
    assert any(len(answer.bends) == 2 for answer in answers)
    for answer in answers:
        laid = lay_pieces(start, answer.pieces(), Design(), Tube(od_mm=Length(63.5), wall_mm=Length(1.5)))
        assert np.linalg.norm(laid[-1].outlet.point - target.point) < 1e-6
        legs = [piece.length_mm for piece in answer.pieces() if isinstance(piece, Straight)]
        assert answer.from_set or all(leg > 0.3 for leg in legs)


def test_no_answer_is_longer_than_a_piece_can_be() -> None:
    """Two ends 49 m apart, facing away from each other: what would go a long way round is no answer, and no fault."""
    away = close(
        pose((0, 0, 0), (-1, 0, 0), (0, 0, 1)), pose((49_000, 0, 0), (-1, 0, 0), (0, 0, 1)), BendOptions((95.25,))
    )
    assert all(isinstance(piece.id, str) for answer in away for piece in answer.pieces())
