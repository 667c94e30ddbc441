"""Where the whole lies: every way of saying it puts the same tags in the same places."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from tests.photo_scenes import facing
from widebend.core.errors import InputError
from widebend.core.photos import Known
from widebend.core.photos.datum import gauged, holds_of
from widebend.core.photos.pose_estimate import Places, PoseEstimate
from widebend.core.photos.sightings import Table
from widebend.core.photos.square import skew

LEFT, RIGHT, HUB = (facing((0, 0, -1), up) for up in ((0, 1, 0), (0, -1, 0), (1, 0, 0)))
TAGS = {
    0: (facing((0, 0, -1)), (900.0, -200.0, 380.0)),
    1: (facing((0, 0, -1)), (2100.0, 250.0, 400.0)),
    270: (LEFT, (500.0, -460.0, 320.0)),
    271: (RIGHT, (500.0, 460.0, 320.0)),
    272: (LEFT, (2500.0, -460.0, 350.0)),
    273: (RIGHT, (2500.0, 460.0, 350.0)),
    290: (facing((0, 0, 1)), (300.0, -600.0, 0.0)),
    291: (facing((0, 0, 1)), (300.0, 600.0, 0.0)),
    292: (facing((0, 0, 1)), (2600.0, 0.0, 0.0)),
    310: (HUB, (0.0, -700.0, 310.0)),
    311: (HUB, (0.0, 700.0, 310.0)),
}


def _somewhere(numbers: tuple[int, ...]) -> tuple[PoseEstimate, Table]:
    """The tags of these numbers, the whole turned and shifted as a first photo would have it."""
    turn, shift = Rotation.from_rotvec([1.9, -0.7, 0.4]).as_matrix(), np.array([120.0, -40.0, 900.0])
    turns = np.array([turn @ TAGS[n][0] for n in numbers])
    places = np.array([turn @ np.array(TAGS[n][1]) + shift for n in numbers])
    none = np.zeros(0, dtype=int)
    table = Table(
        (),
        numbers,
        (),
        none,
        none,
        none,
        none,
        np.zeros((0, 4, 2)),
        np.zeros((0, 4, 2)),
        np.zeros(len(numbers), dtype=bool),
    )
    return PoseEstimate(
        np.zeros((0, 3, 3)), np.zeros((0, 3)), turns, places, np.zeros((0, 5)), 1.0, np.full(len(numbers), 30.0)
    ), table


@pytest.mark.parametrize(
    ("numbers", "known"),
    [
        ((0, 1, 290, 291, 292, 310, 311), Known({})),
        ((0, 1, 270, 271, 272, 273, 310, 311), Known({}, (320.0, 350.0))),
        ((0, 1, 290, 291, 292), Known({0: (900.0, -200.0, 380.0), 1: (2100.0, 250.0, 400.0)})),
        ((0, 1, 310, 311), Known({0: (900.0, -200.0, 380.0), 1: (2100.0, 250.0, 400.0), 310: (0.0, -700.0, 310.0)})),
        ((0, 1, 270, 271, 272, 273), Known({0: (900.0, -200.0, 380.0)}, (320.0, 350.0))),
    ],
)
def test_hubs_rails_floor_and_typed_places_say_the_same(numbers: tuple[int, ...], known: Known) -> None:
    at, table = _somewhere(numbers)
    holds, lacking = holds_of(numbers, known)
    assert not lacking
    gauge = gauged(at, table, Places.of(table), holds)
    assert gauge.at.body_place == pytest.approx(np.array([TAGS[n][1] for n in numbers]), abs=0.05)
    assert max(miss for _, miss in gauge.off) < 0.05


@pytest.mark.parametrize(
    ("numbers", "words"),
    [
        ((0, 1), "how high"),
        ((0, 290, 291, 292), "where the front axle is"),
        ((290, 291, 292, 310), "where the front axle is"),
    ],
)
def test_what_is_lacking_is_said(numbers: tuple[int, ...], words: str) -> None:
    assert words in holds_of(numbers, Known({}))[1]


def test_holds_that_contradict_are_told_by_how_much() -> None:
    at, table = _somewhere((0, 1, 270, 271, 272, 273, 310, 311))
    holds, _ = holds_of(table.bodies, Known({0: (940.0, -200.0, 380.0)}, (320.0, 350.0)))
    assert dict(gauged(at, table, Places.of(table), holds).off)["tag 0 as typed"] > 5.0


def test_three_places_in_one_line_hold_nothing() -> None:
    at, table = _somewhere((0, 1, 270))
    line = {0: (500.0, 0.0, 300.0), 1: (1000.0, 0.0, 300.0), 270: (1500.0, 0.0, 300.0)}
    straight = replace(at, body_place=np.array(list(line.values())), body_turn=np.array([facing((0, 0, -1))] * 3))
    straight.body_place[2] -= straight.body_turn[2] @ np.array([0, 40.0, 0])  # a rail's place is its upper border
    holds, lacking = holds_of(table.bodies, Known(line))
    assert not lacking
    with pytest.raises(InputError, match="leaves a way open"):
        gauged(straight, table, Places.of(table), holds)


def test_the_doubt_of_the_whole_is_that_of_its_holds() -> None:
    """Four places typed to 1 mm each, drawn again 400 times: a place's own scatter is what the holds' doubts say."""
    numbers, rng, off = (0, 1, 270, 271, 272, 273), np.random.default_rng(5), []
    at, table = _somewhere(numbers)
    # a rail's place is its upper border
    real = {n: np.array(TAGS[n][1]) + TAGS[n][0] @ np.array([0, 40.0, 0]) for n in numbers[2:]}
    for _ in range(400):
        typed = {n: tuple(real[n] + rng.normal(0, 1.0, 3)) for n in real}
        holds, _ = holds_of(numbers, Known(typed, by_tags=False))
        gauge = gauged(at, table, Places.of(table), holds)
        off.append(gauge.at.body_place[1] - TAGS[1][1])
    place = np.array(TAGS[1][1])
    by = np.hstack([-skew(place), np.eye(3)])
    assert np.cov(np.array(off).T) == pytest.approx(by @ gauge.whole @ by.T, abs=0.08)
    assert gauge.whole_mm(place[None]) == pytest.approx(
        np.sqrt(np.linalg.eigvalsh(np.cov(np.array(off).T))[-1]), rel=0.15
    )
