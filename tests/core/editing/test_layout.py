"""Hardware, the way of the gas, mirroring and placing: against identities and figures worked by hand."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.editing import HOLD, differences, mirror_part, mirror_run, placed_at, placing, take_answer
from widebend.core.editing.edits import carry, set_piece, set_tube
from widebend.core.errors import EditError, InputError
from widebend.core.geometry import clearance
from widebend.core.hardware import SHELF, item_of
from widebend.core.laying import open_ports, part_bodies, part_frames, path, steps, system_of
from widebend.core.records import Bend, Design, Part, Tube
from widebend.core.review import review, sections, solid_of
from widebend.core.space import pose, unit
from widebend.core.units import Length
from widebend.core.wording import say
from widebend.demo.examples import cat_back
from widebend.demo.systems import twin_x

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


def _item(key: str, **values: float):
    return item_of(key, "", {m.key: m.usual for m in SHELF[key].measures} | values)


def _placed(key: str, point: tuple[float, float, float], design: Design | None = None, **values: float) -> Design:
    at = placed_at(point, (1.0, 0.0, 0.0))
    return placing.add_part(design or Design(), _item(key, **values), "", at)[0]


@pytest.mark.parametrize("key", SHELF)
def test_every_kind_has_ports_that_look_out_of_its_bodies(key: str) -> None:
    """A little outside each port is free of the part, a little inside is in its metal or its bore."""
    part = Part(id="x", item=_item(key))
    rows = np.array([solid_of(body) for body in part_bodies(part, pose((0, 0, 0), (1, 0, 0), (0, 0, 1)))])
    for port in part.item.ports:
        at, way = np.asarray(port.point, dtype=float), unit(port.axis)
        beside = np.array([at + 0.5 * way, at - 0.5 * way])
        outside, inside = clearance.least_distances(beside, rows, np.arange(len(rows)), len(rows))
        assert outside.min() > 0, port.id
        assert inside.min() < 0, port.id


def test_what_cannot_be_made_is_refused() -> None:
    for key, values, words in (
        ("merge", {"long": 60.0}, "longer, or a wider angle"),
        ("merge", {"deg": 5.0}, "meet at 10"),
        ("v-band", {"ring": 60.0}, "wider than its tube"),
        ("cutout", {"deg": 95.0}, "leaves at 10"),
        ("oval", {"wide": 30.0}, "at least as wide"),
        ("pie-pack", {"slices": 25.0}, "1 to 20 slices"),
        ("tip-slash", {"deg": 75.0}, "slash of"),
        ("tip-twin", {"apart": 40.0}, "cannot stand"),
        ("crossover", {"off": 40.0}, "pipes meet when"),
        ("crossover-h", {"stub": 80.0}, "no wider than they are"),
        ("muffler-same", {"apart": 40.0}, "spigots stand"),
    ):
        with pytest.raises(InputError, match=words):
            _item(key, **values)
    with pytest.raises(InputError, match="leaves the body"):
        _item("muffler", out_off=100.0)
    with pytest.raises(InputError, match="two outlets need"):
        _item("muffler", dual=20.0)


def test_a_dual_muffler_gives_the_gas_two_ways() -> None:
    design = _placed("muffler", (2000, 0, 250), dual=140.0)
    for name, y in (("left", -70.0), ("right", 70.0)):
        tip = _item("tip")
        port = f"muffler-1.out-{name}"
        design, part = placing.add_part(design, tip, f"{name} tip", placing.on_port(design, tip, port))
        assert design.part(part).placed.point[1] == pytest.approx(y)
    ways = path(design, system_of(design))
    assert ways == [["muffler", "left tip"], ["muffler", "right tip"]]
    assert [p.name for p in open_ports(design, system_of(design))] == ["muffler-1.in"]


def test_a_part_set_onto_a_port_meets_it_whatever_way_it_looks() -> None:
    rng = np.random.default_rng(2)
    for _ in range(20):
        flow, up = rng.normal(size=3), rng.normal(size=3)
        at = placed_at(rng.uniform(-500, 3000, 3), flow, up - (up @ flow) / (flow @ flow) * flow)
        design, first = placing.add_part(Design(), _item("flex"), "", at)
        can = _item("muffler", in_off=30.0)
        design, second = placing.add_part(design, can, "", placing.on_port(design, can, f"{first}.out"))
        a, b = part_frames(design.part(first))["out"], part_frames(design.part(second))["in"]
        assert np.allclose(a.point, b.point, atol=1e-5)
        assert np.allclose(a.flow, -b.flow, atol=1e-9)
        assert np.allclose(a.reference, b.reference, atol=1e-9)


def test_open_ports_and_diameter_steps_are_findings() -> None:
    design = _placed("flange-2", (1000, 0, 250))
    design = _placed("muffler", (2000, 0, 250), design, od=76.2)
    design, run = placing.joined(design, "flange-1.out", "muffler-1.in", TUBE)
    design = design.replace(settings=cat_back().settings)
    found = [f for f in review(design).findings if f.code in ("open", "step")]
    assert {f.names[0] for f in found if f.code == "open"} == {"out"}  # the flange's inlet is the vehicle's own
    assert not steps(design, system_of(design))  # no pipe yet
    straight = {"id": "p1", "kind": "leg", "length_mm": 990.0}
    design = Design.model_validate(
        design.model_dump() | {"runs": [design.run(run).model_dump() | {"pieces": [straight]}]}
    )
    words = [say(f, design) for f in review(design).findings if f.code == "step"]
    assert words == ["The muffler: its in is 76.2 mm, what meets it 63.5 mm: a reducer or an expander is wanted."]


def test_joining_ports_that_cannot_be_joined() -> None:
    design = _placed("muffler", (2000, 0, 250), _placed("flange-2", (1000, 0, 250)))
    for start, aim, words in (
        ("flange-1.in", "muffler-1.in", "does not leave by an inlet"),
        ("flange-1.out", "muffler-1.out", "does not enter by an outlet"),
        ("muffler-1.out", "muffler-1.in", "same part"),
        ("nothing.out", "muffler-1.in", "no place yet"),
    ):
        with pytest.raises(EditError, match=words):
            placing.joined(design, start, aim, TUBE)
    design, run = placing.joined(design, "flange-1.out", "muffler-1.in", TUBE)
    with pytest.raises(EditError, match="has something on its out already"):
        placing.joined(design, "flange-1.out", "muffler-1.in", TUBE)
    with pytest.raises(EditError, match="joined to it"):
        placing.without_part(design, "muffler-1")
    assert not placing.without_run(design, run).runs


# --- the other side -------------------------------------------------------------------------------------------------


@settings(max_examples=25, deadline=None)
@given(st.floats(-600, 600))
def test_a_mirrored_run_is_the_reflection_of_every_point(line: float) -> None:
    design = mirror_run(cat_back(), "r1", line)
    runs = system_of(design).runs
    for piece, twin in zip(runs[0].pieces, runs[1].pieces, strict=True):
        for a, b in ((piece.inlet, twin.inlet), (piece.outlet, twin.outlet)):
            assert np.allclose(b.point, [a.point[0], 2 * line - a.point[1], a.point[2]], atol=1e-6)
            assert np.allclose(b.flow, a.flow * [1, -1, 1], atol=1e-9)
    # a muffler that stands all but on the line is its own twin: then it is met to what counts as the same place
    assert runs[1].miss_mm < (1.0 if runs[1].run.aim == runs[0].run.aim else 1e-6)


def test_a_mirrored_part_is_of_the_other_hand() -> None:
    """A muffler whose outlet is 40 to the right of its middle, turned and rolled: reflected, port by port."""
    at = placed_at((2000, 300, 250), (0.8, 0.36, 0.48), (0.1, 0.2, 0.9))
    design, part = placing.add_part(Design(), _item("muffler", out_off=40.0), "left muffler", at)
    both = mirror_part(design, part, 25.0)
    assert both.parts[1].name == "right muffler"
    for name in ("in", "out"):
        a, b = part_frames(both.parts[0])[name], part_frames(both.parts[1])[name]
        assert np.allclose(b.point, [a.point[0], 50 - a.point[1], a.point[2]], atol=1e-6)
        assert np.allclose(b.flow, a.flow * [1, -1, 1], atol=1e-9)


def test_a_linked_twin_follows_and_a_free_one_is_told_apart() -> None:
    design = mirror_run(cat_back(), "r1")
    twin = design.runs[1].id
    changed = set_piece(design, "r1", "p9", {"length_mm": 380.0}, HOLD)
    assert not differences(changed.runs[0], changed.run(twin))
    free = design.runs[1].replace(twin_linked=False)
    alone = set_piece(design.replace(runs=(design.runs[0], free)), "r1", "p9", {"length_mm": 380.0}, HOLD)
    unlike = differences(alone.runs[0], alone.run(twin))
    assert any("380 mm here, 405 mm there" in words for words in unlike)


# --- placing --------------------------------------------------------------------------------------------------------


def test_moving_turning_levelling_and_locking() -> None:
    design = _placed("muffler", (2000, 100, 250))
    design = placing.moved_part(design, "muffler-1", np.array([0.0, 25.0, -10.0]))
    assert tuple(design.parts[0].placed.point) == (2000.0, 125.0, 240.0)
    design = placing.turned_part(design, "muffler-1", heading=30.0, slope=10.0)
    flow = part_frames(design.parts[0])["out"].flow
    assert np.degrees(np.arcsin(flow[2])) == pytest.approx(10.0, abs=0.2)
    level = placing.levelled(design, "muffler-1")
    assert part_frames(level.parts[0])["out"].flow[2] == pytest.approx(0.0, abs=1e-12)
    square = part_frames(placing.squared(level, "muffler-1").parts[0])["out"].flow
    assert np.allclose(square, [1, 0, 0], atol=1e-9)
    rolled = placing.turned_part(_placed("muffler", (0, 0, 0)), "muffler-1", roll=90.0)
    assert np.allclose(rolled.parts[0].placed.pose().reference, [0, 1, 0], atol=1e-9)
    design = placing.locked_part(design, "muffler-1", locked=True)
    with pytest.raises(EditError, match="unlock it first"):
        placing.moved_part(design, "muffler-1", np.ones(3))


def test_what_is_set_on_a_part_goes_along() -> None:
    """A muffler turned about its inlet takes the tip on its outlet: port still meets port."""
    design = _placed("muffler", (2000, 100, 250))
    item = _item("tip")
    design, tip = placing.add_part(design, item, "tip", placing.on_port(design, item, "muffler-1.out"))
    for change in (
        placing.moved_part(design, "muffler-1", np.array([10.0, 25.0, -10.0])),
        placing.turned_part(design, "muffler-1", heading=20.0, slope=5.0, roll=30.0),
    ):
        meets = [{a.part.id, b.part.id} for a, b in system_of(change).faces]
        assert meets == [{"muffler-1", tip}]
    held = placing.moved_part(placing.locked_part(design, tip, locked=True), "muffler-1", np.ones(3))
    assert held.part(tip).placed == design.part(tip).placed


def test_as_high_as_another() -> None:
    design = _placed("tip", (4000, 200, 310), _placed("muffler", (2000, 100, 250)))
    assert placing.as_high_as(design, "tip-1", "muffler-1").part("tip-1").placed.point[2] == 250.0


# --- what comes apart -----------------------------------------------------------------------------------------------


def test_sections_end_at_joints_that_come_apart() -> None:
    """Two metres of 63.5 x 1.5 in 304 with a clamp half way: pi (63.5 - 1.5) 1.5 x 7900 = 2.308 kg/m each."""
    design = _placed("flange-2", (0, 0, 250))
    run = {
        "id": "r1",
        "start": "flange-1.out",
        "tube": TUBE.model_dump(),
        "pieces": [
            {"id": "a", "kind": "leg", "length_mm": 1000.0},
            {"id": "b", "kind": "leg", "length_mm": 600.0},
            {"id": "c", "kind": "leg", "length_mm": 400.0},
        ],
        "joints": [{"after": "a", "kind": "clamp"}],
    }
    design = Design.model_validate(design.model_dump() | {"runs": [run]})
    first, second = sections(design, system_of(design))
    assert (first.pieces, first.joints) == ((("r1", 0),), ("flange", "clamp"))
    assert (second.pieces, second.joints) == ((("r1", 1), ("r1", 2)), ("clamp",))
    assert first.mass_kg == pytest.approx(2.308, abs=1e-3)
    assert second.length_mm == pytest.approx(1000.0)
    assert np.allclose(first.size_mm, [1063.5, 63.5, 63.5], atol=0.1)


def test_a_section_with_a_part_of_unknown_mass_says_so() -> None:
    design = cat_back()
    parts = tuple(p.replace(item=p.item.replace(mass_kg=None)) if p.id == "res" else p for p in design.parts)
    design = design.replace(parts=parts)
    found = sections(design, system_of(design))
    pieces = cat_back().runs[0].pieces
    assert sum(len(s.pieces) for s in found) == sum(p.kind != "part" for p in pieces)
    assert {p for s in found for p in s.parts} == {"cat", "res", "muffler", "tip"}
    assert any(s.mass_kg is None for s in found)


def test_a_part_is_set_to_a_line_a_hang_point_a_port_or_its_opposite() -> None:
    """On the demo: the muffler in line with the start faces it on one axis; other places are plain arithmetic."""
    design = cat_back()

    def place(to: str) -> np.ndarray:
        changed, _ = placing.snapped_part(design, "muffler", to)
        return np.asarray(changed.part("muffler").placed.point, dtype=float)

    x, _, z = (float(c) for c in design.part("muffler").placed.point)
    assert place("centre") == pytest.approx([x, 0.0, z])
    assert place("left-rail") == pytest.approx([x, -430.0, z])
    assert place("hang:h2") == pytest.approx([3560.0, 420.0, z])
    assert place("mirror:tip") == pytest.approx([4215.0, -300.0, 292.0])
    port = next(q for q in system_of(design).ports if q.name == "start.out").pose
    off = place("port:start.out") - port.point
    assert np.linalg.norm(np.cross(off, port.flow)) < 1e-4
    for to, words in (("hang:nail", "no longer"), ("moon", "choose what"), ("port:nothing.out", "no place yet")):
        with pytest.raises(EditError, match=words):
            placing.snapped_part(design, "muffler", to)


def _one_run(*pieces: dict[str, object]) -> Design:
    design = _placed("flange-2", (0, 0, 250))
    run = {"id": "r1", "start": "flange-1.out", "tube": TUBE.model_dump(), "pieces": list(pieces)}
    return Design.model_validate(design.model_dump() | {"runs": [run]})


def test_hardware_is_put_into_the_line_and_pipe_behind_it_has_its_own_tube() -> None:
    """Two straights with a reducer between: a step behind it until the pipe there is the reducer's size."""
    design = _one_run({"id": "a", "kind": "leg", "length_mm": 300.0}, {"id": "b", "kind": "leg", "length_mm": 300.0})
    design, part = placing.add_part(design, _item("reducer"), "reducer", None)
    design, piece = carry(design, "r1", "a", part)
    assert [p.kind for p in design.runs[0].pieces] == ["leg", "part", "leg"]
    assert [s.port.port.id for s in steps(design, system_of(design))] == ["out"]
    wide = Tube(od_mm=Length(76.2), wall_mm=Length(1.5))
    changed = set_tube(design, "r1", "b", wide)
    assert not steps(changed, system_of(changed))
    assert changed.runs[0].pieces[0].tube is None
    with pytest.raises(EditError, match="its place already"):
        carry(design, "r1", None, part)
    with pytest.raises(EditError, match="its own diameter"):
        set_tube(design, "r1", piece, wide)
    tip, end = placing.add_part(design, _item("tip-down"), "tip", None)
    assert carry(tip, "r1", "b", end)[0].runs[0].pieces[-1].leave == "out"


