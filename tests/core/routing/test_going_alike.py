"""When a better way counts as the same way, and which misses are shown: what does not meet both ends is none."""

from types import SimpleNamespace

import numpy as np
import pytest

from widebend.core.laying import LaidPiece
from widebend.core.pathfinding import MISFITS_BELOW, RouteCandidate
from widebend.core.records import Straight, Tube
from widebend.core.routing import Side
from widebend.core.routing.rerouting import _goes_alike
from widebend.core.routing.searching import ALIKE_MM, _distinct
from widebend.core.routing.wayfinding import _same
from widebend.core.space import pose


def _past(*sides: str) -> SimpleNamespace:
    return SimpleNamespace(sides=tuple(Side(*s.split(":"), "x") for s in sides))


@pytest.mark.parametrize(
    ("new", "drawn", "alike"),
    [
        (("over:axle",), ("over:axle", "left of:shaft"), True),
        (("under:axle",), ("over:axle",), False),
        (("under:axle",), ("through:axle",), True),  # drawn through it: any side is a mend
        (("right of:well",), ("over:axle",), True),
    ],
)
def test_the_same_way_is_the_same_side_of_what_both_pass(new: tuple, drawn: tuple, alike: bool) -> None:
    assert _goes_alike(_past(*new), _past(*drawn)) is alike


def test_a_miss_that_does_not_meet_both_ends_is_not_shown() -> None:
    line = np.array([(0.0, 0, 0), (10, 0, 0), (20, 5, 0), (30, 5, 0)])
    near, misfit = (RouteCandidate(line, np.full(2, 9.0), 100.0, spare) for spare in (-3.0, -MISFITS_BELOW - 2.0))
    assert _distinct([misfit, near]) == [near]


def _laid(bow_mm: float, *, from_set: bool = False) -> SimpleNamespace:
    """A way of two straights that bows out so far to the side."""
    ends = [pose(p, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)) for p in ((0, 0, 0), (500, bow_mm, 0), (1000, 0, 0))]
    leg, tube = Straight(id="p", length_mm=1.0), Tube(od_mm=60.0, wall_mm=1.5)
    laid = tuple(LaidPiece(leg, n, ends[n], ends[n + 1], tube) for n in (0, 1))
    return SimpleNamespace(bends=1, answer=SimpleNamespace(from_set=from_set), laid=laid)


def test_ways_that_are_nowhere_far_apart_are_one() -> None:
    assert _same(_laid(0.0), _laid(ALIKE_MM - 5.0))
    assert not _same(_laid(0.0), _laid(ALIKE_MM + 25.0))
    assert not _same(_laid(0.0), _laid(0.0, from_set=True))  # angles of the set are worth showing beside
