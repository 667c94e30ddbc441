"""What a person may wish of a way: windows in order, what stays, sides shut, slices; improving and mending."""

import math

import numpy as np
import pytest
from bench.route_scenes import own_scenes, random_scene

from widebend.core.closing import BendOptions
from widebend.core.cutting import price_of
from widebend.core.editing import placed_at
from widebend.core.editing.edits import set_locked
from widebend.core.errors import EditError
from widebend.core.flow import as_straight_mm
from widebend.core.flow.flow_loss import share_of_90
from widebend.core.laying import lay_pieces, lay_run, spaced
from widebend.core.pathfinding import find, pieces_of, task_of
from widebend.core.pathfinding.cost import missed_vias
from widebend.core.records import Attachment, Bend, Design, MarkPoint, Prices, SegmentedBend, Straight, Survey, Tube
from widebend.core.review import packed, review
from widebend.core.routing import Wish, improve, mend, seek, taken
from widebend.core.routing.no_way import oval_width
from widebend.core.routing.question import own_spare
from widebend.core.routing.wishes import vias_of
from widebend.core.space import Pose, pose
from widebend.core.units import Length
from widebend.demo.examples import cat_back, first_job

OWN = {s.name: s for s in own_scenes()}
TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


def _laid(design: Design) -> tuple:
    laid = lay_run(design, design.runs[0])
    assert laid is not None
    return laid.pieces


@pytest.mark.parametrize("name", ["o1_grip_length", "o2_u_turn", "o4_two_runs", "o5_movement", "o7_scan"])
def test_our_own_scenes_keep_their_gaps_and_ends(name: str) -> None:
    """By the exact tube kernel over every position and the scan's own triangles; the search looks another way."""
    scene = OWN[name]
    way = find(scene.task())[0]
    answer = pieces_of(scene.task(), way)
    assert way.spare_mm >= 0
    assert scene.margin(answer) >= 0.0
    assert max(scene.miss(answer)) < 1e-6
    assert (answer.legs[1:-1] >= scene.ways.shortest_mm - 1e-6).all()


@pytest.mark.parametrize("seed", [*range(12), 383])  # 383: straights of nothing between six tight bends
def test_random_scenes_exact_at_their_ends_and_clear(seed: int) -> None:
    scene = random_scene(seed)
    way = find(scene.task())[0]
    answer = pieces_of(scene.task(), way)
    assert max(scene.miss(answer)) < 0.01
    assert way.spare_mm < 0.0 or scene.margin(answer) >= 0.0


def test_windows_are_come_through_in_order() -> None:
    scene = OWN["o3_windows_in_order"]
    task = scene.task()
    answer = pieces_of(task, find(task)[0])
    laid = lay_pieces(scene.start, answer.pieces(), Design(), TUBE)
    points = np.concatenate([spaced(p, 2.0) for p in laid])
    nearest = [np.linalg.norm(points - via[:3], axis=1) for via in task.vias]
    assert [d.min() <= via[6] + 0.5 for d, via in zip(nearest, task.vias, strict=True)] == [True, True]
    assert nearest[0].argmin() < nearest[1].argmin()
    assert scene.margin(answer) >= 0.0


def test_a_line_that_comes_through_in_the_wrong_order_misses() -> None:
    line, tangents = np.array([[0.0, 0, 0], [500, 0, 0], [1000, 0, 0]]), np.array([0.0, 20.0, 0.0])
    first, second = [200.0, 0, 0, 0, 0, 0, 5.0], [800.0, 3.0, 0, 0, 0, 0, 5.0]
    assert missed_vias(line, tangents, np.array([first, second])) == 0.0
    assert missed_vias(line, tangents, np.array([second, first])) > 500.0
    assert missed_vias(line, tangents, np.array([[400.0, 30.0, 0, 0, 0, 0, 5.0]])) == pytest.approx(25.0)


def test_a_mark_is_come_through_and_an_unknown_one_refused() -> None:
    base = first_job()
    mark = MarkPoint(id="here", name="here", point=(Length(2000), Length(240), Length(250)))
    design = base.replace(survey=base.survey.replace(marks=(mark,)))
    first = seek(design, "r1", Wish(0, through=("here",))).found[0]
    points = np.concatenate([spaced(p, 2.0) for p in first.laid])
    assert np.linalg.norm(points - [2000.0, 240.0, 250.0], axis=1).min() < 12.5
    with pytest.raises(EditError, match="no window or mark"):
        vias_of(design, ("nowhere",), 63.5)


