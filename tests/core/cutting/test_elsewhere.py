"""Where else a piece fits: worked by hand on small runs."""

import pytest

from tests.core.cutting.test_cutting import STOCK, _bend, _design, _leg
from widebend.core.cutting import CutPiece, came_out, cut_list, fit
from widebend.core.cutting.lists import heel_and_throat
from widebend.core.cutting.reuse import Fit
from widebend.core.laying import lay_run


def _cut(*pieces) -> tuple[CutPiece, ...]:  # type: ignore[no-untyped-def]
    design, run = _design(pieces, stock=STOCK)
    return cut_list(design, lay_run(design, run)).pieces


def _bend_alone(angle: float) -> CutPiece:
    return next(c for c in _cut(_bend(angle)) if c.kind == "bend")


def _goes_in_whole(found: Fit) -> bool:
    return not found.is_trimmed and not found.is_shortened


def test_a_straight_too_short_makes_a_shorter_one() -> None:
    long, short = (_cut(_leg(mm, "l"))[0] for mm in (400.0, 250.0))
    came = came_out(long, "short", 60.0)
    assert fit(came, short).off_mm == pytest.approx(90.0)
    assert fit(came, long) is None
    assert _goes_in_whole(fit(came_out(short, "long", 0.3), short))


def test_a_bend_that_turns_too_much_is_trimmed_for_another() -> None:
    """40 deg came out of 36: it makes 30 with 10 deg off, and 40 as it is; never one of 44."""
    came = came_out(_bend_alone(36.0), "much", 4.0)
    thirty = fit(came, _bend_alone(30.0))
    assert thirty.off_deg == pytest.approx(10.0)
    assert (thirty.heel_mm, thirty.throat_mm) == pytest.approx(heel_and_throat(95.25, 63.5, 10.0))
    assert _goes_in_whole(fit(came, _bend_alone(40.0)))
    assert fit(came, _bend_alone(44.0)) is None


def test_a_leg_that_is_wanted_must_be_there_on_either_end() -> None:
    """A bend that keeps 64 mm ahead serves one that wants 64 behind, turned end for end; not one that wants both."""
    ahead = next(c for c in _cut(_leg(64.0, "a"), _bend(45.0)) if c.kind == "bend")
    behind = next(c for c in _cut(_bend(45.0), _leg(64.0, "z")) if c.kind == "bend")
    both = next(c for c in _cut(_leg(64.0, "a"), _bend(45.0), _leg(64.0, "z")) if c.kind == "bend")
    came = came_out(ahead, "clock", 0.0)
    assert came.legs_mm == (64.0, 0.0)
    assert _goes_in_whole(fit(came, ahead))
    assert fit(came, behind).turned
    assert fit(came, both) is None
    assert fit(came, _bend_alone(45.0)).off_mm == pytest.approx(64.0)


def test_what_is_spoilt_or_not_said_makes_nothing() -> None:
    bend, bar = _bend_alone(45.0), _cut(_leg(300.0, "l"))[0]
    assert came_out(bend, "spoilt", 0.0) is None
    assert came_out(bend, "much", 0.0) is None
    assert came_out(bar, "short", 400.0) is None
    assert fit(came_out(bar, "long", 5.0), bend) is None
