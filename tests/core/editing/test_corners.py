"""Dragging a corner: by hand on a plain S, and on random runs what must stay stays."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.editing import corners, drag_corner
from widebend.core.errors import EditError
from widebend.core.hardware import shelf
from widebend.core.laying import lay_run
from widebend.core.records import Bend, Design, InLine, Part, Piece, Placed, Run, SegmentedBend, Straight, Tube
from widebend.core.units import Length
from widebend.demo.examples import cat_back

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


def _run(*pieces: Piece, parts: tuple[Part, ...] = ()) -> Design:
    start = Part(
        id="s",
        item=shelf.start_flange(63.5),
        placed=Placed(point=(Length(0), Length(0), Length(300)), axis=(1.0, 0.0, 0.0)),
    )
    return Design(parts=(start, *parts), runs=(Run(id="r1", start="s.out", tube=TUBE, pieces=pieces),))


def _leg(name: str, long: float, locked: bool = False) -> Straight:
    return Straight(id=name, length_mm=Length(long), locked=locked)


def _bend(name: str, deg: float, roll: float) -> Bend:
    return Bend(id=name, angle_deg=deg, clr_mm=Length(95.25), roll_deg=roll)


def _laid(design: Design):
    found = lay_run(design, design.runs[0])
    assert found is not None
    return found


LONG = (
    _leg("a", 400),
    _bend("b", 30, 90),
    _leg("c", 500),
    _bend("d", 45, 200),
    _leg("e", 500),
    _bend("f", 40, -30),
    _leg("g", 500),
    _bend("h", 60, 10),
    _leg("i", 400),
    _bend("j", 25, 120),
    _leg("k", 400),
)


def test_an_s_keeps_its_first_corner_on_the_start_axis() -> None:
    """A flat S of two 45s: sliding its first corner back 50 mm makes the leg between shorter and the turn sharper."""
    design = _run(_leg("a", 300), _bend("b", 45, 90), _leg("c", 400), _bend("d", 45, -90), _leg("e", 300))
    before = corners(_laid(design))
    moved = drag_corner(design, "r1", "b", (50.0, 80.0, 10.0))
    after = corners(_laid(moved))
    assert np.allclose(after[0].point, before[0].point + np.array([50, 0, 0]), atol=1e-6)
    assert np.allclose(after[1].point, before[1].point, atol=1e-6)
    assert np.allclose(_laid(moved).end.point, _laid(design).end.point, atol=1e-6)
    off = before[1].point - after[0].point
    wanted = np.degrees(np.arctan2(off[1], off[0]))
    assert moved.runs[0].pieces[1].angle_deg == pytest.approx(wanted, abs=1e-9)


@given(st.tuples(*[st.floats(-60, 60) for _ in range(3)]), st.sampled_from(["d", "f", "h"]))
@settings(max_examples=60, deadline=None)
def test_only_the_dragged_corner_moves(by: tuple[float, float, float], name: str) -> None:
    design = _run(*LONG)
    before, end = corners(_laid(design)), _laid(design).end
    moved = drag_corner(design, "r1", name, by)
    after = _laid(moved)
    for old, new in zip(before, corners(after), strict=True):
        same = np.asarray(by) if design.runs[0].pieces[old.piece].id == name else np.zeros(3)
        assert np.allclose(new.point, old.point + same, atol=1e-6)
    assert np.allclose(after.end.point, end.point, atol=1e-6)
    assert np.allclose(after.end.flow, end.flow, atol=1e-9)


def test_hardware_in_the_line_and_slices_far_off_keep_their_place() -> None:
    """On the demo cat-back the catalyst between two corners stays on its straight; slices beyond stay as they lay."""
    design = cat_back()
    laid = _laid(design)
    moved = drag_corner(design, "r1", "p8", (0.0, 15.0, 8.0))
    after = _laid(moved)
    assert np.allclose(after.end.point, laid.end.point, atol=1e-6)
    pie = SegmentedBend(id="z", slices=5, turn_each_deg=9.0, clr_mm=Length(95.25), roll_deg=70.0, roll_each_deg=4.0)
    far = _run(*LONG[:7], pie, _leg("y", 200))
    assert np.allclose(_laid(drag_corner(far, "r1", "b", (20, 0, 0))).end.point, _laid(far).end.point, atol=1e-6)


def test_what_cannot_be_dragged_is_said() -> None:
    design = _run(_leg("a", 300), _bend("b", 45, 90), _leg("c", 10), _bend("d", 45, -90), _leg("e", 300))
    with pytest.raises(EditError, match="too little straight"):
        drag_corner(design, "r1", "b", (60, 0, 0))
    with pytest.raises(EditError, match="choose a bend"):
        drag_corner(design, "r1", "a", (10, 0, 0))
    with pytest.raises(EditError, match="both ends hold it"):
        drag_corner(_run(_leg("a", 300), _bend("b", 45, 90), _leg("c", 300)), "r1", "b", (10, 0, 0))
    locked = _run(*(p.replace(locked=p.id == "d") for p in LONG))
    with pytest.raises(EditError, match="piece 4 is locked"):
        drag_corner(locked, "r1", "b", (10, 0, 0))
    turn = _run(_leg("a", 300), _bend("b", 170, 90), _leg("c", 300), _bend("d", 45, -90), _leg("e", 300))
    with pytest.raises(EditError, match="no corner to answer"):
        drag_corner(turn, "r1", "d", (10, 0, 0))


def test_a_straight_part_between_corners_needs_a_straight_that_gives() -> None:
    can = Part(id="can", item=shelf.can("resonator", "can", 63.5, (300, 100, 100)))
    design = _run(
        _leg("a", 300),
        _bend("b", 30, 90),
        InLine(id="c", part="can"),
        _bend("d", 30, -90),
        _leg("e", 300),
        parts=(can,),
    )
    longer = drag_corner(design, "r1", "b", (-40, 0, 0))
    assert [p.kind for p in longer.runs[0].pieces] == ["leg", "bend", "leg", "part", "bend", "leg"]
    assert np.allclose(_laid(longer).end.point, _laid(design).end.point, atol=1e-6)