def test_everything_from_a_piece_on_stays_in_place_with_what_sits_on_it() -> None:
    base = cat_back()
    boss = Attachment(
        id="b", kind="boss", run="r1", piece=base.runs[0].pieces[12].id, along_mm=Length(50), roll_deg=40.0
    )
    design = base.replace(attachments=(boss,))
    until = design.runs[0].pieces[10]
    found = seek(design, "r1", Wish(7, until=until.id))
    closed = taken(design, "r1", found, 0)
    before, after = _laid(design)[10:], _laid(closed)[-len(_laid(design)[10:]) :]
    for one, two in zip(before, after, strict=True):
        assert two.piece.id == one.piece.id
        assert np.linalg.norm(one.outlet.point - two.outlet.point) < 1e-5
    assert closed.runs[0].pieces[:6] == design.runs[0].pieces[:6]
    old, new = before[2].inlet.side(40.0), after[2].inlet.side(closed.attachments[0].roll_deg)
    assert old == pytest.approx(new, abs=1e-6)


def test_a_locked_piece_is_led_to_and_stays() -> None:
    design = set_locked(cat_back(), "r1", cat_back().runs[0].pieces[9].id, True)
    found = seek(design, "r1", Wish(7))
    assert found.until == 9
    closed = taken(design, "r1", found, 0)
    kept = next(p for p in _laid(closed) if p.piece.id == design.runs[0].pieces[9].id)
    assert np.linalg.norm(kept.inlet.point - _laid(design)[9].inlet.point) < 1e-5
    assert kept.piece.locked
    with pytest.raises(EditError, match="comes before"):
        seek(design, "r1", Wish(9, until=design.runs[0].pieces[2].id))


def test_a_side_that_is_not_wished_is_not_taken() -> None:
    design = cat_back()
    first = seek(design, "r1", Wish(7)).found[0]
    side = next(s for s in first.sides if s.thing == "axle-housing" or "axle" in s.name)
    other = seek(design, "r1", Wish(7, avoid=(f"{side.side}:{side.thing}",)))
    assert all(side not in p.sides for p in other.found)
    with pytest.raises(EditError, match="names no side"):
        seek(design, "r1", Wish(7, avoid=("beyond:moon",)))


def test_slices_only_where_no_bend_goes() -> None:
    """60 mm aside within 105: two 95.25 mm bends take at least 139 (2 R sin 46.8); slices at 0.86 of the tube fit."""
    base = first_job()
    parts = []
    for part in base.parts:
        at = {"start": (0.0, 0.0, 300.0), "muffler": (105.0, 60.0, 300.0)}.get(part.id)
        parts.append(part.replace(placed=placed_at(at, (1, 0, 0))) if at else part)
    settings = base.settings.replace(clr_mm=(Length(95.25),), shortest_straight_mm=Length(0.0))
    design = base.replace(survey=Survey(), parts=tuple(parts), settings=settings)
    found = seek(design, "r1", Wish(0))
    assert any(isinstance(p, SegmentedBend) for p in found.found[0].pieces)
    closed = taken(design, "r1", found, 0)
    run = lay_run(closed, closed.runs[0])
    assert run is not None
    assert run.miss_mm < 1e-6
    assert not any(isinstance(p, SegmentedBend) for p in seek(first_job(), "r1", Wish(0)).found[0].pieces)


def test_pipe_that_comes_back_onto_itself_is_no_way() -> None:
    ring = lay_pieces(pose((0, 0, 0), (1, 0, 0)), [_bend(f"b{k}", 90, 0) for k in range(4)], Design(), TUBE)
    assert own_spare(ring, 10.0) == pytest.approx(-73.5, abs=1.0)
    turned = [Bend(id=f"b{k}", angle_deg=90, clr_mm=Length(95.25), roll_deg=0) for k in range(2)]
    assert own_spare(lay_pieces(pose((0, 0, 0), (1, 0, 0)), turned, Design(), TUBE), 10.0) == 0.0


def test_mending_changes_few_pieces_and_makes_the_gap() -> None:
    design = cat_back()
    found = mend(design, "r1", Wish(0, kind="mend"))
    mended = taken(design, "r1", found, 0)
    assert found.until is not None
    assert mended.runs[0].pieces[: found.kept - 1] == design.runs[0].pieces[: found.kept - 1]
    assert [p.id for p in mended.runs[0].pieces[-2:]] == [p.id for p in design.runs[0].pieces[-2:]]
    assert not [f for f in review(mended).findings if f.run == "r1" and f.piece is not None and f.code == "touches"]
    with pytest.raises(EditError, match="nothing to mend"):
        mend(first_job(), "r1", Wish(0, kind="mend"))


