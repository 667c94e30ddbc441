"""The system's own movement: figures worked by hand, and the culled search against looking at every position."""

from collections.abc import Callable
from itertools import product

import numpy as np
import pytest
from bench.twin_system import twin_design

from widebend.core.geometry import rotation_about
from widebend.core.hardware import shelf
from widebend.core.laying import (
    Obstacle,
    Position,
    Segments,
    farthest,
    goes_as,
    joint_segments,
    movement,
    obstacles,
    system_of,
)
from widebend.core.laying.growth import mean_growth
from widebend.core.laying.moving import movers
from widebend.core.records import (
    Design,
    Group,
    InLine,
    Part,
    Placed,
    Rock,
    Rules,
    Run,
    Settings,
    Sphere,
    Straight,
    Survey,
    Tap,
    Thing,
    Tube,
)
from widebend.core.review import Review, packed, review, tube_gaps
from widebend.core.review.gaps import part_gap
from widebend.core.routing import propose
from widebend.core.units import Length
from widebend.core.wording import say
from widebend.demo.examples import block
from widebend.demo.systems import low_truck, twin_x

TUBE = Tube(od_mm=Length(50.0), wall_mm=Length(1.5))
ROCK = Group(
    id="engine", name="engine", motion=Rock(about=(Length(0), Length(0), Length(500)), axis=(0, 1, 0), deg=2.0)
)


def _ball(name: str, at: tuple[float, float, float], radius: float = 20.0, **more: object) -> Thing:
    x, y, z = at
    return Thing(
        id=name, name=name, shape=Sphere(center=(Length(x), Length(y), Length(z)), radius=Length(radius)), **more
    )


def _straight(things: tuple[Thing, ...], *, flex: bool = False, rules: Rules | None = None) -> Design:
    """2 m of pipe rearward from a flange at the origin, 300 mm up; with a flex after 400 mm where wanted."""
    parts = [
        Part(
            id="s",
            item=shelf.start_flange(50.0),
            placed=Placed(point=(Length(0), Length(0), Length(300)), axis=(1.0, 0.0, 0.0)),
        )
    ]
    pieces = [Straight(id="a", length_mm=Length(400)), Straight(id="b", length_mm=Length(1600))]
    if flex:
        parts.append(Part(id="f", item=shelf.can("flex", "flex", 50.0, (100, 70, 70), spigot_mm=20)))
        pieces.insert(1, InLine(id="x", part="f"))
    run = Run(id="r1", start="s.out", tube=TUBE, pieces=tuple(pieces))
    survey = Survey(things=things, groups=(ROCK,))
    return Design(survey=survey, parts=tuple(parts), runs=(run,), settings=Settings(rules=rules or Rules()))


def test_behind_the_flex_is_hung_and_ahead_of_it_goes_with_the_engine() -> None:
    design = _straight((), flex=True)
    moves = movers(design, system_of(design))
    assert [moves.pieces[("r1", i)] for i in range(3)] == ["engine", "flex", "hung"]
    assert moves.parts == {"s": "engine", "f": "flex"}
    bare = _straight(())
    assert set(movers(bare, system_of(bare)).pieces.values()) == {"engine"}


def test_both_banks_of_a_twin_system_are_followed_through_its_crossover() -> None:
    design = twin_x()
    moves = movers(design, system_of(design))
    names = {p.id: p.name for p in design.parts}
    found = {names[i]: mover for i, mover in moves.parts.items()}
    assert found["left bank V-band"] == "engine"
    assert found["right flex"] == "flex"
    for name in ("X-pipe", "left cat", "right muffler", "left tip"):
        assert found[name] == "hung", name


def test_a_part_says_itself_what_it_moves_with() -> None:
    design = _straight((), flex=True)
    fixed = design.parts[0].replace(moves="body")
    design = design.replace(parts=(fixed, design.parts[1]))
    assert movers(design, system_of(design)).pieces[("r1", 0)] == "body"


def _hot(places: tuple[Position, ...]) -> Position:
    return next(p for p in places if p.name == "hot")


def test_hot_pipe_has_grown_by_its_published_expansion() -> None:
    """304: 17.5e-6 a kelvin from 20 to 400 C (EN 10088-1, from memory): 2 m and 380 K give 13.3 mm at the far end."""
    design = _straight((), rules=Rules(hot_rise_k=380.0, hanger_swing_mm=Length(0)))
    hot = _hot(movement(design, system_of(design))[1]["engine"])
    assert hot.name == "hot"
    assert mean_growth("304", 380.0) == pytest.approx(17.5e-6)
    assert mean_growth("304", 518.0) == pytest.approx(18.4e-6)  # to 538 C (ASM, from memory)
    assert hot.points(np.array([2000.0, 0.0, 300.0])) == pytest.approx([2013.3, 0.0, 300.0])
    assert hot.points(np.array([0.0, 0.0, 300.0])) == pytest.approx([0.0, 0.0, 300.0])


