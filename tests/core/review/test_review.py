"""Findings on small scenes worked by hand, edits with carry and hold, remedies that were reviewed."""

import pytest

from widebend.core.editing import edits as editing
from widebend.core.editing import placed_at
from widebend.core.errors import EditError
from widebend.core.laying import lay_run
from widebend.core.records import Bend, Box, Design, Group, GroupState, Rules, Settings, Sphere, Straight, Thing
from widebend.core.review import review
from widebend.core.routing import propose, remedies, taken, with_change
from widebend.core.units import Length
from widebend.core.wording import say
from widebend.demo.examples import cat_back, first_job

STILL = Rules(hanger_swing_mm=Length(0), hot_rise_k=0.0)  # figures worked by hand are at rest and cold


def _closed() -> Design:
    design = first_job()
    return taken(design, "r1", propose(design, "r1"), 0)


def _with_thing(design: Design, thing: Thing) -> Design:
    survey = design.survey.replace(things=(*design.survey.things, thing))
    return design.replace(survey=survey)


def test_the_first_job_closes_with_no_finding() -> None:
    assert review(_closed()).findings == ()


def test_an_unmet_aim_is_a_finding_with_its_miss() -> None:
    found = review(first_job()).findings[0]
    assert found.code == "misses"
    assert found.miss_mm == pytest.approx((1400**2 + 200**2 + 30**2) ** 0.5)


def test_a_ball_beside_a_straight() -> None:
    """Ball r 20 whose middle is 60 below a straight of r 31.75: gap 8.25, 10 wanted."""
    design = first_job()
    run = design.runs[0].replace(pieces=(Straight(id="a", length_mm=Length(400)),), aim=None)
    design = design.replace(runs=(run,), settings=Settings(rules=STILL))
    ball = Thing(
        id="ball", name="ball", shape=Sphere(center=(Length(1500), Length(60), Length(200)), radius=Length(20))
    )
    found = [f for f in review(_with_thing(design, ball)).findings if f.thing == "ball"]
    assert found[0].code == "tight"
    assert found[0].gap_mm == pytest.approx(8.25, abs=0.01)
    assert "8.3 mm from the ball, 10 mm wanted" in say(found[0], design)


def test_the_worst_position_is_named() -> None:
    found = review(cat_back()).findings[0]
    assert (found.code, found.thing, found.state) == ("touches", "axle", "bump")


def test_doubt_makes_a_gap_a_touch() -> None:
    design = first_job()
    run = design.runs[0].replace(pieces=(Straight(id="a", length_mm=Length(400)),), aim=None)
    design = design.replace(runs=(run,), settings=Settings(rules=STILL))
    ball = Thing(
        id="ball",
        name="ball",
        plus_minus_mm=Length(9),
        shape=Sphere(center=(Length(1500), Length(60), Length(200)), radius=Length(20)),
    )
    found = next(f for f in review(_with_thing(design, ball)).findings if f.thing == "ball")
    assert found.code == "touches"
    assert "may touch" in say(found, design)


def test_a_first_flange_may_meet_what_goes_with_the_engine() -> None:
    """A flange (10 thick) whose port is 11 from a head that is known to 3: it may be what it is bolted to."""
    design = first_job()
    head = Thing(
        id="head",
        name="head",
        plus_minus_mm=Length(3),
        shape=Box(center=(Length(1240), Length(60), Length(260)), size=(Length(98), Length(200), Length(200))),
    )
    of_body = _with_thing(design, head)
    found = next(f for f in review(of_body).findings if f.thing == "head")
    assert "Bolted to it? Say that the head moves with the engine." in say(found, of_body)
    survey = design.survey.replace(groups=(Group(id="engine", states=(GroupState(name="at rest"),)),))
    bolted = _with_thing(design.replace(survey=survey), head.replace(moves_with="engine"))
    assert {f.code for f in review(bolted).findings if f.thing == "head"} <= {"together"}


def test_a_start_inside_a_thing_is_named() -> None:
    block = Thing(
        id="x",
        name="gearbox",
        shape=Box(center=(Length(1300), Length(60), Length(260)), size=(Length(100), Length(100), Length(100))),
    )
    found = review(_with_thing(first_job(), block)).findings
    assert any(f.code == "inside" and "starts inside the gearbox" in say(f, first_job()) for f in found)


def test_missing_things_are_said_and_not_checked() -> None:
    block = Thing(
        id="x",
        name="brace",
        state="missing",
        shape=Box(center=(Length(1300), Length(60), Length(260)), size=(Length(100), Length(100), Length(100))),
    )
    assert [f.code for f in review(_with_thing(_closed(), block)).findings] == ["pending"]


def test_a_pipe_that_meets_itself() -> None:
    design = first_job()
    loop = [Bend(id=f"b{i}", angle_deg=90, clr_mm=Length(95.25), roll_deg=90) for i in range(4)]
    pieces = (Straight(id="a", length_mm=Length(300)), *loop, Straight(id="z", length_mm=Length(200)))
    run = design.runs[0].replace(pieces=pieces, aim=None)
    found = review(design.replace(runs=(run,), survey=Design().survey)).findings
    assert any("its own pipe" in f.thing_name and f.code == "touches" for f in found)