def test_improving_takes_needless_bends_out() -> None:
    """A jog drawn with two bends more than it needs: they go, the ends stay, and it goes the same way."""
    start, base = pose((1300, 60, 260), (1, 0, 0)), first_job()
    line = [
        Straight(id="a", length_mm=Length(200)),
        _bend("b", 15, 0),
        _bend("c", 30, 180),
        _bend("d", 15, 0),
        Straight(id="e", length_mm=Length(180)),
        _bend("f", 15, 90),
        Straight(id="g", length_mm=Length(300)),
        _bend("h", 15, -90),
        Straight(id="i", length_mm=Length(100)),
    ]
    end = lay_pieces(start, line, base, TUBE)[-1].outlet
    parts = tuple(
        p.replace(placed=placed_at(*_at(pose_of))) if (pose_of := _place(p.id, start, end)) else p for p in base.parts
    )
    run = base.runs[0].replace(pieces=tuple(line))
    design = base.replace(survey=Survey(), parts=parts, runs=(run,))
    better = improve(design, "r1", Wish(0, kind="improve"))
    assert better.drawn is not None
    assert better.drawn.bends == 5
    assert better.found[0].bends < 5
    after = lay_run(taken(design, "r1", better, 0), taken(design, "r1", better, 0).runs[0])
    assert after is not None
    assert after.miss_mm < 1e-5


def test_improving_keeps_off_what_it_comes_too_near_to_as_the_pipe_moves() -> None:
    """The demo's cat-back touches the axle at bump: polished at rest, all are too near."""
    better = improve(cat_back(), "r1", Wish(7, kind="improve"))
    assert better.drawn is not None
    assert better.drawn.worst_margin_mm < 0
    assert all(p.keeps_gaps and p.bends <= better.drawn.bends for p in better.found)


def _bend(piece_id: str, deg: float, roll: float) -> Bend:
    return Bend(id=piece_id, angle_deg=deg, clr_mm=Length(95.25), roll_deg=roll)


def _place(part_id: str, start: Pose, end: Pose) -> Pose | None:
    return {"start": start, "muffler": end}.get(part_id)


def _at(at: Pose) -> tuple:
    return at.point, at.flow


@pytest.mark.parametrize(("deg", "share"), [(0, 0.0), (30, 0.45), (45, 0.636), (70, 0.846), (90, 1.0), (180, 1.4)])
def test_a_smaller_bend_costs_the_handbook_s_share_of_90_deg(deg: float, share: float) -> None:
    """Idelchik, Handbook of Hydraulic Resistance, diagram 6-1 (formula from memory): A1 by the angle."""
    assert share_of_90(deg) == pytest.approx(share, abs=0.001)
    assert share_of_90(deg + 0.01) > share_of_90(deg)


def test_flow_loss_is_crane_s_equivalent_length() -> None:
    """Crane, Technical Paper 410 (from memory): a smooth 90 deg bend of r/d 1.5 costs 14 bores, a mitred 90 60."""
    bore = 60.5
    bend = lay_pieces(
        pose((0, 0, 0), (1, 0, 0)), [Bend(id="b", angle_deg=90, clr_mm=Length(1.5 * bore))], Design(), TUBE
    )
    assert as_straight_mm(bend) == pytest.approx(14 * bore)
    straight = lay_pieces(pose((0, 0, 0), (1, 0, 0)), [Straight(id="a", length_mm=Length(500))], Design(), TUBE)
    assert as_straight_mm(straight) == pytest.approx(500.0)


def test_price_is_said_only_when_every_price_that_counts_is_known() -> None:
    pieces = lay_pieces(
        pose((0, 0, 0), (1, 0, 0)), [Straight(id="a", length_mm=Length(500)), _bend("b", 30, 0)], Design(), TUBE
    )
    assert price_of(pieces, Prices(tube_m=20.0, joint=8.0)) is None
    assert price_of(pieces, Prices(tube_m=20.0, bend=15.0, joint=8.0)) == pytest.approx(0.5 * 20 + 15 + 3 * 8)


def test_an_oval_of_the_same_girth() -> None:
    wide = oval_width(63.5, 45.0)
    assert 2 * (wide - 45.0) + math.pi * 45.0 == pytest.approx(math.pi * 63.5)


def test_two_radii_on_hand_are_mixed_where_that_is_cheaper() -> None:
    start, end = pose((0, 0, 0), (1, 0, 0)), pose((700, 260, 0), (1, 0, 0))
    both = find(task_of(start, end, 63.5, BendOptions((95.25, 190.5)), packed([])))[0]
    tight = find(task_of(start, end, 63.5, BendOptions((95.25,)), packed([])))[0]
    assert both.cost <= tight.cost + 0.5
