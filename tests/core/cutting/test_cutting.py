"""Cut marks and totals on small runs worked by hand."""

import numpy as np
import pytest
from bench.cut_chains import put_together, random_cut

from widebend.core.cutting import cut_list, cut_lists
from widebend.core.cutting.lists import roll_mark
from widebend.core.editing import mitred
from widebend.core.hardware.shelf import can, start_flange
from widebend.core.laying import checks, lay_run, system_of
from widebend.core.records import (
    Attachment,
    Bend,
    Design,
    Joint,
    Mitre,
    Part,
    Placed,
    Rails,
    Run,
    SegmentedBend,
    Settings,
    StockBend,
    Straight,
    Survey,
    Tube,
)
from widebend.core.review import list_findings
from widebend.core.units import Length
from widebend.demo.systems import pie_downpipe


def _design(pieces, stock=(), joints=()) -> tuple[Design, Run]:
    at = Placed(point=(Length(1000), Length(100), Length(300)), axis=(1, 0, 0))
    far = Placed(point=(Length(3000), Length(100), Length(300)), axis=(1, 0, 0))
    parts = (
        Part(id="s", item=start_flange(63.5), placed=at),
        Part(id="m", item=can("muffler", "m", 63.5, (300, 200, 100)), placed=far),
    )
    run = Run(
        id="r",
        start="s.out",
        aim="m.in",
        tube=Tube(od_mm=Length(63.5), wall_mm=Length(1.5)),
        pieces=pieces,
        joints=joints,
    )
    survey = Survey(rails=Rails(left_y_mm=Length(-430), right_y_mm=Length(430)))
    settings = Settings(clr_mm=(Length(95.25),), stock=stock)
    return Design(survey=survey, parts=parts, runs=(run,), settings=settings), run


def _bend(angle: float, name: str = "b", roll: float = 0.0) -> Bend:
    return Bend(id=name, angle_deg=angle, clr_mm=Length(95.25), roll_deg=roll)


def _leg(mm: float, name: str) -> Straight:
    return Straight(id=name, length_mm=Length(mm))


STOCK = (
    StockBend(angle_deg=45, clr_mm=Length(95.25), leg_mm=Length(64)),
    StockBend(angle_deg=90, clr_mm=Length(95.25), leg_mm=Length(64)),
)


def _cuts(pieces, **more):
    design, run = _design(pieces, **more)
    laid = lay_run(design, run)
    assert laid is not None
    return design, laid, cut_list(design, laid)


def test_26_off_a_45() -> None:
    """Heel (95.25 + 31.75) and throat (95.25 - 31.75) times 26 deg, and from the stock's end 64 more."""
    _, _, cuts = _cuts((_leg(200, "a"), _bend(26), _leg(10, "c")), stock=STOCK)
    bend = next(c for c in cuts.pieces if c.kind == "bend")
    marks = bend.marks
    assert marks is not None
    rad = np.radians(26)
    assert (marks.heel_mm, marks.throat_mm) == pytest.approx((127 * rad, 63.5 * rad))
    assert marks.heel_from_end_mm == pytest.approx(64 + 127 * rad)
    assert marks.stock.angle_deg == 45
    assert (marks.keep_before_mm, marks.keep_after_mm, marks.cut) == (64, 0, "outlet")
    assert cuts.pieces[0].length_mm == pytest.approx(200 - 64)
    assert marks.left_over_deg == pytest.approx(45 - 26 - np.degrees(1.5 / 95.25))


def test_the_rest_of_a_bend_is_used_before_a_new_one() -> None:
    _, _, cuts = _cuts((_bend(26), _leg(300, "l"), _bend(15, "b2")), stock=STOCK)
    assert [(s.angle_deg, n) for s, n in cuts.stock] == [(45, 1)]
    assert "rest of 45" in cuts.pieces[-1].marks.source


def test_a_bend_too_sharp_for_the_stock_says_so() -> None:
    _, _, cuts = _cuts((_bend(120),), stock=STOCK)
    assert "the largest is 90" in cuts.problems[0]


def test_a_whole_bend_keeps_both_legs() -> None:
    _, _, cuts = _cuts((_leg(100, "a"), _bend(90), _leg(50, "c")), stock=STOCK)
    marks = cuts.pieces[1].marks
    assert (marks.keep_before_mm, marks.keep_after_mm, marks.cut) == (64, 50, "")
    assert len(cuts.pieces) == 2


