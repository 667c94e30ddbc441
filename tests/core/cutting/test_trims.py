"""Trims, darts and slices against the reference's worked values, and against turning the pipe itself."""

import json
import math
from pathlib import Path

import numpy as np
import pytest

from tests.core.cutting.test_cutting import _design
from widebend.core.cutting import (
    cut_list,
    dart,
    off_at,
    out_of_reach,
    slice_bend,
    stepped,
    tilt_by_cut,
    tilt_by_flip,
    tilt_by_reclocking,
    tilt_from_gap,
    tilt_from_offset,
)
from widebend.core.cutting.stepped_slices import Stepped
from widebend.core.errors import InputError
from widebend.core.laying import angle_between, lay_pieces, lay_run, system_of
from widebend.core.records import Bend, Design, Equipment, Piece, SegmentedBend, Straight, Tube
from widebend.core.review import off_the_table, sections
from widebend.core.space import pose
from widebend.core.templates import Paper, dart_wrap
from widebend.core.units import Length
from widebend.demo.systems import twin_x

DATA = Path(__file__).parents[2] / "outside" / "data" / "reference.json"
ROWS = {r["id"]: r for r in json.loads(DATA.read_text())}
TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
START = pose(np.zeros(3), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))


def test_the_flip_rule() -> None:
    """A cut at a turns the rest by 2 a: reference A104."""
    row = ROWS["A104"]
    assert tilt_by_flip(63.5, row["value"]).cut_deg == pytest.approx(row["inputs"]["cut"])


@pytest.mark.parametrize("name", ["A079", "A080", "A081"])
def test_what_a_slanted_cut_takes_off(name: str) -> None:
    given, (_, high) = ROWS[name]["inputs"], ROWS[name]["value"]
    assert tilt_by_cut(given["D"], given["cut"]).most_mm == pytest.approx(high, abs=1e-4)
    assert off_at(given["D"], given["cut"], 0.0) == pytest.approx(high, abs=1e-4)
    assert off_at(given["D"], given["cut"], 180.0) == pytest.approx(0.0, abs=1e-9)


def test_a_rest_turned_round_tilts_its_end() -> None:
    """The end's direction before and after turning what is behind the cut, by laying both."""
    for rest, tilt in ((90.0, 3.0), (40.0, 5.0), (25.0, 12.0)):
        turn = tilt_by_reclocking(63.5, rest, tilt).turn_deg
        bends = [Bend(id="b", angle_deg=rest, clr_mm=Length(95.25), roll_deg=r) for r in (0.0, turn)]
        ends = [lay_pieces(START, [bend], Design(), TUBE)[-1].outlet for bend in bends]
        assert angle_between(ends[0].flow, ends[1].flow) == pytest.approx(tilt, abs=1e-9)
    with pytest.raises(InputError, match="at most"):
        tilt_by_reclocking(63.5, 4.0, 20.0)


def test_backwards_from_a_finding_and_a_gap() -> None:
    """4 mm at 400 mm behind the cut; a gap of 3.5 mm over a 100 mm face: by their own triangles."""
    tilt = tilt_from_offset(4.0, 400.0)
    assert 2 * 400.0 * math.sin(math.radians(tilt) / 2) == pytest.approx(4.0)
    assert math.tan(math.radians(tilt_from_gap(4.0, 0.5, 100.0))) == pytest.approx(0.035)
    for wrong in (
        lambda: tilt_from_offset(50.0, 20.0),
        lambda: tilt_from_gap(1.0, 2.0, 100.0),
        lambda: tilt_by_cut(63.5, 60.0),
    ):
        with pytest.raises(InputError):
            wrong()


