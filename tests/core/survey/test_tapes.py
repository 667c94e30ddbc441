"""Tapes to marks: against scipy's least squares, by simulated surveys, and by what is refused."""

import numpy as np
import pytest
from scipy.optimize import least_squares

from tests.tape_layouts import LAYOUTS, coverage
from widebend.core.errors import InputError
from widebend.core.survey import TapeMark, from_tapes


@pytest.mark.parametrize("name", [n for n, (marks, _) in LAYOUTS.items() if len(marks) > 3])
def test_the_place_is_that_of_a_reference_library(name: str) -> None:
    """scipy.optimize.least_squares on the same tapes, 20 surveys a layout."""
    rng = np.random.default_rng(4)
    places, point = (np.array(x, dtype=float) for x in LAYOUTS[name])
    for _ in range(20):
        tapes = np.linalg.norm(point - places, axis=1) + rng.normal(size=len(places))
        marks = [TapeMark(str(i), p) for i, p in enumerate(places)]

        def residuals(x: np.ndarray, tapes: np.ndarray = tapes) -> np.ndarray:
            return np.linalg.norm(x - places, axis=1) - tapes

        theirs = least_squares(residuals, point, xtol=1e-12, ftol=1e-12).x
        ours = from_tapes(marks, list(tapes), 2.0)
        assert ours.checked
        assert min(np.linalg.norm(fix.point - theirs) for fix in ours.answers) < 1e-4


def test_three_tapes_give_a_place_and_its_mirror_image() -> None:
    places, point = (np.array(x, dtype=float) for x in LAYOUTS["three, well spread"])
    tapes = np.linalg.norm(point - places, axis=1)
    found = from_tapes([TapeMark(str(i), p) for i, p in enumerate(places)], list(tapes), 2.0)
    normal = np.cross(places[1] - places[0], places[2] - places[0])
    normal /= np.linalg.norm(normal)
    mirror = point - 2 * ((point - places[0]) @ normal) * normal
    lower, higher = sorted((point, mirror), key=lambda p: p[2])
    assert not found.checked
    assert np.allclose(found.answers[0].point, lower, atol=1e-6)
    assert np.allclose(found.answers[1].point, higher, atol=1e-6)


@pytest.mark.parametrize(("name", "seed"), [("four, well spread", 21), ("three, close together", 22)])
def test_the_stated_doubt_holds_about_95_in_100(name: str, seed: int) -> None:
    """400 simulated surveys; by chance alone the share lies within 0.92 and 0.975 in 99 of 100 such tests.

    bench tapes prints 2,000 for every layout.
    """
    assert 0.92 <= coverage(name, 400, seed) <= 0.975


def test_a_tape_that_does_not_agree_is_named() -> None:
    places, point = (np.array(x, dtype=float) for x in LAYOUTS["five, round about"])
    tapes = np.linalg.norm(point - places, axis=1)
    tapes[2] += 40.0  # a wild tape drags the place along, so more than its own residual is large
    best = from_tapes([TapeMark(f"mark {i}", p) for i, p in enumerate(places)], list(tapes), 2.0).answers[0]
    assert not best.agrees
    assert any("the tapes do not agree" in words and "Read it again" in words for words in best.said)


def test_badly_placed_marks_are_said() -> None:
    places, point = (np.array(x, dtype=float) for x in LAYOUTS["point nearly in the marks' plane"])
    tapes = np.linalg.norm(point - places, axis=1)
    best = from_tapes([TapeMark(str(i), p) for i, p in enumerate(places)], list(tapes), 2.0).answers[0]
    assert any("badly placed" in words and "up and down" in words for words in best.said)


@pytest.mark.parametrize(
    ("marks", "tapes", "words"),
    [
        ([(0, 0, 0), (1, 0, 0)], [5, 5], "not enough"),
        ([(0, 0, 0), (500, 0, 0), (900, 0, 0)], [400, 300, 600], "one line"),
        ([(0, 0, 0), (500, 8, 0), (900, 0, 0)], [400, 300, 600], "nearly in one line"),
        ([(0, 0, 0), (900, 0, 0), (0, 900, 0)], [100, 100, 900], "cannot meet"),
        ([(0, 0, 0), (900, 0, 0), (0, 900, 0)], [0, 700, 900], "more than nothing"),
    ],
)
def test_what_cannot_be_is_refused(marks: list, tapes: list, words: str) -> None:
    with pytest.raises(InputError, match=words):
        from_tapes([TapeMark(str(i), np.array(m, dtype=float), 2.0) for i, m in enumerate(marks)], tapes, 2.0)
