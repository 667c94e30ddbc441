"""Rules of placing, metals, use, configurations, faces, rear view: each on the smallest scene that shows it.

The figures are the rule book's, common practice with no published source; what is checked is that each bites where its
words say.
"""

import numpy as np
import pytest

from widebend.core.editing import (
    add_part,
    configured,
    fixings,
    hang_on_pipe,
    joined,
    mirror_run,
    mixed_up,
    moved_with,
    on_port,
    placed_at,
)
from widebend.core.errors import EditError, InputError
from widebend.core.hardware import SHELF, item_of, shelf
from widebend.core.laying import lay_run, movement, system_of
from widebend.core.records import (
    Attachment,
    AxleTravel,
    Bend,
    Configuration,
    Design,
    EmissionPart,
    Group,
    GroupState,
    InLine,
    Item,
    Part,
    Placed,
    Rock,
    Run,
    Settings,
    Straight,
    Survey,
    Thing,
    Tube,
    Use,
    Window,
)
from widebend.core.review import Review, review, sizes, tips_seen
from widebend.core.review.rear_view import widest_circle
from widebend.core.survey import End, match
from widebend.core.units import Length
from widebend.core.wording import say
from widebend.demo.examples import block
from widebend.demo.systems import pie_downpipe, quad_rear

TUBE = Tube(od_mm=Length(50.0), wall_mm=Length(1.5))
ENGINE = Group(
    id="engine", name="engine", motion=Rock(about=(Length(0), Length(0), Length(500)), axis=(1, 0, 0), deg=1.0)
)


def _item(key: str, **values: float) -> Item:
    return item_of(key, "", {m.key: m.usual for m in SHELF[key].measures} | values)


def _pipe(*things: Thing, pieces: tuple = (), parts: tuple[Part, ...] = (), groups: tuple[Group, ...] = ()) -> Design:
    start = Part(
        id="s",
        item=shelf.start_flange(50.0),
        placed=Placed(point=(Length(0), Length(0), Length(300)), axis=(1.0, 0.0, 0.0)),
    )
    pieces = pieces or (Straight(id="a", length_mm=Length(800)),)
    run = Run(id="r1", name="pipe", start="s.out", tube=TUBE, pieces=pieces)
    return Design(survey=Survey(things=things, groups=groups), parts=(start, *parts), runs=(run,))


def _codes(design: Design) -> set[str]:
    return {f.code for f in review(design).findings}


def _said(found: Review, design: Design, code: str) -> str:
    return next(say(f, design) for f in found.findings if f.code == code)


def _boss(design: Design, clock: float, along: float = 600.0, **more) -> Design:
    return fixings.add_boss(design, "r1", "a", along, clock, name="probe", **more)


def test_a_sensor_looks_up_and_sits_away_from_the_turbine() -> None:
    assert not _codes(_boss(_pipe(), 45.0, watches="wideband")) & {"sensor-near", "sensor-low"}
    assert "sensor-near" in _codes(_boss(_pipe(), 45.0, along=250.0, watches="wideband"))
    low = _boss(_pipe(), 85.0)  # 5 deg above level
    assert "looks 5° above level" in _said(review(low), low, "sensor-low")
    down = _boss(_pipe(), 120.0)
    assert "30° below level" in _said(review(down), down, "sensor-low")


def test_a_boss_at_the_lowest_place_of_its_run_is_said() -> None:
    dip = (
        Straight(id="a", length_mm=Length(300)),
        Bend(id="b", angle_deg=30, clr_mm=Length(75), roll_deg=180.0),
        Straight(id="c", length_mm=Length(200)),
        Bend(id="d", angle_deg=30, clr_mm=Length(75), roll_deg=0.0),
        Straight(id="e", length_mm=Length(400)),
    )
    design = _pipe(pieces=dip)
    assert "boss-lowest" in _codes(fixings.add_boss(design, "r1", "e", 200.0, 0.0))
    assert "boss-lowest" not in _codes(fixings.add_boss(design, "r1", "a", 100.0, 0.0))
    assert "boss-lowest" not in _codes(_boss(_pipe(), 0.0)), "a level pipe has no lowest place"


