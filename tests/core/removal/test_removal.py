"""Trying sections out: scenes whose answer is plain by inspection, and every step of an answer checked on its own."""

import json
import math

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from widebend.core.geometry import capsule_row, met_between, rows_of, straight_row, tube_gap
from widebend.core.hardware import shelf
from widebend.core.laying import obstacles, system_of
from widebend.core.records import Design, Extrusion, Joint, Part, Placed, Run, Straight, Survey, Thing, Tube
from widebend.core.removal import WayOut, deepest_mm, order_out, out_or_helped, way_out
from widebend.core.removal.removal_path import section_rows
from widebend.core.review import packed, review, sections, worst_margin
from widebend.core.space import unit
from widebend.core.units import Length
from widebend.demo.examples import bar, block
from widebend.formats.ways_out_json import read_way_out, way_out_data

TUBE = Tube(od_mm=Length(50.0), wall_mm=Length(1.5))


def _pipe(long: float, things: tuple[Thing, ...], height: float = 400.0) -> Design:
    """A straight pipe from a flange at the origin, rearward."""
    start = Part(
        id="s",
        item=shelf.start_flange(50.0),
        placed=Placed(point=(Length(0), Length(0), Length(height)), axis=(1.0, 0.0, 0.0)),
    )
    run = Run(
        id="r1",
        start="s.out",
        tube=TUBE,
        pieces=(Straight(id="a", length_mm=Length(long)),),
        joints=(Joint(after="start", kind="flange"),),
    )
    return Design(survey=Survey(things=things), parts=(start,), runs=(run,))


def _tried(design: Design) -> WayOut:
    system = system_of(design)
    (section,) = sections(design, system)
    return way_out(system, section, obstacles(design.survey, design.settings.rules))


def _is_free_all_the_way(design: Design, way: WayOut) -> None:
    """Each leg of the way, cut fine, keeps off everything: by the tube kernel, not by the search's own check."""
    rows = section_rows(system_of(design), way.section)
    around = packed(obstacles(design.survey, design.settings.rules))
    bare = type(around)(around.obstacles, around.rows, around.owner, np.zeros(len(around.obstacles)))
    for place in way.places:
        assert worst_margin(place.rows(rows), bare, 50.0)[0] >= -0.5


def _plate(thing_id: str, x: tuple[float, float], z: float) -> Thing:
    return block(thing_id, f"plate {thing_id}", (x[0], -200, z), (x[1], 200, z + 20))


def test_a_pipe_with_nothing_under_it_comes_straight_down() -> None:
    design = _pipe(600.0, (block("floor", "floor pan", (-100, -300, 500), (900, 300, 520)),))
    way = _tried(design)
    assert [(m.axis, m.turns) for m in way.moves] == [(2, False)]
    assert way.moves[0].by < 0
    assert deepest_mm(system_of(design), way) == pytest.approx(-way.moves[0].by)


def test_a_pipe_in_a_window_is_drawn_back_first() -> None:
    hole = tuple((Length(x), Length(y)) for x, y in ((-40, -40), (40, -40), (40, 40), (-40, 40)))
    edge = tuple((Length(x), Length(y)) for x, y in ((-200, -150), (200, -150), (200, 150), (-200, 150)))
    plate = Thing(
        id="w",
        name="brace with a window",
        shape=Extrusion(
            origin=(Length(200), Length(0), Length(400)),
            axis=(1.0, 0.0, 0.0),
            reference=(0.0, 0.0, 1.0),
            depth=Length(20),
            outline=edge,
            holes=(hole,),
        ),
    )
    design = _pipe(600.0, (plate,))
    way = _tried(design)
    assert way.found
    assert not way.moves[0].turns
    assert way.moves[0].axis == 0
    down = sum(-m.by for m in way.moves if (m.axis, m.turns) == (2, False))
    assert deepest_mm(system_of(design), way) >= down - 1.0  # what is turned on the way reaches lower still
    _is_free_all_the_way(design, way)


def test_a_pipe_between_plates_needs_at_least_six_moves() -> None:
    """Plates below each other leave a way out at the back, the front, the back: each turn of it is a move."""
    walls = tuple(
        block(f"wall{i}", f"wall {i}", a, b)
        for i, (a, b) in enumerate(
            (
                ((-20, -200, -100), (0, 200, 460)),
                ((700, -200, -100), (720, 200, 460)),
                ((-20, -220, -100), (720, -200, 460)),
                ((-20, 200, -100), (720, 220, 460)),
            )
        )
    )
    at = {"lid": (0, 700, 460), "a": (0, 480, 330), "b": (220, 700, 200), "c": (0, 480, 70)}
    plates = [_plate(name, (low, high), z) for name, (low, high, z) in at.items()]
    start = _pipe(160.0, (*walls, *plates))
    moved = start.parts[0].replace(placed=Placed(point=(Length(30), Length(0), Length(400)), axis=(1.0, 0.0, 0.0)))
    design = start.replace(parts=(moved,))
    way = _tried(design)
    assert way.found
    assert len(way.moves) >= 6
    _is_free_all_the_way(design, way)


