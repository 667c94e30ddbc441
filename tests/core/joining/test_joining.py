"""Joints of the demo systems: their welds against the cut lists, plans against reference F, order, the refit."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest

from widebend.core.cutting import cut_lists
from widebend.core.hardware import x_pipe
from widebend.core.joining import (
    STANDING,
    WeldJoint,
    WeldPlan,
    all_welds,
    every_joint,
    joint_cautions,
    joints_of,
    plan_of,
    pull_toward,
    quarters_of,
    refit_steps,
    tack_clocks,
    torques,
    weld_order,
    weld_totals,
)
from widebend.core.laying import system_of
from widebend.core.nesting import parts_list
from widebend.core.records import Design, Welding
from widebend.core.review import Side, review
from widebend.core.space import pose
from widebend.demo.examples import cat_back
from widebend.demo.hung import twin_hung
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

SYSTEMS = {"estate": cat_back, "twin": twin_x, "truck": low_truck, "quad": quad_rear, "pie": pie_downpipe}
OPEN = (False,) * 12


def _joint(a: str = "304", b: str = "304", shut: tuple[bool, ...] = OPEN, **more: object) -> WeldJoint:
    sides = (Side("pipe", a, 1.5, str(more.pop("surface", "bare"))), Side("muffler", b, 2.0, "bare"))  # type: ignore[arg-type]
    values: dict[str, object] = {
        "run": "r",
        "number": 1,
        "ahead": 0,
        "behind": 1,
        "kind": "butt",
        "at": pose((0, 0, 300), (1, 0, 0)),
        "od_mm": 63.2,
        "inside_mm": 60.2,
        "sides": sides,
        "weld_mm": 200.0,
        "shut": shut,
        "state": "",
    }
    return WeldJoint(**(values | more))  # type: ignore[arg-type]


def _plan(joint: WeldJoint, **welding: object) -> WeldPlan:
    return plan_of(joint, Welding(**welding), cat_back().settings.rules)  # type: ignore[arg-type]


def _all(design: Design) -> list[WeldPlan]:
    found = review(design)
    runs = [run for run in found.system.runs if run.pieces]
    joints = joints_of(design, found.system, cut_lists(design, runs), found.obstacles, 60.0)
    return [plan_of(joint, design.settings.welding, design.settings.rules) for joint in joints]


@pytest.mark.parametrize("name", SYSTEMS)
def test_every_weld_of_the_cut_lists_is_a_joint(name: str) -> None:
    """Lengths of weld by the joints and by the cut lists agree to the last figure; each is welded once in the order."""
    design = SYSTEMS[name]()
    plans, runs = _all(design), [run for run in review(design).system.runs if run.pieces]
    bare = design.replace(attachments=())  # bosses are welded besides the joints
    assert weld_totals(plans).weld_mm == pytest.approx(sum(cuts.weld_mm for cuts in cut_lists(bare, runs)))
    for order in ("tack all, then weld", "joint by joint"):
        keys = weld_order(plans, order)
        assert sorted(keys) == sorted(plan.joint.key for plan in plans if plan.figures)


def test_when_all_is_tacked_each_joint_cools_before_its_neighbour_is_welded() -> None:
    plans = _all(cat_back())
    at = {plan.joint.key: plan.joint.at.point for plan in plans}
    far, near = (
        [float(abs(at[a] - at[b]).sum()) for a, b in pairwise(keys)]
        for keys in (weld_order(plans, "tack all, then weld"), weld_order(plans, "joint by joint"))
    )
    assert min(far) > 250.0 > min(near)


def test_figures_of_a_joint_are_those_of_the_tables() -> None:
    """Reference F046 to F054: 1.5 mm is 59 thousandths and so 59 A, shade 8 and 12, ER308L; 60.2 mm inside, 300 mm
    between plugs.
    """
    plan = _plan(_joint())
    figures = {figure.what: figure.value for figure in plan.figures}
    assert figures["filler"] == "ER308L"
    assert figures["current"] == "about 59 A"
    assert figures["shade"] == "8 at least, 12 is comfortable"
    assert plan.purge is not None
    assert plan.purge.inside_l == pytest.approx(2.846314 * 0.3, rel=1e-5)  # F052 holds for a metre
    assert plan.purge.flush_min == pytest.approx(2.277051 * 0.3, rel=1e-5)
    assert figures["heat put in"].startswith(f"{0.6 * 60 * 10 * plan.amps / (1000 * 80):.2f}")
    assert all(figure.source and figure.sure for figure in plan.figures)
    assert any("hold the heat on the muffler: 2 mm against 1.5" in note for note in plan.notes)


def test_schools_of_the_root_have_their_price() -> None:
    purged, fluxed, bare = (_plan(_joint(), root=root) for root in ("purge", "back flux", "none"))
    assert purged.gas_l > fluxed.gas_l == bare.gas_l
    assert any("glass" in note for note in fluxed.notes)
    assert any("sugars" in note for note in bare.notes)
    assert _plan(_joint("mild", "mild")).purge is None
    assert _plan(_joint(), process="MIG").purge is None


@pytest.mark.parametrize(
    ("a", "b", "more", "words"),
    [
        ("titanium", "304", {}, "titanium is not welded to 304"),
        ("aluminium", "aluminium", {}, "alternating current"),
        ("cast iron", "cast iron", {}, "cracks beside a plain weld"),
        ("mild", "mild", {"surface": "rusted"}, "rusted thin: cut back"),
    ],
)
def test_what_does_not_weld_is_refused_with_the_way_round_it(a: str, b: str, more: dict[str, str], words: str) -> None:
    """Reference F045 for titanium; the others common practice, no source."""
    plan = _plan(_joint(a, b, **more))
    assert words in plan.refused
    assert not plan.figures
    bolted = _plan(_joint(a, b, kind="v-band", **more))
    assert not bolted.refused
    assert weld_totals([plan]).weld_mm == 0


def test_what_is_coated_is_stripped_and_said_to_be() -> None:
    plan = _plan(_joint("aluminised", "mild"))
    assert any("take the coating of the pipe off" in note for note in plan.notes)
    assert next(figure.sure for figure in plan.figures if figure.what == "filler") == "likely"
    assert any("Coated" in caution.words for caution in joint_cautions(plan, ()))


def test_tacks_keep_off_sides_that_no_torch_gets_to() -> None:
    assert tack_clocks(_joint()) == (0.0, 180.0, 90.0, 270.0)
    assert len(tack_clocks(_joint(od_mm=48.0))) == 3
    assert len(tack_clocks(_joint(od_mm=101.6))) == 6
    shut = tuple(k in (11, 0, 1) for k in range(12))
    assert not {330.0, 0.0, 30.0} & set(tack_clocks(_joint(shut=shut)))
    buried = _plan(_joint(shut=tuple(k < 5 for k in range(12))))
    assert (buried.where, "5 of 12 sides" in buried.why_there) == ("bench", True)


def test_a_weld_begins_on_the_side_that_should_pull() -> None:
    """A pipe that was found drooping: its weld starts at 12, for a weld draws what lies behind toward it."""
    import numpy as np

    planned, found = np.array([1.0, 0, 0]), np.array([0.9999, 0, -0.0141])
    assert pull_toward(found, planned, np.array([0, 0, 1.0]), np.array([0, 1.0, 0])) == pytest.approx(0.0, abs=1e-6)
    assert pull_toward(planned, planned, np.array([0, 0, 1.0]), np.array([0, 1.0, 0])) is None
    assert quarters_of(0.0)[0] == (315.0, 45.0)
    assert {round(a) % 90 for a, _ in quarters_of(30.0)} == {75}


def test_cautions_bite_where_they_belong() -> None:
    plans = _all(quad_rear())
    words = [c.words for plan in plans if plan.figures for c in joint_cautions(plan, review(quad_rear()).obstacles)]
    assert any("fuel tank" in said and "mm from this joint" in said for said in words)
    assert any("chromium VI" in said for said in words)
    steps = {caution.before for caution in STANDING}
    assert {"get under", "get in", "clean", "tack", "first start"} <= steps
    assert all(caution.source for caution in STANDING)


def test_the_refit_goes_in_loose_and_is_tightened_twice_from_the_front_back() -> None:
    """Torques of M8 and M10 by reference F065, F066 at friction 0.12."""
    joints = [plan.joint for plan in _all(cat_back())]
    steps = refit_steps(
        cat_back(), joints, [("1", "front"), ("2", "rear")], [("h1", "hanger 1")], [("7", "brake line")]
    )
    keys = [step.key for step in steps]
    first, full = ([k for k in keys if k.startswith(f"pass{n}")] for n in (1, 2))
    assert [k[5:] for k in first] == [k[5:] for k in full]
    assert keys.index("in-2") < keys.index(first[0]) < keys.index(full[0]) < keys.index("leak") < keys.index("again")
    assert next(s for s in steps if s.key == "moved-7").head == "before it moves"
    assert torques(8) == (12.3, 24.6)
    assert torques(10) == (24.0, 48.0)
    assert len(set(keys)) == len(keys)


def test_everything_welded_is_counted_once_in_the_quote_the_parts_list_and_on_weld() -> None:
    """By hand on a twin system: joints of the runs, two bosses of 28 mm, a tip on each muffler, the X's seam."""
    design = twin_x()
    system = system_of(design)
    lists = cut_lists(design, [run for run in system.runs if run.pieces])
    named = {joint.key: joint for joint in every_joint(design, system, lists, (), 0.0) if joint.name}
    assert sorted(named) == ["boss-boss-1", "boss-boss-2", "crossover-1-seam", "muffler-1-out", "muffler-2-out"]
    assert named["boss-boss-1"].weld_mm == pytest.approx(math.pi * 28.0)
    assert named["muffler-1-out"].weld_mm == pytest.approx(math.pi * 63.5)
    assert named["crossover-1-seam"].weld_mm == pytest.approx(x_pipe(63.5, 95.25, 45.0, 18.0).cut.seam_mm, abs=0.01)
    fixed = math.pi * 63.5 * 2 + named["crossover-1-seam"].weld_mm
    everything = all_welds(design, system, lists)
    assert everything.weld_mm == pytest.approx(sum(cuts.weld_mm for cuts in lists) + fixed)
    used = {line.words: line.wanted for line in parts_list(design, (), lists, (), {}, (), "mm", everything)}
    assert used["filler"] == math.ceil(everything.filler_g)
    assert used["shielding and backing gas"] == math.ceil(everything.gas_l)


