"""Two walls right across, a round hole in one, two slots in the other: named, ordered, shut, kept clear of."""

import numpy as np
import pytest

from tests.walls import walls
from widebend.core.errors import EditError
from widebend.core.laying import spaced
from widebend.core.review import review
from widebend.core.routing import Proposal, Wish, seek, taken

WALLS = walls()


def _crossing(way: Proposal, x: float) -> np.ndarray:
    """Where a way comes through the plane so far back: (across, up) [mm]; it does so once."""
    points = np.concatenate([spaced(p, 1.0) for p in way.laid])
    n = int(np.argmin(np.abs(points[:, 0] - x)))
    return points[n, 1:]


def test_different_windows_are_different_ways() -> None:
    found = seek(WALLS, "r1", Wish(0)).found
    assert {"through the round hole, through the right slot"} <= {way.goes for way in found}
    assert len({way.goes for way in found}) > 1


def test_windows_wished_are_come_through_clear_of_their_edges() -> None:
    """Off the middle of the hole by less than its radius less the tube's and the gap; the review has nothing to say."""
    found = seek(WALLS, "r1", Wish(0, through=("round-hole", "left-slot")))
    assert found.found
    for number, way in enumerate(found.found):
        room = 65.0 - 63.5 / 2 - float(WALLS.settings.rules.hard_gap_mm)
        assert np.linalg.norm(_crossing(way, 1945.0) - (-60.0, 290.0)) <= room + 1.0
        assert np.all(np.abs(_crossing(way, 2355.0) - (-200.0, 300.0)) <= np.array([80.0, 65.0]) - 63.5 / 2)
        assert not [f for f in review(taken(WALLS, "r1", found, number)).findings if f.code in ("touches", "tight")]


def test_a_window_that_is_shut_leaves_the_others() -> None:
    found = seek(WALLS, "r1", Wish(0, avoid=("through:right-slot",))).found
    assert found
    assert all("right slot" not in way.goes for way in found)
    assert any("left slot" in way.goes for way in found)


def test_the_wrong_order_says_that_the_other_goes() -> None:
    with pytest.raises(EditError, match="The other way round there is a way"):
        seek(WALLS, "r1", Wish(0, through=("right-slot", "round-hole")))
