"""What follows for the rest: errors put in on purpose are answered by the least change that takes them up."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from widebend.core.fitting import Found, Spreads, built, chain_of, corrections, spreads_of
from widebend.core.laying import system_of
from widebend.demo.examples import cat_back

PLAN = chain_of(cat_back(), system_of(cat_back()).runs[0])
END = built(PLAN, np.zeros((len(PLAN.steps), 5)))[-1]


def _found(**errors: float) -> Found:
    """The run as it would be found with some errors: `s3_0` is what step 3's size is off."""
    real = np.zeros((len(PLAN.steps), 5))
    for key, value in errors.items():
        step, column = key[1:].split("_")
        real[int(step), int(column)] = value
    return Found(PLAN, real, built(PLAN, real), np.diag(spreads_of(PLAN, Spreads()).ravel() ** 2), ())


def test_what_went_as_planned_needs_nothing() -> None:
    (answer,) = corrections(_found(), 4, END, 10.0)
    assert (answer.way, answer.changes, answer.fits) == ("as planned", (), True)


def test_a_straight_cut_short_is_made_up_by_the_next_one_that_runs_alike() -> None:
    """Piece 5 came 4 mm short; piece 7 runs the same way, so it is cut that much longer."""
    answer = corrections(_found(s4_0=-4.0), 5, END, 10.0)[-1]
    assert answer.way == "lengths"
    (change,) = answer.changes
    assert (change.piece, change.what) == (6, "length")
    assert change.now - change.was == pytest.approx(4.0, abs=0.05)


def test_a_bend_that_came_out_wrong_needs_more_and_says_what() -> None:
    found = _found(s7_0=1.5, s4_0=2.0)
    answers = corrections(found, 8, END, 10.0)
    ways = [answer.way for answer in answers]
    assert ways[:2] == ["as planned", "lengths"]
    assert not answers[0].fits
    assert answers[-1].fits
    assert answers[-1].changes
    again = built(replace(answers[-1].plan, start=found.frames[8], steps=answers[-1].plan.steps[8:],
                          trims=answers[-1].plan.trims[8:]), np.zeros((len(PLAN.steps) - 8, 5)))  # fmt: skip
    assert np.linalg.norm(again[-1][:, 3] - END[:, 3]) == pytest.approx(answers[-1].miss_mm)


def test_a_trimmed_face_says_how_much_comes_off_and_where() -> None:
    answers = corrections(_found(s9_0=1.0), 10, END, 10.0)
    trims = [change for answer in answers for change in answer.changes if change.what == "trim"]
    assert trims
    for one in trims:
        assert 0 < one.now <= 3.0 * 2**0.5
        assert one.round_mm == pytest.approx(np.radians(one.now) * 63.5)


def test_with_everything_tacked_only_what_is_missed_is_said() -> None:
    (*_, answer) = corrections(_found(s9_0=1.0), len(PLAN.steps), END, 10.0)
    assert not answer.changes
    assert answer.miss_mm > 0.8