def test_another_tube_without_a_reducer_is_a_finding_and_new_pipe_follows_the_last() -> None:
    design = _one_run({"id": "a", "kind": "leg", "length_mm": 300.0}, {"id": "b", "kind": "leg", "length_mm": 300.0})
    changed = set_tube(design, "r1", "b", Tube(od_mm=Length(76.2), wall_mm=Length(1.5)))
    words = [say(f, changed) for f in review(changed).findings if f.code == "step"]
    assert words == ["Piece 2 is 76.2 mm, the one ahead of it 63.5 mm: a reducer or an expander is wanted."]
    longer = take_answer(changed, "r1", 2, [Bend(id="n", angle_deg=30.0, clr_mm=Length(95.25))])
    assert longer.runs[0].pieces[-1].tube.od_mm == 76.2
    assert set_tube(changed, "r1", "b", TUBE).runs[0].pieces[1].tube is None


def test_a_mirrored_run_lands_on_what_is_there_and_takes_the_tip_along() -> None:
    """One bank of a twin system taken away and mirrored again: the X in the middle serves it with its other port."""
    whole = twin_x()
    runs = {run.name: run for run in whole.runs}
    left, right = runs["left bank"], runs["right bank"]
    one = placing.without_run(whole, right.id)
    again = mirror_run(one, left.id)
    twin = again.runs[-1]
    assert twin.aim == right.aim
    assert twin.start == right.start
    assert sum(p.item.kind == "crossover" for p in again.parts) == 1
    alone = mirror_run(cat_back(), "r1", 400.0)
    names = sorted(p.item.kind for p in alone.parts if p.placed)
    assert names.count("tip") == 2 * sum(p.item.kind == "tip" and p.placed is not None for p in cat_back().parts)


def test_a_run_on_the_line_has_no_other_side() -> None:
    design = mirror_run(cat_back(), "r1", 400.0)
    with pytest.raises(EditError, match="its other side is itself"):
        both_on_line = design.replace(
            parts=tuple(
                p.replace(
                    placed=p.placed.replace(
                        point=(p.placed.point[0], Length(0.0), p.placed.point[2]), axis=(1.0, 0.0, 0.0)
                    )
                )
                if p.placed
                else p
                for p in cat_back().parts
            ),
            runs=cat_back().runs,
        )
        mirror_run(both_on_line, "r1", 0.0)