def test_plug_and_spanner_want_room() -> None:
    shelf_above = block("s", "shelf", (500, -50, 380), (700, 50, 400))
    tight = _boss(_pipe(shelf_above), 0.0)
    assert "shelf is within 70 mm" in _said(review(tight), tight, "sensor-room")
    assert "sensor-room" not in _codes(_boss(_pipe(shelf_above), 0.0, stands_mm=50.0))


def test_the_sensor_ahead_of_the_catalyst_sits_ahead_of_it() -> None:
    cat = Part(id="cat", item=_item("cat", od=50.0, long=150.0))
    pieces = (
        Straight(id="a", length_mm=Length(200)),
        InLine(id="x", part="cat"),
        Straight(id="b", length_mm=Length(200)),
    )
    design = _pipe(pieces=pieces, parts=(cat,))
    wrong = fixings.add_boss(design, "r1", "b", 50.0, 0.0, watches="ahead of the cat")
    right = fixings.add_boss(design, "r1", "a", 50.0, 0.0, watches="ahead of the cat")
    assert "sensor-order" in _codes(wrong)
    assert "sensor-order" not in _codes(right)
    assert "sensor-order" in _codes(fixings.add_boss(design, "r1", "a", 50.0, 0.0, watches="behind the cat"))


def test_flex_branch_and_joint() -> None:
    assert "no-flex" in _codes(_pipe(groups=(ENGINE,)))
    assert "no-flex" not in _codes(_pipe())
    assert "no-flex" not in _codes(_pipe(groups=(Group(id="engine", states=(GroupState(name="at rest"),)),)))
    bolted = _pipe(groups=(ENGINE,))
    behind = moved_with(bolted, bolted.parts[0].id, "hung")  # the vehicle's own pipe has the flex
    assert "no-flex" not in _codes(behind)
    rocking, still = (movement(d, system_of(d))[1][m] for d, m in ((bolted, "engine"), (behind, "hung")))
    assert any("rocked" in p.name for p in rocking)
    assert not any("rocked" in p.name for p in still)
    flex = Part(id="f", item=_item("flex", od=50.0))
    pieces = (
        Straight(id="a", length_mm=Length(300)),
        InLine(id="x", part="f"),
        Straight(id="b", length_mm=Length(300)),
    )
    design = _pipe(pieces=pieces, parts=(flex,), groups=(ENGINE,))
    assert "no-flex" not in _codes(design)
    assert "flex-late" in _codes(hang_on_pipe(design, "r1", "a", 100.0, None)[0])
    assert "flex-late" not in _codes(hang_on_pipe(design, "r1", "b", 100.0, None)[0])
    branched, new = fixings.add_branch(_pipe(), "r1", "a", 400.0, 90.0, 90.0, 38.0)
    assert "branch" in _codes(branched)
    for gentle in (30.0, 45.0):  # only what is steeper than the rule
        assert "branch" not in _codes(fixings.add_branch(_pipe(), "r1", "a", 400.0, 90.0, gentle, 38.0)[0])
    laid = lay_run(branched, branched.run(new))
    assert laid.start.point == pytest.approx([400.0, 25.0, 300.0])
    box = tuple(
        block(f"w{i}", f"wall {i}", a, b)
        for i, (a, b) in enumerate(
            (((350, -75, 240), (450, -45, 360)), ((350, 45, 240), (450, 75, 360)), ((350, -75, 340), (450, 75, 360)))
        )
    )
    boxed = _pipe(*box, pieces=(Straight(id="a", length_mm=Length(400)), Straight(id="b", length_mm=Length(400))))
    assert "buried" not in _codes(boxed), "a butt weld is made on the bench"
    shut = fixings.set_joint(boxed, "r1", "a", "v-band")
    assert "buried" in _codes(shut)


