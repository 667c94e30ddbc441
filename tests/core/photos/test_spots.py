"""Spots pointed at in photos whose places are known: against where they are, and what is refused."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests.photo_scenes import views
from widebend.core.errors import InputError
from widebend.core.photos import PlacedPhoto, lens_of, line_of_sight, seen_at, spot

LENS = lens_of(3000.0, 2000.0, 1500.0, -0.05, 0.02)


def _photos(count: int) -> list[PlacedPhoto]:
    return [
        PlacedPhoto(str(k), turn, -turn @ eye, LENS, 0.2)
        for k, (turn, eye) in enumerate(views(np.random.default_rng(3), count, 600.0))
    ]


def _at(photo: PlacedPhoto, place: np.ndarray) -> tuple[float, float]:
    x, y = seen_at(photo.turn @ place + photo.shift, photo.lens)
    return float(x), float(y)


def test_a_spot_is_where_opencv_triangulates_it() -> None:
    photos, place = _photos(2), np.array([300.0, 50.0, 420.0])
    sights = [(photo, _at(photo, place)) for photo in photos]
    camera = np.array([[3000.0, 0, 2000], [0, 3000, 1500], [0, 0, 1]])
    rays = [cv2.undistortPoints(np.array([[at]]), camera, np.array([-0.05, 0.02, 0, 0, 0]))[0, 0] for _, at in sights]
    theirs = cv2.triangulatePoints(
        *(np.column_stack([p.turn, p.shift]) for p in photos), rays[0][:, None], rays[1][:, None]
    )
    there = spot(sights)
    assert there.place == pytest.approx((theirs[:3] / theirs[3]).ravel(), abs=0.05)
    assert there.place == pytest.approx(place, abs=0.01)


def test_its_doubt_holds() -> None:
    """Fingers that are off as far as is said: three coordinates hold their 95 % in 93 to 97.5 of 100."""
    rng, photos, place = np.random.default_rng(4), _photos(4), np.array([280.0, -60.0, 400.0])
    inside = []
    for _ in range(400):
        sights = [(photo, tuple(np.array(_at(photo, place)) + rng.normal(0, 4.0, 2))) for photo in photos]
        there = spot(sights)
        inside.append(np.abs(there.place - place) < 1.96 * np.sqrt(np.diag(there.spread)))
    assert np.mean(inside) > 0.93


def test_a_line_of_sight_passes_the_spot() -> None:
    photos, place = _photos(2), np.array([300.0, 50.0, 420.0])
    line = line_of_sight(photos[0], _at(photos[0], place), photos[1])
    assert np.linalg.norm(line - _at(photos[1], place), axis=1).min() < 80.0


def test_sights_that_say_nothing_are_refused() -> None:
    photos, place = _photos(3), np.array([300.0, 50.0, 420.0])
    with pytest.raises(InputError, match="a second photo"):
        spot([(photos[0], (2000.0, 1500.0))])
    beside = PlacedPhoto("x", photos[0].turn, photos[0].shift + np.array([5.0, 0, 0]), LENS, 0.2)
    with pytest.raises(InputError, match="nearly the same place"):
        spot([(photos[0], _at(photos[0], place)), (beside, _at(beside, place))])
    off = (_at(photos[1], place)[0] + 400.0, _at(photos[1], place)[1] - 300.0)
    with pytest.raises(InputError, match="do not point at one place"):
        spot([(photos[0], _at(photos[0], place)), (photos[1], off), (photos[2], _at(photos[2], place))])
