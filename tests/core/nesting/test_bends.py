"""Bends in their stock: worked by hand, never from a wrong one, and what was measured of it changes the marks."""

import math

import pytest

from tests.core.cutting.test_cutting import _bend, _design, _leg
from widebend.core.cutting import cut_lists, cut_with_rests, on_bench
from widebend.core.cutting.lists import heel_and_throat
from widebend.core.laying import lay_run
from widebend.core.nesting import JOB_AIMS, Stocked, nest_bends, plan_of, rests_of_bends, within
from widebend.core.records import Fitted, StockBend, StockItem

BEND = {"kind": "bend", "od_mm": 63.5, "wall_mm": 1.5, "material": "304", "clr_mm": 95.25, "leg_mm": 100.0}


def _item(name: str, count: int, **more: object) -> Stocked:
    return Stocked(name, StockItem.model_validate(BEND | more), count)


def _planned(angles, shelf, aim="fewest welds"):  # type: ignore[no-untyped-def]
    pieces = [p for k, deg in enumerate(angles) for p in (_leg(150.0, f"l{k}"), _bend(deg, f"b{k}", 90.0 * (k % 4)))]
    nominal = tuple(StockBend(angle_deg=deg, clr_mm=95.25, leg_mm=100.0) for deg in (45, 90, 180))
    design, run = _design(pieces, stock=nominal)
    laid = lay_run(design, run)
    nests = nest_bends(design, [laid], shelf, aim, within(2.0))
    return design, laid, nests, plan_of(nests, [laid], 1.5)


def test_two_thirties_come_from_one_seventy_and_each_keeps_a_leg() -> None:
    """30 + 30 and a saw cut of 0.9 deg leave 9.1 of a 70 that lies there; nothing is bought."""
    design, laid, _, plan = _planned([30.0, 30.0], [_item("7", 1, angle_deg=70.0, bin="C1")])
    assert {source.item for source in plan.values()} == {"7"}
    assert sorted(source.whole_ends for source in plan.values()) == [1, 1]
    cuts, left = cut_with_rests(design, [laid], plan)
    bends = [c for c in cuts[0].pieces if c.marks]
    assert all(c.marks.keep_before_mm + c.marks.keep_after_mm == pytest.approx(100.0) for c in bends)
    assert "bin C1" in bends[0].marks.source
    kerf = math.degrees(1.5 / 95.25)
    assert [o.angle_deg for o in left] == pytest.approx([70.0 - 60.0 - 2 * kerf])
    assert cuts[0].stock[0][1] == 1


@pytest.mark.parametrize("aim", JOB_AIMS)
def test_nothing_is_cut_from_another_tube_and_stock_is_pieces_kerf_and_rest(aim: str) -> None:
    shelf = [
        _item("wrong wall", 9, angle_deg=90.0, wall_mm=2.0),
        _item("wrong metal", 9, angle_deg=90.0, material="mild"),
        _item("wrong radius", 9, angle_deg=90.0, clr_mm=127.0),
        _item("wrong od", 9, angle_deg=90.0, od_mm=60.3),
        _item("good", 2, angle_deg=90.0),
        _item("rest", 1, angle_deg=33.0, is_offcut=True, whole_ends=1),
    ]
    angles = [12.0, 22.0, 30.0, 41.0, 55.0, 88.0, 31.0]
    design, laid, nests, plan = _planned(angles, shelf, aim)
    assert {source.item for source in plan.values()} <= {"good", "rest", ""}
    assert len(plan) == len(angles)
    kerf = math.degrees(1.5 / 95.25)
    for layout in nests[0].nest.layouts:
        used = sum(nests[0].turns[name] for name in layout.pieces) + kerf * (len(layout.pieces) - 1)
        assert used <= float(nests[0].stock[layout.bar.id].angle_deg) + 0.1
        assert aim != "fewest welds" or len(layout.pieces) <= 2
    counted = [layout.bar.id for layout in nests[0].nest.layouts]
    assert counted.count("good") <= 2
    assert counted.count("rest") <= 1
    assert (
        nest_bends(design, [laid], shelf, aim, within(2.0))[0].nest == nests[0].nest
    )  # the same question, the same answer