def test_fixings_keep_their_distance_when_pieces_change_and_are_refused_with_words() -> None:
    design = _boss(_pipe(), 0.0, along=600.0)
    from widebend.core.editing.edits import insert, take_out

    longer, _ = insert(design, "r1", None, "leg")  # 100 mm put in ahead: the boss stays on its piece
    assert longer.attachments[0].piece == "a"
    gone = take_out(longer, "r1", "a")
    assert gone.attachments[0].piece == gone.runs[0].pieces[-1].id, "it moves to the pipe that is there now"
    with pytest.raises(EditError, match="take that out first"):
        take_out(gone, "r1", gone.runs[0].pieces[0].id)
    with pytest.raises(EditError, match="800 mm long"):
        _boss(_pipe(), 0.0, along=900.0)
    with pytest.raises(EditError, match="no wider than its pipe"):
        fixings.add_branch(_pipe(), "r1", "a", 100.0, 0.0, 45.0, 60.0)
    with pytest.raises(EditError, match="overlap"):
        fixings.set_joint(_pipe(), "r1", "a", "slip")
    with pytest.raises(EditError, match="no such hang point"):
        hang_on_pipe(_pipe(), "r1", "a", 100.0, "nail")
    assert not fixings.without_fixing(design, "boss-1").attachments


def test_metals_that_do_not_weld_want_a_joint_that_comes_apart() -> None:
    tip = Part(id="t", item=_item("tip", od=50.0).replace(metal="titanium", wall_mm=Length(1.0)))
    pieces = (Straight(id="a", length_mm=Length(300)), InLine(id="x", part="t"))
    design = _pipe(pieces=pieces, parts=(tip,))
    assert "304 stainless and titanium do not weld" in _said(review(design), design, "no-weld")
    assert "no-weld" not in _codes(fixings.set_joint(design, "r1", "a", "clamp"))
    rusted = _with_item(design, metal="mild", surface="rusted")
    assert "rusted" in _codes(rusted)
    assert "strip-coat" in _codes(_with_item(design, metal="aluminised", surface="bare"))
    assert "thick-thin" in _codes(_with_item(design, metal="304", wall_mm=Length(8.0)))
    assert not _codes(_with_item(design, metal="409", wall_mm=Length(2.0))) & {"no-weld", "rusted", "thick-thin"}


def _with_item(design: Design, **update: object) -> Design:
    part = design.parts[1]
    changed = part.replace(item=part.item.replace(**update))
    return design.replace(parts=(design.parts[0], changed))


def _used(design: Design, road: str = "road", **more: object) -> Design:
    use = Use.model_validate(more)
    return design.replace(use=use, settings=Settings(use=road))


def test_an_emissions_part_is_never_taken_out_silently() -> None:
    gone = EmissionPart(id="e1", what="catalyst", name="front cat", fate="removed")
    road = _used(_pipe(), emissions=(gone,))
    assert "against the law in most places" in _said(review(road), road, "emissions")
    assert "use-unsaid" in _codes(road)
    shut = _used(_pipe(), "closed course", emissions=(gone,), written="track only", acknowledged_by="the owner")
    found = review(shut)
    assert "law" not in _said(found, shut, "emissions")
    assert "use-unsaid" not in {f.code for f in found.findings}
    kept = EmissionPart(id="e1", what="catalyst", part="cat", at=(Length(200), Length(0), Length(300)))
    cat = Part(id="cat", item=_item("cat", od=50.0, long=150.0))
    pieces = (Straight(id="a", length_mm=Length(200)), InLine(id="x", part="cat"))
    assert "emissions" not in _codes(_used(_pipe(pieces=pieces, parts=(cat,)), emissions=(kept,)))
    moved = (Straight(id="a", length_mm=Length(300)), InLine(id="x", part="cat"))
    design = _used(_pipe(pieces=moved, parts=(cat,)), emissions=(kept,), class_rules=("catalysts stay in place",))
    assert "Catalyst: moved" in _said(review(design), design, "emissions")
    assert "catalyst is moved" in _said(review(design), design, "class")
    off = _used(_pipe(parts=(cat,)), emissions=(kept,), class_rules=("catalysts stay",))
    assert "catalyst is removed" in _said(review(off), off, "class"), "on the shelf is not in the system"
    none = _used(_pipe(), class_rules=("catalysts stay", "silencer stays"))
    assert sum(f.code == "class" for f in review(none).findings) == 2


