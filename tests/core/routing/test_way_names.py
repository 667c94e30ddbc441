"""What names a way: windows it comes through, sides of what it clings to; and that a side or a window can be shut."""

import numpy as np
import pytest

from widebend.core.errors import EditError
from widebend.core.laying import LaidPiece, lay_pieces, obstacles
from widebend.core.records import Box, Rules, Straight, Survey, Thing, Tube, Window
from widebend.core.routing.names import how_it_goes, shut, sides_of
from widebend.core.space import pose
from widebend.demo.examples import first_job

RULES = Rules()
WALL = Thing(id="wall", name="wall", shape=Box(center=(500.0, 0.0, 300.0), size=(40.0, 800.0, 300.0)))
SLOT = Window(
    id="slot",
    name="slot",
    center=(500.0, 0.0, 300.0),
    axis=(1.0, 0.0, 0.0),
    reference=(0.0, 0.0, 1.0),
    outline=((-80, -60), (80, -60), (80, 60), (-80, 60)),
    thickness_mm=40.0,
    through="wall",
)


def _straight(y: float, z: float) -> tuple[LaidPiece, ...]:
    start = pose((0.0, y, z), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    return lay_pieces(start, [Straight(id="p1", length_mm=1000.0)], first_job(), Tube(od_mm=63.5, wall_mm=1.5))


def _around(*things: Thing) -> list:
    return obstacles(Survey(things=things), RULES)


def _bar(name: str, y: float, z: float, wide: float) -> Thing:
    return Thing(id=name, name=name, shape=Box(center=(500.0, y, z), size=(wide, wide, wide)))


@pytest.mark.parametrize(
    ("y", "z", "goes"),
    [
        (0.0, 600.0, "over the bar"),
        (0.0, 200.0, "under the bar"),
        (-150.0, 400.0, "left of the bar"),
        (150.0, 400.0, "right of the bar"),
        (10.0, 410.0, "through the bar"),
        (0.0, 900.0, ""),
    ],
)
def test_a_way_is_named_by_the_side_of_what_it_passes(y: float, z: float, goes: str) -> None:
    assert how_it_goes(sides_of(_straight(y, z), _around(_bar("bar", 0.0, 400.0, 100.0)), ())) == goes


def test_what_it_clings_to_comes_before_what_is_bigger_and_far_off() -> None:
    near, big = _bar("hose", 0.0, 410.0, 100.0), _bar("well", 0.0, 650.0, 200.0)
    assert how_it_goes(sides_of(_straight(0.0, 300.0), _around(big, near), ())).startswith("under the hose")


def test_a_window_it_comes_through_names_it_and_not_what_that_is_cut_out_of() -> None:
    around = obstacles(Survey(things=(WALL,), windows=(SLOT,)), RULES)
    assert [s.words for s in sides_of(_straight(20.0, 310.0), around, (SLOT,))] == ["through the slot"]
    assert [s.words for s in sides_of(_straight(200.0, 310.0), around, (SLOT,))] == ["through the wall"]


def test_a_shut_window_fills_its_opening_and_no_more() -> None:
    around = obstacles(Survey(things=(WALL,), windows=(SLOT,)), RULES)
    plug = shut(["through:slot"], around, (SLOT,))
    assert len(plug) == 1
    whole = shut(["over:wall", "through:slot"], around, (SLOT,))
    assert len(whole) == 2
    np.testing.assert_array_equal(whole[1], plug[0])


def test_a_side_of_a_thing_is_shut_though_a_window_has_the_same_name() -> None:
    same = SLOT.replace(id="wall")
    np.testing.assert_array_equal(shut(["over:wall"], _around(WALL), (same,)), shut(["over:wall"], _around(WALL), ()))
    with pytest.raises(EditError, match="names no side"):
        shut(["over:slot"], _around(WALL), (SLOT,))


def test_what_is_not_there_cannot_be_shut() -> None:
    with pytest.raises(EditError, match="names no side"):
        shut(["over:gone"], _around(WALL), ())
    with pytest.raises(EditError, match="names no side"):
        shut(["beside:wall"], _around(WALL), ())