def test_totals_by_hand() -> None:
    """Two straights round one 45: five lengths of metal become tube, joints and kilograms."""
    _, _, cuts = _cuts((_leg(400, "a"), _bend(45), _leg(600, "c")), stock=STOCK)
    tube = 1000 + 95.25 * np.pi / 4
    assert cuts.tube_mm == pytest.approx(tube)
    assert cuts.straight_mm == pytest.approx(400 - 64 + 600 - 64)
    assert cuts.joints == 4  # start, two at the bend's legs, finish
    assert cuts.weld_mm == pytest.approx(4 * np.pi * 63.5)
    assert cuts.tube_mass_kg == pytest.approx(tube / 1000 * np.pi * 62 * 1.5 * 7900e-6, rel=1e-9)


def test_slip_adds_its_overlap_and_needs_no_weld() -> None:
    joints = (Joint(after="a", kind="slip", overlap_mm=Length(38)),)
    _, _, cuts = _cuts((_leg(400, "a"),), joints=joints)
    assert cuts.pieces[0].length_mm == pytest.approx(438)
    assert cuts.weld_mm == pytest.approx(np.pi * 63.5)


def test_a_slip_behind_a_bend_takes_its_overlap_from_the_bends_leg() -> None:
    """38 mm are pushed into the next piece: the bend keeps 38 mm of its leg, and the straight behind is as drawn."""
    joints = (Joint(after="b", kind="slip", overlap_mm=Length(38)),)
    _, _, cuts = _cuts((_leg(200, "a"), _bend(26), _leg(300, "c")), stock=STOCK, joints=joints)
    marks = cuts.pieces[1].marks
    assert (marks.keep_before_mm, marks.keep_after_mm, cuts.pieces[1].slip_mm) == (0, 38, 38)
    assert [p.length_mm for p in cuts.pieces if p.kind == "straight"] == [200, 300]
    short = (StockBend(angle_deg=45, clr_mm=Length(95.25), leg_mm=Length(10)),)
    _, _, cuts = _cuts((_leg(200, "a"), _bend(26), _leg(300, "c")), stock=short, joints=joints)
    assert "28 mm more of straight" in cuts.problems[0]


@pytest.mark.parametrize("kind", ["v-band", "flange", "clamp"])
def test_no_leg_is_kept_past_a_joint(kind: str) -> None:
    """Where a bend comes apart from the straight behind it, the two are not one piece of metal."""
    joints = (Joint(after="b", kind=kind),)
    _, _, cuts = _cuts((_leg(30, "a"), _bend(45), _leg(60, "c")), stock=STOCK, joints=joints)
    assert cuts.pieces[0].marks.keep_after_mm == 0
    assert [p.length_mm for p in cuts.pieces if p.kind == "straight"] == [60]
    around = np.pi * 63.5
    assert cuts.weld_mm == pytest.approx(2 * around + (0 if kind == "clamp" else 2 * around))


def test_a_leg_of_another_tube_is_not_kept_on_a_bend() -> None:
    thick = Tube(od_mm=Length(63.5), wall_mm=Length(2.0))
    leg = Straight(id="c", length_mm=Length(60), tube=thick)
    _, _, cuts = _cuts((_bend(45), leg), stock=STOCK)
    assert cuts.pieces[0].marks.keep_after_mm == 0
    assert cuts.pieces[1].tube == thick


def test_no_bend_comes_out_of_an_offcut_of_another_tube() -> None:
    """A 180 in 63.5 leaves 150 deg; the bend in 101.6 behind it takes a stock bend of its own, or there is none."""
    wide = Tube(od_mm=Length(101.6), wall_mm=Length(1.5))
    pieces = (_bend(30), _leg(100, "l"), _bend(20, "b2").replace(tube=wide))
    stock = (StockBend(angle_deg=180, clr_mm=Length(95.25), leg_mm=Length(64)),)
    _, _, cuts = _cuts(pieces, stock=stock)
    assert "180° bend no. 2" in cuts.pieces[-1].marks.source
    own = (stock[0].replace(od_mm=Length(63.5)),)
    _, _, cuts = _cuts(pieces, stock=own)
    assert "101.6" in cuts.problems[0]