def test_hold_keeps_the_end_and_carry_moves_it() -> None:
    design = cat_back()
    held = editing.set_piece(design, "r1", "p8", {"angle_deg": 27.0}, editing.HOLD)
    laid = lay_run(held, held.runs[0])
    assert laid.miss_mm < 1e-6
    assert held.runs[0].pieces[7].angle_deg == 27.0
    carried = editing.set_piece(design, "r1", "p8", {"angle_deg": 27.0}, editing.CARRY)
    assert lay_run(carried, carried.runs[0]).miss_mm > 10


def test_hold_says_when_too_little_is_free() -> None:
    design = cat_back()
    last_bend = [p.id for p in design.runs[0].pieces if isinstance(p, Bend)][-1]
    with pytest.raises(EditError, match="carry the rest and close it again"):
        editing.set_piece(design, "r1", last_bend, {"angle_deg": 20.0}, editing.HOLD)


def test_locked_pieces_are_untouched() -> None:
    design = editing.set_locked(cat_back(), "r1", "p10", True)
    before = design.runs[0].pieces[9]
    held = editing.set_piece(design, "r1", "p8", {"angle_deg": 28.0}, editing.HOLD)
    assert held.runs[0].pieces[9] == before
    with pytest.raises(EditError, match="locked"):
        editing.set_piece(design, "r1", "p10", {"angle_deg": 28.0})
    closed = propose(design, "r1", 0)
    assert closed.kept == 10


@pytest.mark.parametrize(("field", "value"), [("angle_deg", 0.0), ("angle_deg", 181.0), ("clr_mm", 0.0)])
def test_impossible_values_are_refused_at_their_field(field: str, value: float) -> None:
    with pytest.raises(EditError) as refused:
        editing.set_piece(cat_back(), "r1", "p8", {field: value})
    assert refused.value.field == field


def test_remedies_were_computed_and_mend() -> None:
    design = cat_back()
    before = review(design)
    for index, remedy in remedies(design, before).items():
        mended = before.findings[index]
        after = review(remedy.design).findings
        assert not [f for f in after if (f.thing, f.piece) == (mended.thing, mended.piece)]
        assert sum(f.spoils for f in after) <= sum(f.spoils for f in before.findings)


def test_every_proposal_meets_the_aim_and_says_its_true_margin() -> None:
    design = first_job()
    proposals = propose(design, "r1")
    assert proposals.found[0].keeps_gaps
    for i, proposal in enumerate(proposals.found):
        closed = taken(design, "r1", proposals, i)
        found = review(closed)
        assert found.system.runs[0].miss_mm < 1e-6
        worst = min(g.margin_mm for g in found.gaps if g.run == "r1")
        assert worst == pytest.approx(proposal.worst_margin_mm, abs=0.02)


def test_no_way_names_a_change_that_works() -> None:
    design = first_job()
    near = design.parts[1].replace(
        placed=design.parts[1].placed.replace(point=(Length(1400), Length(130), Length(230)))
    )
    settings = Settings(clr_mm=(Length(95.25),), angles_deg=(90.0,), free_angles=False, shortest_straight_mm=Length(60))
    design = design.replace(parts=(design.parts[0], near), settings=settings)
    proposals = propose(design, "r1")
    assert proposals.found == ()
    assert "do not fit" in proposals.why_not
    assert propose(with_change(design, "r1", proposals.changes[0]), "r1").found


def test_a_turned_group_state() -> None:
    """A turn of 90 deg about X carries a thing from beside to above the axis."""
    from widebend.core.geometry import motion_of
    from widebend.core.records import Turn

    state = GroupState(name="up", turn=Turn(about=(Length(0), Length(0), Length(100)), axis=(1, 0, 0), deg=90))
    turn, shift = motion_of(state)
    assert turn @ [5.0, 50.0, 100.0] + shift == pytest.approx([5, 0, 150])


def test_an_end_is_not_closed_by_going_once_round() -> None:
    """The aim 190 ahead and 90 below: two bends of radius 95.25 with 40 between reach it by a loop only."""
    design = first_job()
    pieces = (Straight(id="a", length_mm=Length(1210)), Bend(id="b", angle_deg=45, clr_mm=Length(95.25), roll_deg=0.0))
    run = design.runs[0].replace(pieces=pieces)
    end = lay_run(design, run).end
    aim = end.point + 190.0 * end.flow - 90.0 * end.reference
    parts = tuple(
        p.replace(placed=placed_at(aim, end.flow, end.reference)) if p.id == "muffler" else p
        for p in design.parts
        if p.id != "tip"
    )
    short = design.replace(runs=(run,), parts=parts)
    offered = remedies(short, review(short))
    assert all(
        sum(p.angle_deg for p in one.design.runs[0].pieces if isinstance(p, Bend)) < 300 for one in offered.values()
    )