def test_gas_is_torch_time_and_a_purge_for_every_joint_alike() -> None:
    """By hand: 200 mm at 80 mm/min is 2.5 min of arc at 9 l/min; four slices' seams are purged one by one."""
    one, four = _plan(_joint()), _plan(_joint(alike=4))
    assert one.purge is not None
    assert one.gas_l == pytest.approx(9.0 * 2.5 + one.purge.gas_l)
    assert four.gas_l == pytest.approx(4 * one.gas_l)


def test_a_rod_is_welded_along_both_sides_of_where_it_lies_round_the_pipe() -> None:
    """By hand: rolled 60 degrees round, two sides; a rod of 10 on a pipe of 63.5 lies 38.5 mm round it."""
    design = twin_hung(twin_x())
    system = system_of(design)
    lists = cut_lists(design, [run for run in system.runs if run.pieces])
    rods = [joint for joint in every_joint(design, system, lists, (), 0.0) if joint.sides[0].name == "rod"]
    assert len(rods) == len(design.hangers)
    on_pipe = [joint for joint in rods if joint.run]
    for rod in on_pipe:
        assert rod.weld_mm == pytest.approx(2 * math.pi / 3 * (63.5 + rod.od_mm) / 2, rel=0.02)
        assert _plan(rod).purge is None
        assert not _plan(rod).tacks