def test_a_dart_closes_to_its_turn() -> None:
    """Both faces of the slot lie in planes through the hinge that stand the turn apart."""
    slot = dart(63.5, 6.0, 15.0)
    assert 2 * math.degrees(math.atan(slot.wide_mm / 2 / slot.deep_mm)) == pytest.approx(6.0)
    edge = dart_wrap(63.5, 6.0, 15.0, Paper(0.0)).strokes[0].points
    assert np.ptp(edge[:, 1]) == pytest.approx(slot.wide_mm)
    assert np.abs(edge[:, 0]).max() == pytest.approx(slot.round_mm)
    across = 31.75 * np.cos(edge[:, 0] / 31.75) - (31.75 - slot.deep_mm)
    assert np.abs(edge[:, 1]) == pytest.approx(np.maximum(0, across) * math.tan(math.radians(3.0)), abs=1e-9)
    for turn, left in ((40.0, 10.0), (5.0, 0.0), (5.0, 70.0)):
        with pytest.raises(InputError):
            dart(63.5, turn, left)


@pytest.mark.parametrize(
    ("name", "half"), [("A049", False), ("A050", True), ("A052", False), ("A053", True), ("A055", True)]
)
def test_bends_of_slices_are_the_reference_wedges(name: str, half: bool) -> None:
    given, value = ROWS[name]["inputs"], ROWS[name]["value"]
    made = slice_bend(given["D"], given["R"], given["theta"], given["n"], 0.0, half_ends=half)
    assert made.slices == value["full_wedges"]
    wanted = [value[k] for k in ("cut", "heel", "throat", "cl_tangent")]
    assert [made.cut_deg, made.heel_mm, made.throat_mm, made.middle_mm] == pytest.approx(wanted, abs=1e-5)
    assert made.half_mm == pytest.approx(value["half_cl"] if half else 0.0, abs=1e-5)
    assert made.tube_mm == pytest.approx(value["total_cl_circumscribed"], abs=1e-5)


def _follow(*pieces: Piece, turn: float = 9.0) -> Stepped:
    return stepped(lay_pieces(START, pieces, Design(), TUBE), 95.25, turn)


def test_ready_cut_slices_wind_up_in_line_and_step_for_a_twist() -> None:
    """A bend of the slices' own radius takes them in line; two bends 70 deg apart step them round."""
    wound = _follow(SegmentedBend(id="p", slices=6, turn_each_deg=15.0, clr_mm=Length(95.25)), turn=15.0)
    assert wound.steps_deg == pytest.approx([0.0] * 6, abs=0.01)
    assert wound.away_mm < 0.01
    assert wound.askew_deg < 0.01
    twist = _follow(
        Bend(id="a", angle_deg=60.0, clr_mm=Length(150.0)),
        Bend(id="b", angle_deg=60.0, clr_mm=Length(150.0), roll_deg=70.0),
    )
    assert twist.away_mm < 3.0
    assert twist.misses_mm < 1.0
    assert max(abs(s) for s in twist.steps_deg) > 10.0
    with pytest.raises(InputError, match="2 to 60"):
        _follow(Straight(id="l", length_mm=Length(3000.0)))


def test_a_section_longer_than_the_table_is_said_with_the_way_round() -> None:
    """By the box round the section, as the demo's twin is laid: its longest is 2.3 m."""
    design = twin_x()
    every = sections(design, system_of(design))
    longest = max(float(one.size_mm.max()) for one in every if one.pieces)
    assert off_the_table(every, Equipment()) == []
    assert off_the_table(every, Equipment(table_mm=longest + 1)) == []
    assert "tack it as two" in off_the_table(every, Equipment(table_mm=longest - 1))[0]


def test_what_the_saw_does_not_reach_is_said_with_the_way_round() -> None:
    """A slice of 15 deg is cut 7.5 off square; 63.5 mm tube is 64.05 across that cut (reference A079)."""
    design, run = _design([SegmentedBend(id="p", slices=2, turn_each_deg=15.0, clr_mm=Length(95.25))])
    cuts = cut_list(design, lay_run(design, run)).pieces
    assert out_of_reach(cuts, Equipment()) == []
    assert "more slices" in out_of_reach(cuts, Equipment(saw_mitre_deg=5.0))[0]
    assert "64 mm across its cut" in out_of_reach(cuts, Equipment(saw_across_mm=Length(64.0), saw_mitre_deg=45.0))[0]
    assert not out_of_reach(cuts, Equipment(saw_across_mm=Length(64.1)))