def test_a_configuration_leaves_parts_off_and_is_checked_alone() -> None:
    design = quad_rear()
    whole, shut = (configured(design, c) for c in design.configurations)
    assert len(shut.parts) == len(whole.parts) - 1
    assert any(f.code == "open" for f in review(shut).findings), "the muffler's outlet leads nowhere now"
    assert not any(f.code == "open" for f in review(whole).findings)
    cat = Part(id="cat", item=_item("cat", od=50.0, long=150.0, spigot=30.0))
    pieces = (
        Straight(id="a", length_mm=Length(200)),
        InLine(id="x", part="cat"),
        Straight(id="b", length_mm=Length(100)),
    )
    bare = configured(_pipe(pieces=pieces, parts=(cat,)), Configuration(id="c", name="test pipe", without=("cat",)))
    assert lay_run(bare, bare.runs[0]).end.point == pytest.approx([510.0, 0.0, 300.0]), "straight pipe in its place"
    assert configured(pie_downpipe(), Configuration(id="c", name="no branch", without=("r1",))).runs == ()


def test_faces_match_best_with_their_long_axes_together() -> None:
    """Both 0.8 mm out of round on the same mean: no step together, 0.4 mm each way crossed, i.e. 0.4 mm at most."""
    ends = End(63.9, 63.1), End(63.9, 63.1, widest_at_deg=30.0)
    best, worst = match(*ends)
    assert best.step_mm == pytest.approx(0.0, abs=1e-9)
    assert best.rotation_deg in (30.0, 210.0)  # 30 clockwise on the one face is 30 anticlockwise seen from the other
    assert worst.step_mm == pytest.approx(0.4, abs=1e-9)
    high = (
        End(63.5, 63.5, off_square_mm=1.0, highest_at_deg=40.0),
        End(63.5, 63.5, off_square_mm=1.0, highest_at_deg=90.0),
    )
    best, _ = match(*high)  # a long side belongs to a short one: 40 clockwise of one mark, 90 back from the other's
    assert best.gap_mm == pytest.approx(0.0, abs=1e-6)
    assert best.rotation_deg == pytest.approx(40.0 + 90.0 + 180.0)
    tilted = End(63.5, 63.5, off_square_mm=1.0), End(63.5, 63.5, off_square_mm=0.6)
    best, worst = match(*tilted)
    assert best.gap_mm == pytest.approx(0.4, abs=1e-6), "a tilt takes up the other's"
    assert worst.gap_mm == pytest.approx(1.6, abs=1e-6)
    with pytest.raises(InputError, match="widest"):
        match(End(60.0, 61.0), End(60.0, 60.0))


def _rear(y: float = 400.0, od: float = 80.0, z: float = 300.0) -> Design:
    """A tip to the right in a rectangle 200 x 120 whose middle is at (400, 300)."""
    outline = tuple((Length(a), Length(b)) for a, b in ((-100, -60), (100, -60), (100, 60), (-100, 60)))
    hole = Window(id="w", name="cut-out", center=(Length(4300), Length(400), Length(300)), outline=outline)
    tip = Part(
        id="t", item=_item("tip", od=50.0, tip_od=od, long=200.0), name="tip", placed=placed_at((4100, y, z), (1, 0, 0))
    )
    return Design(survey=Survey(windows=(hole,)), parts=(tip,))


def test_the_rear_view_gives_the_gap_toward_every_hour() -> None:
    """An 80 tip in the middle of 200 x 120: 20 up and down, 60 to each side; at 1 o'clock 60 / cos 30 - 40 = 29.3."""
    design = _rear()
    (tip,) = tips_seen(design.survey, review(design).system)
    assert tip.cut_out == "cut-out"
    hours = {clock or 12: gap for clock, gap in enumerate(tip.round_gaps)}
    assert [hours[h] for h in (12, 3, 6, 9)] == pytest.approx([20.0, 60.0, 20.0, 60.0])
    assert hours[1] == pytest.approx(60 / np.cos(np.radians(30)) - 40, abs=1e-6)
    assert tip.least_mm == pytest.approx(20.0)
    small, big = sizes(tip, (60.0, 130.0))
    assert (small.least_mm, big.least_mm) == pytest.approx((30.0, -5.0))
    off = tips_seen(_rear(430.0, z=310.0).survey, review(_rear(430.0, z=310.0)).system)[0]
    assert off.least_mm == pytest.approx(10.0)
    assert sizes(off, (80.0,))[0].centred_mm == pytest.approx(20.0, abs=0.1)
    assert widest_circle(tip.outline)[1] == pytest.approx(60.0, abs=0.1)
    free = tips_seen(Survey(), review(design).system)[0]
    assert free.least_mm is None


