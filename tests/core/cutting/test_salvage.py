"""What a job takes besides cut metal, and what a piece that went wrong can still be (common practice, no source)."""

from __future__ import annotations

import pytest

from widebend.core.cutting import CutPiece, cut_lists, fittings, rescue
from widebend.core.laying import system_of
from widebend.core.records import Attachment, Bend, Design, Joint, Rules, SegmentedBend, Straight
from widebend.core.units import Length
from widebend.demo.examples import cat_back
from widebend.demo.systems import twin_x


def _cuts(design: Design) -> list[CutPiece]:
    runs = [r for r in system_of(design).runs if r.pieces]
    return [cut for cuts in cut_lists(design, runs) for cut in cuts.pieces]


def _with(*pieces: object, joints: tuple[Joint, ...] = ()) -> Design:
    base = cat_back()
    run = base.runs[0].replace(pieces=pieces, joints=joints, aim=None)
    return base.replace(runs=(run,))


LONG, SHORT = Straight(id="a", length_mm=Length(400)), Straight(id="c", length_mm=Length(150))
BEND = Bend(id="b", angle_deg=45.0, clr_mm=Length(95.25), roll_deg=0.0)


def test_every_joint_and_part_is_on_the_list_once() -> None:
    joints = (Joint(after="a", kind="v-band"), Joint(after="b", kind="flange"))
    found = fittings(_with(LONG, BEND, SHORT, joints=joints), system_of(_with(LONG, BEND, SHORT, joints=joints)).runs)
    words = {f.words: f.count for f in found}
    assert words["V-band, two halves and its clamp"] == words["flange, a pair with gasket and bolts"] == 1
    assert sum(f.count for f in found if not f.od_mm) == len(cat_back().parts) + words.get("sensor boss", 0)
    crossing = [f for f in fittings(twin_x(), system_of(twin_x()).runs) if f.note]
    assert crossing and "sliced lengthwise" in crossing[0].note


def test_a_flange_that_meets_a_flange_takes_one() -> None:
    """The start is a flange part: its other half is what the joint takes."""
    design = _with(LONG, joints=(Joint(after="start", kind="flange"),))
    found = [f.words for f in fittings(design, system_of(design).runs) if f.od_mm]
    assert found == ["flange, one with gasket and bolts"]


def test_a_flange_against_the_vehicles_own_takes_its_gasket_and_a_kept_part_is_not_bought() -> None:
    """A start flange that pipe is welded to is bolted to what the vehicle has; a boss is bought for each sensor."""
    boss = Attachment(id="s1", kind="boss", run="r1", piece="a", along_mm=Length(50))
    design = _with(LONG).replace(attachments=(boss,))
    words = {f.words: f.count for f in fittings(design, system_of(design).runs)}
    assert words["gasket and bolts for a flange"] == words["sensor boss"] == 1
    kept = design.replace(parts=tuple(p.replace(kept=True) for p in design.parts))
    names = {f.words for f in fittings(kept, system_of(kept).runs)}
    assert not names & {p.name or p.item.kind for p in design.parts}
    assert "gasket and bolts for a flange" in names  # new ones all the same


@pytest.mark.parametrize(
    ("what", "by", "says"),
    [
        ("clock", 0.0, "turn it to its mark"),
        ("long", 8.0, "cut 8 mm off"),
        ("short", 30.0, "ring of 30 mm in"),
        ("short", 6.0, "too short to hold"),
        ("spoilt", 0.0, "take another from stock"),
    ],
)
def test_what_can_be_saved_is_said(what: str, by: float, says: str) -> None:
    first = _cuts(_with(LONG))[0]
    assert any(says in words for words in rescue(first, what, by, [], Rules()))


def test_a_short_straight_serves_where_it_is_long_enough_and_a_slip_takes_up_what_it_can() -> None:
    slices = SegmentedBend(id="b", slices=3, turn_each_deg=15.0, clr_mm=Length(95.25), roll_deg=0.0)
    cuts = [c for c in _cuts(_with(LONG, slices, SHORT)) if c.kind == "straight"]
    assert f"it still makes piece {cuts[1].number}" in rescue(cuts[0], "short", 100.0, cuts, Rules())
    assert not any("still makes" in words for words in rescue(cuts[0], "short", 300.0, cuts, Rules()))
    slipped = _cuts(_with(LONG, joints=(Joint(after="a", kind="slip", overlap_mm=Length(45)),)))[0]
    assert "overlap are left" in rescue(slipped, "short", 15.0, [], Rules())[0]
    assert not any("overlap" in words for words in rescue(slipped, "short", 30.0, [], Rules()))


def test_a_bend_that_turns_too_much_is_cut_again_by_its_own_marks() -> None:
    """5 deg more off a 95.25 radius in 63.5 tube: 127 and 63.5 mm times the angle."""
    bend = next(c for c in _cuts(_with(LONG, BEND)) if c.kind == "bend")
    assert "11.1 mm along the heel, 5.5 mm along the throat" in rescue(bend, "much", 5.0, [], Rules())[0]