def test_mitres_and_slices_are_counted_by_their_seams() -> None:
    """One 45 deg mitre between legs and a start: two seams, 199.49 + 207.79 = 407 mm. Six 15 deg slices the same: a
    start, and seven slanted seams of 200.35, 1,602 mm in eight.
    """
    for turning, joints, weld in (
        (Mitre(id="m", turn_deg=45), 2, 407.28),
        (SegmentedBend(id="m", slices=6, turn_each_deg=15, clr_mm=Length(95.25)), 8, 1601.9),
    ):
        design, run = _design((_leg(200, "a"), turning, _leg(200, "c")))
        run = run.replace(aim=None)
        cuts = cut_list(design, lay_run(design, run))
        assert cuts.joints == joints
        assert cuts.weld_mm == pytest.approx(weld, abs=0.1)


def test_the_demos_slices_are_in_its_weld() -> None:
    """Two flanged ends (one weld each: the other half is the part's own), six seams between seven slices, a boss of
    28 mm: 4,158 mm.
    """
    design = pie_downpipe()
    laid = next(run for run in system_of(design).runs if any(isinstance(p.piece, SegmentedBend) for p in run.pieces))
    assert cut_list(design, laid).weld_mm == pytest.approx(4070 + np.pi * 28, abs=5)


def test_runs_of_one_job_share_what_is_left() -> None:
    design, run = _design((_bend(20), _leg(200, "a")), stock=(STOCK[0],))
    laid = lay_run(design, run)
    first, second = cut_lists(design, (laid, laid))
    assert [n for _, n in first.stock] == [1]
    assert second.stock == ()
    assert "rest of" in second.pieces[0].marks.source


def test_what_is_cut_put_together_again_is_the_run() -> None:
    """80 mixtures: ends within 0.05 mm and 0.02 deg of the run, joints and weld as a plain count says."""
    rng = np.random.default_rng(4)
    for _ in range(80):
        made = random_cut(rng)
        assert not made.cuts.problems
        point, flow = put_together(made.cuts, made.laid)
        assert point == pytest.approx(made.laid.end.point, abs=0.05)
        assert np.degrees(np.linalg.norm(np.cross(flow, made.laid.end.flow))) < 0.02
        assert made.cuts.joints == made.joints
        assert made.cuts.weld_mm == pytest.approx(made.weld_mm)
        total = sum(p.length_mm for p in made.laid.pieces) + sum(c.slip_mm for c in made.cuts.pieces)
        assert made.cuts.tube_mm == pytest.approx(total)
        listed = sum(c.length_mm for c in made.cuts.pieces if c.kind != "mitre")
        assert listed == pytest.approx(total)
        slips = sum(float(j.overlap_mm) for j in made.laid.run.joints)
        assert sum(c.slip_mm for c in made.cuts.pieces) == pytest.approx(slips)


@pytest.mark.parametrize(
    ("roll", "way", "deg"), [(90, "clockwise", 90), (350, "anticlockwise", 10), (0, "on the line", 0)]
)
def test_round_the_tube_goes_the_short_way(roll: float, way: str, deg: float) -> None:
    mark = roll_mark(63.5, roll)
    assert mark.way == way
    assert mark.tape_mm == pytest.approx(np.pi * 63.5 * deg / 360)


def test_checks_on_the_vehicle() -> None:
    """A leg at 20 deg down and 10 to the right of the rail, by plain trigonometry."""
    design, run = _design((_leg(500, "a"),))
    cos = np.cos
    flow = (
        cos(np.radians(20)) * cos(np.radians(10)),
        cos(np.radians(20)) * np.sin(np.radians(10)),
        -np.sin(np.radians(20)),
    )
    start = design.parts[0].replace(placed=Placed(point=(Length(1000), Length(100), Length(500)), axis=flow))
    design = design.replace(parts=(start, design.parts[1]))
    laid = lay_run(design, run)
    first, last = checks(design, laid.pieces[0])
    assert first.angle_finder_deg == pytest.approx(-20)
    assert first.heading_off_rail_deg == pytest.approx(10)
    assert first.underside_mm == pytest.approx(500 - 31.75 * np.cos(np.radians(20)))
    assert last.underside_mm == pytest.approx(first.underside_mm - 500 * np.sin(np.radians(20)))
    assert first.right_rail_gap_mm == pytest.approx(430 - 100 - 31.75 * np.sqrt(1 - flow[1] ** 2))


def _with_boss(design: Design, piece: str, along: float, roll: float) -> Design:
    boss = Attachment(
        id="boss-1", kind="boss", name="sensor", run="r", piece=piece, along_mm=Length(along), roll_deg=roll
    )
    return design.replace(attachments=(boss,))