def test_each_metal_grows_by_its_own() -> None:
    """1 m of 304 held in front, then 1 m of mild steel: at 380 K over room 6.65 mm (17.5e-6) and then 380 x 13.5e-6 m
    (between 12 to 100 C and 14 to 500 C) = 5.13 mm; the second's own end moves by both together.
    """
    design = _straight((), rules=Rules(hot_rise_k=380.0, hanger_swing_mm=Length(0)))
    mild = TUBE.replace(material="mild")
    pieces = (Straight(id="a", length_mm=Length(1000)), Straight(id="b", length_mm=Length(1000), tube=mild))
    run = design.runs[0].replace(pieces=pieces)
    system = system_of(design.replace(runs=(run,)))
    moves, places = movement(design.replace(runs=(run,)), system)
    first, second = (_hot(places[moves.pieces[("r1", k)]]) for k in (0, 1))
    meet, end = np.array([1000.0, 0.0, 300.0]), np.array([2000.0, 0.0, 300.0])
    assert first.points(meet) == pytest.approx([1006.65, 0.0, 300.0])
    assert second.points(meet) == pytest.approx(first.points(meet))
    assert second.points(end) == pytest.approx([2000.0 + 6.65 + 5.13, 0.0, 300.0])
    held = design.replace(runs=(run,))  # held behind, everything goes forward
    tail = shelf.start_flange(50.0)
    at = Placed(point=(Length(2000), Length(0), Length(300)), axis=(-1.0, 0.0, 0.0))
    held = held.replace(
        parts=(*held.parts, Part(id="e", item=tail, placed=at)),
        runs=(run.replace(aim="e.out"),),
        settings=held.settings.replace(fixed_at="e.out"),
    )
    moves, places = movement(held, system_of(held))
    assert _hot(places[moves.pieces[("r1", 0)]]).points(np.array([0.0, 0.0, 300.0]))[0] == pytest.approx(-6.65 - 5.13)


def test_a_branch_moves_with_the_piece_it_leaves() -> None:
    """Behind the flex a branch is hung like the pipe it leaves, ahead of it it rocks with the engine."""
    design = _straight((), flex=True)
    for piece, goes in (("a", "engine"), ("b", "hung")):
        tap = Tap(run="r1", piece=piece, along_mm=Length(100), roll_deg=0.0)
        branch = Run(id="r2", start=tap, tube=TUBE, pieces=(Straight(id="z", length_mm=Length(200)),))
        both = design.replace(runs=(*design.runs, branch))
        assert movers(both, system_of(both)).pieces[("r2", 0)] == goes


def test_swing_brings_a_hung_pipe_nearer_and_says_so() -> None:
    """Ball r 20 at 60 to the right: 60 - 20 - 25 = 15 at rest, 7 swung 8 mm to it, wanted 10."""
    rules = Rules(hot_rise_k=0.0, hanger_swing_mm=Length(8))
    design = _straight((_ball("ball", (1500, 60, 300)),), flex=True, rules=rules)
    found = next(f for f in review(design).findings if f.thing == "ball")
    assert found.gap_mm == pytest.approx(7.0, abs=0.01)
    assert found.position == "swung right"
    assert "pipe swung right" in say(found, design)
    ahead = _straight((_ball("ball", (200, 60, 300)),), flex=True, rules=rules)
    assert not [f for f in review(ahead).findings if f.thing == "ball"]


def test_rock_moves_what_is_ahead_of_the_flex_only() -> None:
    """2 deg about an axis 200 mm above turns a point 300 mm back by 300 sin 2 = 10.5 mm up or down."""
    rules = Rules(hot_rise_k=0.0, hanger_swing_mm=Length(0))
    under = _ball("rod", (300, 0, 240), radius=15.0)
    found = next(f for f in review(_straight((under,), flex=True, rules=rules)).findings if f.thing == "rod")
    turn = rotation_about(np.array([0.0, 1.0, 0.0]), 2.0)
    lowered = turn @ np.array([300.0, 0.0, -200.0]) + [0.0, 0.0, 500.0]
    assert found.position == "rocked one way"
    assert found.gap_mm == pytest.approx(lowered[2] - 240 - 25 - 15, abs=0.4)  # the nearest place is a little off 300