def test_the_gap_round_a_tip_is_measured_where_the_cut_out_is() -> None:
    """An outlet 80 behind the plane, its tip pitched 15 degrees, stands 80 tan 15 = 21.4 off there, and the plane cuts
    it 40 / cos 15 = 41.4 high: 60 - 21.4 - 41.4 = -2.8. A lip of 10 takes 10. Two tips keep to each other.
    """
    pitch = np.radians(15.0)
    way = np.array([np.cos(pitch), 0.0, -np.sin(pitch)])
    start = np.array([4380.0, 400.0, 300.0]) - 200.0 * way
    tip = Part(id="t", item=_item("tip", od=50.0, tip_od=80.0, long=200.0), name="tip", placed=placed_at(start, way))
    design = _rear().replace(parts=(tip,))
    (seen,) = tips_seen(design.survey, review(design).system)
    assert seen.least_mm == pytest.approx(60.0 - 80.0 * np.tan(pitch) - 40.0 / np.cos(pitch), abs=0.1)
    lipped = Part(
        id="t",
        item=_item("tip-rolled", od=50.0, tip_od=80.0, long=200.0, lip=10.0, lip_long=20.0),
        placed=placed_at((4100, 400, 300), (1, 0, 0)),
    )
    design = _rear().replace(parts=(lipped,))
    (seen,) = tips_seen(design.survey, review(design).system)
    assert seen.least_mm == pytest.approx(10.0)
    assert sizes(seen, (70.0,))[0].least_mm == pytest.approx(15.0)
    item = _item("tip", od=50.0, tip_od=80.0, long=200.0)
    two = tuple(
        Part(id=name, item=item, name=name, placed=placed_at((4100, y, 300), (1, 0, 0)))
        for name, y in (("a", 356.0), ("b", 444.0))
    )
    design = _rear().replace(parts=two)
    left, _right = tips_seen(design.survey, review(design).system)
    assert left.round_gaps[3] == left.least_mm == pytest.approx(8.0)


def test_a_sensor_has_no_room_beside_another_pipe() -> None:
    """Its 70 mm of plug and spanner reach into a pipe 100 mm beside, and not into one 200 mm beside."""
    for apart, wrong in ((100.0, True), (200.0, False)):
        design = _pipe(pieces=(Straight(id="a", length_mm=Length(400)),))
        beside = Part(id="s2", item=design.parts[0].item, placed=placed_at((0.0, apart, 300.0), (1, 0, 0)))
        run = design.runs[0].replace(id="r2", name="other", start="s2.out", aim=None)
        boss = Attachment(
            id="b",
            kind="boss",
            name="wideband",
            run=design.runs[0].id,
            piece="a",
            along_mm=Length(200),
            roll_deg=90.0,
            stands_mm=Length(70),
        )
        design = design.replace(parts=(*design.parts, beside), runs=(*design.runs, run), attachments=(boss,))
        said = [f.thing_name for f in review(design).findings if f.code == "sensor-room"]
        mirrored = boss.replace(roll_deg=270.0)
        said += [
            f.thing_name for f in review(design.replace(attachments=(mirrored,))).findings if f.code == "sensor-room"
        ]
        assert said == (["other pipe"] if wrong else [])