def _dumbbell() -> Design:
    """A pipe through a ring, with a can too big for the ring at each end: it cannot come out whole."""
    hole = tuple((Length(x), Length(y)) for x, y in ((-40, -40), (40, -40), (40, 40), (-40, 40)))
    edge = tuple((Length(x), Length(y)) for x, y in ((-300, -300), (300, -300), (300, 300), (-300, 300)))
    ring = Thing(
        id="ring",
        name="ring frame",
        shape=Extrusion(
            origin=(Length(290), Length(0), Length(400)),
            axis=(1.0, 0.0, 0.0),
            reference=(0.0, 0.0, 1.0),
            depth=Length(20),
            outline=edge,
            holes=(hole,),
        ),
    )
    base = _pipe(400.0, (ring,))
    cans = tuple(
        Part(
            id=i,
            item=shelf.can("muffler", i, 50.0, (160, 160, 160), spigot_mm=10),
            placed=Placed(point=(Length(x), Length(0), Length(400)), axis=(1.0, 0.0, 0.0)),
        )
        for i, x in (("m1", 0.0), ("m2", 580.0))
    )
    run = base.runs[0].replace(start="m1.out", aim="m2.in", joints=())
    parts = (
        cans[0].replace(placed=Placed(point=(Length(0), Length(0), Length(400)), axis=(1.0, 0.0, 0.0))),
        cans[1],
    )
    return base.replace(parts=parts, runs=(run,))


def test_a_section_too_big_for_its_ring_at_both_ends_is_trapped() -> None:
    design = _dumbbell()
    system = system_of(design)
    (section,) = sections(design, system)
    around = obstacles(design.survey, design.settings.rules)
    way = way_out(system, section, around)
    assert not way.found
    assert way.hit[0] == "ring frame"
    told: list[tuple[str, float]] = []
    freed, change = out_or_helped(design, system, section, around, lambda words, share: told.append((words, share)))
    assert freed.found
    assert change == "with the ring frame taken off"
    assert [share for _, share in told] == sorted(share for _, share in told)
    read = read_way_out(json.loads(json.dumps(way_out_data(freed, [section]))), [section])
    assert (read.moves, read.hit) == (freed.moves, freed.hit)
    assert all(np.array_equal(a.turn, b.turn) for a, b in zip(read.places, freed.places, strict=True))


@pytest.mark.parametrize("seed", range(40))
def test_nothing_thin_is_passed_on_a_slide_or_a_turn(seed: int) -> None:
    """A wire of 3 mm beside a bent pipe that goes a way: met, or clear by less than the bound, as 400 looks say."""
    rng = np.random.default_rng(seed)
    rows = rows_of(
        [
            straight_row(np.zeros(3), np.array([1.0, 0, 0]), 300.0, 25.0, 1),
            straight_row(np.array([300.0, 0, 0]), np.array([0.8, 0.6, 0]), 250.0, 25.0, 2),
        ]
    )
    axis, slide = unit(rng.normal(size=3)), rng.normal(size=3) * 200.0 * (seed % 2)
    angle, about = math.radians(rng.uniform(5, 24)), rng.uniform(-100, 400, 3)
    sweep = np.array([*about, *axis, angle, *slide, *np.eye(3).ravel(), 0, 0, 0])

    def moved(t: float) -> np.ndarray:
        turn = Rotation.from_rotvec(t * angle * axis).as_matrix()
        out = rows.copy()
        out[:, 3:6] = about + (rows[:, 3:6] - about) @ turn.T + t * slide
        out[:, 6:9], out[:, 9:12] = rows[:, 6:9] @ turn.T, rows[:, 9:12] @ turn.T
        return out

    said = [0, 0]
    for _ in range(60):
        middle, way = rng.uniform((-100, -200, -200), (600, 300, 200)), unit(rng.normal(size=3)) * 150.0
        wire = capsule_row(middle - way, middle + way, 1.5)
        least = min(float(tube_gap(moved(t), wire, 1e6)) for t in np.linspace(0, 1, 201))
        met = met_between(rows, np.array([0, 2]), wire[None], np.array([0.5]), sweep, 0.0, 1.0) >= 0
        said[met] += 1
        assert met if least < 0.05 else True, least
        assert not met if least > 2.5 else True, least  # the samples lie less than 2 mm apart
    assert all(said)


def test_a_section_over_one_thing_and_under_another_is_a_finding() -> None:
    things = (
        bar("axle", "axle", (100, -300, 250), (100, 300, 250), 40),
        bar("brace", "brace", (400, -300, 480), (400, 300, 480), 20),
    )
    codes = {f.code: f for f in review(_pipe(600.0, things)).findings}
    assert codes["trapped"].thing_name == "axle"
    assert codes["trapped"].names == ("brace",)


def test_sections_come_out_from_behind_and_go_in_the_other_way_round() -> None:
    design = _pipe(600.0, ())
    joints = (Joint(after="start", kind="flange"), Joint(after="a", kind="slip", overlap_mm=Length(40)))
    pieces = (Straight(id="a", length_mm=Length(300)), Straight(id="b", length_mm=Length(300)))
    run = design.runs[0].replace(pieces=pieces, joints=joints)
    design = design.replace(runs=(run,))
    order = order_out(design, system_of(design), obstacles(design.survey, design.settings.rules))
    assert [w.section.pieces for w in order] == [(("r1", 1),), (("r1", 0),)]
    assert all(w.found for w in order)


def test_a_longer_section_than_the_shop_handles_is_a_finding() -> None:
    found = [f for f in review(_pipe(2600.0, ())).findings if f.code == "long-section"]
    assert found[0].gap_mm == pytest.approx(2650.0)