def test_what_goes_with_the_engine_may_meet_the_pipe_that_does() -> None:
    bracket = block("bracket", "bracket", (150, 24, 280), (200, 60, 320), moves_with="engine")
    findings = review(_straight((bracket,), flex=True)).findings
    assert [f.code for f in findings if f.thing == "bracket"] == ["together"]
    deep = block("bracket", "bracket", (150, 0, 280), (200, 60, 320), moves_with="engine")
    assert [f.code for f in review(_straight((deep,), flex=True)).findings if f.thing == "bracket"] == ["touches"]
    fixed = block("bracket", "bracket", (150, 24, 280), (200, 60, 320))
    assert [f.code for f in review(_straight((fixed,), flex=True)).findings if f.thing == "bracket"] == ["touches"]


def test_no_point_moves_further_than_the_bound() -> None:
    rng = np.random.default_rng(3)
    for _ in range(50):
        axis = rng.normal(size=3)
        turn = rotation_about(axis / np.linalg.norm(axis), float(rng.uniform(-15, 15)))
        place = Position("x", turn, rng.uniform(-30, 30, 3), float(rng.uniform(0.99, 1.02)))
        middle, reach = rng.uniform(-500, 500, 3), float(rng.uniform(1, 400))
        ways = rng.normal(size=(200, 3))
        points = middle + reach * ways / np.linalg.norm(ways, axis=1, keepdims=True)
        moved = np.linalg.norm(place.points(points) - points, axis=1).max()
        assert moved <= farthest(middle[None], np.array([reach]), place) + 1e-9


def _everywhere(design: Design, found: Review) -> dict[tuple[str, object, str], float]:
    """The least margin of each piece and part to each thing, every position of both tried and nothing culled."""
    system, around = found.system, obstacles(design.survey, design.settings.rules)
    worst: dict[tuple[str, object, str], float] = {}

    def note(key: tuple[str, object, str], gap: float, o: Obstacle) -> None:
        worst[key] = min(gap - o.needed_mm - o.plus_minus_mm, worst.get(key, np.inf))

    def apart(mover: str) -> list[Obstacle]:
        return [o for o in around if not (goes_as(mover) == "engine" and o.thing.moves_with == "engine")]

    stretches = [
        (run, Segments(segments.rows[rows], segments.piece[rows]), mover)
        for run, tube in zip(system.runs, system.tubes, strict=True)
        for segments in (tube, joint_segments(run))
        for mover, rows in found.moves.of_segments(run, segments).items()
    ]
    for run, segments, mover in stretches:
        things = packed(apart(mover))
        for place in found.positions[mover]:
            gaps, _ = tube_gaps(place.rows(segments.rows), things, 60.0)
            for (j, k), gap in np.ndenumerate(gaps):
                o = things.obstacles[j]
                note((run.run.id, int(segments.piece[k]), o.thing.id), float(gap), o)
    for body, o in product(system.bodies, around):
        mover = found.moves.parts.get(body.part.id, "hung")
        for place in found.positions[mover] if o in apart(mover) else ():
            gap = part_gap(place.body(body), o, o.needed_mm + o.plus_minus_mm + 1.0)
            note(("", body.part.id, o.thing.id), gap, o)
    return worst


@pytest.mark.parametrize("make", [twin_design, twin_x, low_truck])
def test_the_culled_search_finds_what_looking_everywhere_finds(make: Callable[[], Design]) -> None:
    design = make()
    found = review(design)
    wrong = {key: margin for key, margin in _everywhere(design, found).items() if margin < -1e-6}
    things = {o.thing.id for o in found.obstacles}
    said = {
        (f.run, f.part or f.piece, f.thing): f.margin_mm
        for f in found.findings
        if f.code in ("touches", "tight") and f.thing in things
    }
    assert set(said) == set(wrong)
    for key, margin in wrong.items():
        assert said[key] == pytest.approx(margin, abs=0.003), key


def test_answers_are_judged_over_all_positions() -> None:
    design = twin_x()
    run = design.runs[0]
    opened = run.replace(pieces=run.pieces[:4])
    changed = design.replace(runs=tuple(opened if r.id == run.id else r for r in design.runs), attachments=())
    for proposal in propose(changed, run.id).found[:3]:
        closed = opened.replace(
            pieces=(
                *opened.pieces,
                *(p.replace(id=f"n{i}") for i, p in enumerate(proposal.pieces)),
            )
        )
        found = review(changed.replace(runs=tuple(closed if r.id == run.id else r for r in changed.runs)))
        new = [g.margin_mm for g in found.gaps if g.run == run.id and g.piece is not None and g.piece >= 4]
        assert min(new, default=80.0) == pytest.approx(
            proposal.worst_margin_mm, abs=0.1
        )  # the travel is searched so far