def test_what_was_measured_of_the_stock_is_what_the_tape_reads() -> None:
    """A bend of 97 mm radius and 63.2 mm across: heel and throat by those, the roll's tape round that tube."""
    shelf = [_item("7", 1, angle_deg=90.0, measured_clr_mm=97.0, measured_od_mm=63.2)]
    design, laid, _, plan = _planned([45.0, 30.0], shelf)
    bends = [c for c in cut_lists(design, [laid], plan)[0].pieces if c.marks]
    for cut, deg in zip(bends, (45.0, 30.0), strict=True):
        assert (cut.marks.heel_mm, cut.marks.throat_mm) == pytest.approx(heel_and_throat(97.0, 63.2, deg))
    assert bends[1].roll.tape_mm == pytest.approx(math.pi * 63.2 / 4)


def test_what_is_measured_reaches_the_straights_the_picture_and_the_rest() -> None:
    """A radius 3 mm over puts each end 3 tan(a/2) further out (the tangent of a circular curve): the straights beside
    give it and the corners stay. 0.8 mm out of round is 0.4 flatter toward the centre: common practice, no source.
    """
    shelf = [_item("7", 1, angle_deg=90.0, measured_clr_mm=98.25, out_of_round_mm=0.8)]
    design, laid, _, plan = _planned([45.0, 30.0], shelf)
    plain, off = (cut_lists(design, [laid], p)[0].pieces for p in ({}, plan))
    for cut in (c for c in off if c.marks):
        deg = cut.marks.angle_deg
        assert (cut.marks.heel_mm, cut.marks.throat_mm) == pytest.approx(heel_and_throat(98.25, 63.5 - 0.4, deg))
        drawn = {tape.where: tape.mm for tape in on_bench(cut).tapes}
        assert (drawn["heel"], drawn["throat"]) == pytest.approx((cut.marks.heel_mm, cut.marks.throat_mm))
    more = 3.0 * (2 * math.tan(math.radians(22.5)) + math.tan(math.radians(15.0)))  # nothing is behind the second
    assert "radius is 98.25 mm: an end comes 0.8 mm off" in off[-1].problem
    kept = [
        sum(c.length_mm for c in p if c.kind == "straight")
        + sum(c.marks.keep_before_mm + c.marks.keep_after_mm for c in p if c.marks)
        for p in (plain, off)
    ]
    assert kept[0] - kept[1] == pytest.approx(more)
    rest = rests_of_bends(cut_with_rests(design, [laid], plan)[1])[0]
    assert (rest.measured_clr_mm, rest.out_of_round_mm) == (98.25, 0.8)


def test_a_whole_stock_bend_is_used_whole_and_what_none_holds_is_left_to_the_cut_list() -> None:
    design, laid, nests, plan = _planned([45.0], [_item("7", 1, angle_deg=45.0)])
    assert cut_lists(design, [laid], plan)[0].pieces[1].marks.cut == ""
    assert nests[0].nest.proven
    _, _, _, bought = _planned([45.0], [])
    assert [source.words for source in bought.values()] == ["45° bend to buy no. 1"]


@pytest.mark.parametrize("found", [{"clr_mm": 95.38}, {"angle_deg": 91.0}])
def test_a_bend_on_the_vehicle_stays_in_the_stock_it_was_cut_from(found: dict[str, float]) -> None:
    """Measured a degree or a tenth of a millimetre off, it is still the bend that was drawn, and bought."""
    bend = _bend(90.0, "b0", 0.0)
    nominal = tuple(StockBend(angle_deg=deg, clr_mm=95.25, leg_mm=100.0) for deg in (45, 90, 180))
    design, run = _design([_leg(150.0, "l0"), bend.replace(**found)], stock=nominal)
    fitted = Fitted(run=run.id, piece="b0", planned=bend)
    design = design.replace(fitted=(fitted,))
    laid = [lay_run(design, run)]
    nests = nest_bends(design, laid, [], "fewest welds", within(2.0))
    assert [n.nest.short for n in nests] == [()]
    assert [(s.stock.angle_deg, s.stock.clr_mm) for s in plan_of(nests, laid, 1.5).values()] == [(90.0, 95.25)]