@pytest.mark.parametrize(("roll", "longer"), [(0.0, -1.0), (180.0, 1.0), (90.0, 0.0)])
def test_a_boss_on_a_bend_is_taped_along_its_side_of_the_tube(roll: float, longer: float) -> None:
    """By hand: half of 90° at CLR 95.25 is 74.8 mm on the middle line; on the heel by (CLR + r) / CLR of it, on the
    throat by (CLR - r) / CLR.
    """
    design, run = _design((_leg(300, "a"), _bend(90), _leg(300, "c")))
    middle = 95.25 * np.pi / 4
    design = _with_boss(design, "b", middle, roll)
    cuts = cut_list(design, lay_run(design, run))
    (cut,) = [c for c in cuts.pieces if c.fixed]
    (mark,) = cut.fixed
    assert cut.kind == "bend"
    assert mark.along_mm == pytest.approx(cut.marks.keep_before_mm + (95.25 + longer * 31.75) * np.pi / 4)
    assert mark.sits_on is None


def test_a_boss_on_a_straight_is_measured_on_the_metal_it_comes_to_lie_on() -> None:
    """A leg of 300 whose bend keeps 100 of it: 250 along the leg is 50 along the kept leg's bend, 100 from the
    straight's start where it is on that.
    """
    design, run = _design(
        (_leg(300, "a"), _bend(90), _leg(300, "c")),
        stock=(StockBend(angle_deg=90, clr_mm=Length(95.25), leg_mm=Length(100)),),
    )
    long = cut_list(design, lay_run(design, run)).pieces[0].length_mm
    assert long == pytest.approx(200.0)
    for along, piece, from_its_start in ((100.0, 0, 100.0), (250.0, 1, 50.0), (190.0, 0, 190.0)):
        cuts = cut_list(_with_boss(design, "a", along, 30.0), lay_run(design, run))
        (mark,) = cuts.pieces[piece].fixed
        assert mark.along_mm == pytest.approx(from_its_start)
        assert mark.roll.tape_mm == pytest.approx(np.pi * 63.5 * 30 / 360)
        assert bool(mark.sits_on) == (along == 190.0), "10 mm from the weld at 200: half a boss is 14"
        assert cuts.weld_mm == pytest.approx(cut_list(design, lay_run(design, run)).weld_mm + np.pi * 28.0)


def test_what_the_bench_cannot_make_is_a_finding_before_it_is_cut() -> None:
    """A ring of 4.8 mm between a bend without legs and the flange; slices of radius 57 on 76 mm: a throat of 5 mm."""
    bare = StockBend(angle_deg=90, clr_mm=Length(95.25), leg_mm=Length(0))
    design, run = _design((_leg(4.8, "a"), _bend(90), _leg(300, "c")), stock=(bare,))
    (ring,) = list_findings("r", cut_list(design, lay_run(design, run)), design.settings.rules)
    assert (ring.code, ring.gap_mm) == ("ring", pytest.approx(4.8))
    wide = Tube(od_mm=Length(76.2), wall_mm=Length(1.5))
    pie = SegmentedBend(id="p", slices=3, turn_each_deg=15.0, clr_mm=Length(57.0), tube=wide)
    design, run = _design((_leg(100, "a"), pie, _leg(300, "c")))
    (throat,) = list_findings("r", cut_list(design, lay_run(design, run)), design.settings.rules)
    assert (throat.code, throat.gap_mm) == ("throat", pytest.approx(2 * (57 - 38.1) * np.tan(np.radians(7.5))))


def test_a_slight_turn_is_a_mitre_with_its_corner_where_it_was() -> None:
    """The far end stays to a thousandth of a millimetre; without straights to hold it stays a bend."""
    design, run = _design((_leg(200, "a"), _bend(8.0), _leg(200, "c")))
    was = lay_run(design, run)
    pieces = tuple(mitred(run.pieces, 10.0, 20.0))
    assert [p.kind for p in pieces] == ["leg", "mitre", "leg"]
    now = lay_run(design, run.replace(pieces=pieces))
    assert now.end.point == pytest.approx(was.end.point, abs=1e-3)
    assert now.end.flow == pytest.approx(was.end.flow, abs=1e-9)
    assert [p.kind for p in mitred((_leg(5, "a"), _bend(8.0), _leg(200, "c")), 10.0, 20.0)] == ["leg", "bend", "leg"]