def test_tips_left_and_right_are_even_and_blow_clear() -> None:
    def tips(dy: float, *things: Thing) -> Design:
        design = Design(survey=Survey(things=things))
        for name, y in (("left tip", -400.0 - dy), ("right tip", 400.0)):
            design, _ = add_part(design, _item("tip", od=50.0), name, placed_at((4000, y, 300), (1, 0, 0)))
        return design

    assert "tip-uneven" not in _codes(tips(2.0))
    uneven = tips(8.0)
    assert "the left is 8 mm further out" in _said(review(uneven), uneven, "tip-uneven")
    wall = block("w", "tow bar", (4300, 350, 250), (4350, 450, 350))
    assert "blows" in _codes(tips(0.0, wall))
    under = block("u", "boot floor", (3900, -600, 500), (4900, 600, 520))
    assert "ends-under" in _codes(tips(0.0, under))
    aside, _ = add_part(Design(), _item("tip", od=50.0), "side tip", placed_at((2500, 700, 250), (0, 1, 0)))
    assert "comes out on the right" in _said(review(aside), aside, "side-exit")
    can, _ = add_part(
        Design(survey=Survey(things=(block("f", "floor pan", (1900, -300, 320), (2700, 300, 340)),))),
        _item("muffler"),
        "muffler",
        placed_at((2000, 0, 250), (1, 0, 0)),
    )
    assert "muffler-near" in _codes(can), "15 mm over it: more than 10, less than 25"


def test_pipe_is_checked_against_hardware_and_hardware_against_hardware() -> None:
    can = Part(id="m", name="muffler", item=_item("muffler", od=50.0), placed=placed_at((300, 80, 300), (1, 0, 0)))
    found = [f for f in review(_pipe(parts=(can,))).findings if f.thing == "m"]
    assert found[0].code == "touches"
    assert found[0].gap_mm == pytest.approx(80 - 115 - 25, abs=2.5)  # inside the can's side, by its nearest flat
    beside = Part(id="n", name="resonator", item=_item("resonator"), placed=placed_at((300, 262, 300), (1, 0, 0)))
    near = review(Design(parts=(can, beside))).findings
    pair = next(f for f in near if f.code in ("own", "touches") and {f.part, f.thing} == {"m", "n"})
    assert pair.gap_mm == pytest.approx(182 - 115 - 60, abs=1.2)
    assert pair.code == "own"


def test_mirrored_sides_that_could_be_mixed_up_are_named() -> None:
    design = Design()
    design, a = add_part(design, _item("v-band", od=50.0), "left start", placed_at((0, -200, 300), (1, 0, 0)))
    design, b = add_part(design, _item("v-band", od=50.0), "left end", placed_at((900, -200, 300), (1, 0, 0)))
    design, run = joined(design, f"{a}.out", f"{b}.in", TUBE, "left pipe")
    laid = design.runs[0].replace(pieces=(Straight(id="a", length_mm=Length(876)),))
    twin = mirror_run(design.replace(runs=(laid,)), run)
    assert "V-bands the same way round" in mixed_up(twin)[0]
    turned = [p.item.replace(side="female ahead" if "right" in p.name else p.item.side) for p in twin.parts]
    changed = tuple(p.replace(item=i) for p, i in zip(twin.parts, turned, strict=True))
    assert mixed_up(twin.replace(parts=changed)) == []


def test_every_kind_meets_a_port_reference_to_reference() -> None:
    """Set onto a port, a part's inlet stands on it looking back at it, whichever way it looks in its own frame."""
    base, start = add_part(Design(), _item("v-band"), "start", placed_at((1000, 50, 260), (0.9, 0.3, -0.2)))
    for key in SHELF:
        item = _item(key)
        design, part = add_part(base, item, key, on_port(base, item, f"{start}.out"))
        system = review(design).system
        ports = {q.name: q.pose for q in system.ports}
        inlet = next(p.id for p in item.ports if p.role != "out")
        one, two = ports[f"{start}.out"], ports[f"{part}.{inlet}"]
        assert two.point == pytest.approx(one.point, abs=1e-5), key
        assert two.flow == pytest.approx(-one.flow, abs=1e-9), key


def test_what_moves_without_a_movement_is_said() -> None:
    design = _pipe()
    axle = block("axle", "axle tube", (2500, -300, 500), (2560, 300, 560)).replace(moves_with="rear-axle")
    still = Group(id="rear-axle", name="rear axle", motion=AxleTravel(droop_mm=Length(0), bump_mm=Length(0)))
    survey = design.survey.replace(things=(axle,), groups=(still,))
    assert "no-travel" in _codes(design.replace(survey=survey))
    moving = still.replace(motion=AxleTravel(droop_mm=Length(60), bump_mm=Length(0)))
    moves = survey.replace(groups=(moving,))
    assert "no-travel" not in _codes(design.replace(survey=moves))
