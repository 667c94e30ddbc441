"""Finding a way: benchmark scenes, the closed-form shortest curve; every answer checked by the exact tube kernel."""

import math
from dataclasses import replace

import numpy as np
import pytest
from bench.route_scenes import scene

from widebend.core.closing import BendOptions
from widebend.core.cutting import cut_list
from widebend.core.editing import sliced
from widebend.core.laying import NO_RIGID, angle_between, lay_run
from widebend.core.pathfinding import RouteCandidate, distinct, find, pieces_of, snapped, task_of
from widebend.core.records import Bend, Box, Design, Extrusion, Group, GroupState, Rules, Thing
from widebend.core.review import packed, review
from widebend.core.routing import Proposals, Wish, propose, seek, taken
from widebend.core.routing.proposals import as_made
from widebend.core.space import chain, pose, pose_from_matrix
from widebend.core.units import Length
from widebend.demo.examples import cat_back, first_job
from widebend.demo.systems import twin_x

KNOWN = {
    "s02_jog": (2, 1161.4),
    "s03_jog_blocked": (3, 1705.0),
    "s05_window": (3, 1780.9),
    "s07_turbo_downpipe": (3, 1328.4),
}


@pytest.mark.parametrize("name", KNOWN)
def test_scenes_are_solved_with_the_best_known_bends(name: str) -> None:
    """Bends and cost of the best known routes of the benchmark scenes; the end exact, the gaps by another kernel."""
    here = scene(name)
    task = here.task()
    way = find(task)[0]
    bends, cost = KNOWN[name]
    assert way.spare_mm >= 0
    assert way.bends == bends
    assert way.cost <= 1.01 * cost
    answer = pieces_of(task, way)
    end = pose_from_matrix(chain.lay_frames(task.start.matrix(), answer.steps, NO_RIGID)[-1])
    assert np.linalg.norm(end.point - task.end.point) < 1e-6
    assert angle_between(end.flow, task.end.flow) < 1e-6
    assert here.margin(answer) >= 0.0


def test_the_same_question_has_the_same_answer() -> None:
    task = scene("s03_jog_blocked").task()
    one, two = find(task)[0], find(task)[0]
    assert np.array_equal(one.points, two.points)


def test_a_window_too_small_has_no_way_and_the_nearest_miss_is_given() -> None:
    task = scene("s12_impossible").task()
    found = find(task)
    assert found
    assert all(w.spare_mm < 0 for w in found)


@pytest.mark.parametrize(("name", "known"), [("s02_jog", 1169.0), ("s05_window", 1807.2), ("s06_gearbox_fuel", 2508.1)])
def test_angles_come_from_the_set(name: str, known: float) -> None:
    """Against the best known routes with seven angles of the benchmark scenes: the cost within 1 %."""
    here = scene(name)
    task = here.task()
    found = find(task)
    answer = snapped(task, found[0], task.ways.angles_deg)
    assert answer is not None
    assert answer.odd_deg is None
    assert answer.way.cost < 1.01 * known
    steps = pieces_of(task, answer.way, keep_angles=True)
    assert all(min(abs(a - s) for s in task.ways.angles_deg) < 1e-4 for a in steps.bends[:, 1])
    end = pose_from_matrix(chain.lay_frames(task.start.matrix(), steps.steps, NO_RIGID)[-1])
    assert np.linalg.norm(end.point - task.end.point) < 1e-3
    assert angle_between(end.flow, task.end.flow) < 1e-3
    assert here.margin(steps) >= 0.0


def test_where_the_set_does_not_go_one_angle_is_odd() -> None:
    """A hidden chain of a 45 and a 20 with hardly any straight: of 45s and 90s one must be odd, and no third fits."""
    hidden = np.array(
        [
            (chain.LEG, 8.0, 0, 0),
            (chain.BEND, 45.0, 95.25, 0),
            (chain.LEG, 8.0, 0, 0),
            (chain.BEND, 20.0, 95.25, 70.0),
            (chain.LEG, 8.0, 0, 0),
        ]
    )
    start = pose((0, 0, 0), (1, 0, 0))
    end = pose_from_matrix(chain.lay_frames(start.matrix(), hidden, NO_RIGID)[-1])
    task = task_of(start, end, 63.5, BendOptions((95.25,), (45.0, 90.0)), packed([]))
    way = next(w for w in find(task) if w.bends == 2)
    answer = snapped(task, way, (45.0, 90.0))
    assert answer is not None
    assert answer.odd_deg == pytest.approx(20.0, abs=8.0)
    laid = pieces_of(task, answer.way, keep_angles=True)
    assert laid.bends[:, 1].max() == pytest.approx(45.0, abs=1e-4)
    at = pose_from_matrix(chain.lay_frames(start.matrix(), laid.steps, NO_RIGID)[-1])
    assert np.linalg.norm(at.point - end.point) < 0.01
    assert angle_between(at.flow, end.flow) < 0.01


def _dubins(x: float, y: float, heading: float, radius: float) -> float:
    """Length of the shortest curve of two turns and a straight from the origin along X to (x, y) at a heading: the four
    two-turn words of Dubins (1957), by their circles' common tangents.
    """
    best = math.inf
    for a in (1, -1):
        for b in (1, -1):
            c0, c1 = (
                np.array([0.0, a * radius]),
                np.array([x - b * radius * math.sin(heading), y + b * radius * math.cos(heading)]),
            )
            d = c1 - c0
            far = float(np.linalg.norm(d))
            toward = math.atan2(d[1], d[0])
            if a == b:
                straight, way = far, toward
            elif far < 2 * radius:
                continue
            else:
                straight = math.sqrt(far**2 - 4 * radius**2)
                way = toward + a * math.asin(2 * radius / far)
            first = (a * way) % (2 * math.pi)
            second = (b * (heading - way)) % (2 * math.pi)
            best = min(best, radius * (first + second) + straight)
    return best


@pytest.mark.parametrize(
    ("x", "y", "deg"),
    [(900.0, 150.0, 0.0), (1200.0, 80.0, -10.0), (900.0, -300.0, 0.0), (700.0, 260.0, 0.0), (1000.0, 120.0, -20.0)],
)
def test_in_an_empty_plane_the_length_is_that_of_the_shortest_curve(x: float, y: float, deg: float) -> None:
    t = math.radians(deg)
    start, end = pose((0, 0, 0), (1, 0, 0)), pose((x, y, 0), (math.cos(t), math.sin(t), 0))
    task = task_of(start, end, 63.5, BendOptions((95.25,)), packed([]))
    way = find(task)[0]
    shortest = _dubins(x, y, t, 95.25)
    length = pieces_of(task, way).length_mm
    assert length >= shortest - 1e-6
    assert way.bends == 2
    assert length <= 1.01 * shortest


def test_alternatives_are_apart_and_named() -> None:
    task = scene("s03_jog_blocked").task()
    ways: list[RouteCandidate] = distinct(find(task))
    assert ways
    design = first_job()
    found = seek(design, "r1").found
    assert found
    assert all(p.goes for p in found)
    assert found[0].keeps_gaps


def test_taking_a_way_closes_the_run_past_the_rest_of_the_system() -> None:
    design = twin_x()
    found = seek(design, "r2", Wish(0))
    closed = taken(design, "r2", found, 0)
    after = review(closed)
    assert not [f for f in after.findings if f.run == "r2" and f.code in ("touches", "misses", "own", "tight")]
    run = next(r for r in after.system.runs if r.run.id == "r2")
    assert run.miss_mm < 1e-6


def test_kept_pieces_stay_and_weighing_orders() -> None:
    design = cat_back()
    found = seek(design, "r1", Wish(7))
    closed = taken(design, "r1", found, 0)
    assert closed.runs[0].pieces[:6] == design.runs[0].pieces[:6]  # the seventh, a straight, goes on as one
    assert [f.code for f in review(closed).findings if f.run == "r1" and f.code in ("touches", "tight", "misses")] == []
    first = found.found[0]
    metal = math.pi * (63.5 - 1.5) * 1.5 * 7900e-6 * first.answer.length_mm / 1000  # EN 10220's formula, 304
    assert first.mass_kg == pytest.approx(metal, rel=1e-6)
    _as_cut(design, found)
    clear = seek(first_job(), "r1", Wish(0, weigh="clear")).found
    assert [p.worst_margin_mm for p in clear] == sorted((p.worst_margin_mm for p in clear), reverse=True)


def test_where_there_is_no_way_what_opens_one_was_solved() -> None:
    """A wall right across with a window that 63.5 mm does not pass with its gap, and 57.15 mm does."""
    outline = tuple((Length(a), Length(b)) for a, b in ((-900, -400), (900, -400), (900, 400), (-900, 400)))
    hole = tuple((Length(a), Length(b)) for a, b in ((-40, -40), (40, -40), (40, 40), (-40, 40)))
    wall = Thing(
        id="wall",
        name="bulkhead",
        shape=Extrusion(
            origin=(Length(2000), Length(160), Length(300)),
            axis=(1.0, 0.0, 0.0),
            reference=(0.0, 0.0, 1.0),
            depth=Length(30),
            outline=outline,
            holes=(hole,),
        ),
    )
    rules = Rules(hanger_swing_mm=Length(0), hot_rise_k=0.0)
    base = first_job()
    design = base.replace(
        survey=base.survey.replace(things=(wall,), low_line=None), settings=base.settings.replace(rules=rules)
    )
    found = seek(design, "r1", Wish(0, thorough=True))
    assert not found.found
    assert "at the bulkhead" in found.why_not
    assert "A tube of 57.15 mm would go through." in found.opens
    assert "With the bulkhead moved or off, there is a way." in found.opens


def test_a_way_goes_round_the_engine_it_goes_with() -> None:
    """What is bolted to the engine may come as near to it as it likes, and still not go through it."""
    design = first_job()
    engine = Thing(
        id="engine",
        name="engine",
        moves_with="engine",
        shape=Box(center=(Length(1900), Length(150), Length(240)), size=(Length(300), Length(300), Length(150))),
    )
    held = Group(id="engine", states=(GroupState(name="at rest"),))
    survey = design.survey.replace(things=(*design.survey.things, engine), groups=(held,))
    here = design.replace(survey=survey)
    found = seek(here, "r1", Wish(0))
    assert found.found
    engine_gaps = [g for g in review(taken(here, "r1", found, 0)).gaps if g.obstacle.thing.id == "engine"]
    assert all(g.gap_mm >= 0.0 for g in engine_gaps)


def _as_cut(design: Design, found: Proposals) -> None:
    """What each way says of its joints and weld is what the cut list says once it is taken."""
    for index, proposal in enumerate(found.found):
        changed = taken(design, "r1", found, index)
        laid = lay_run(changed, changed.run("r1"))
        cuts = cut_list(changed, laid)
        assert proposal.made is not None
        assert (proposal.made.joints, proposal.made.weld_mm) == (cuts.joints, pytest.approx(cuts.weld_mm))


def test_a_way_of_slices_says_every_weld_between_them() -> None:
    design = first_job()
    whole = propose(design, "r1")
    pieces = tuple(sliced(p, 3.0) if isinstance(p, Bend) else p for p in whole.found[0].pieces)
    way = as_made(design, "r1", whole.kept, None, replace(whole.found[0], pieces=pieces))
    assert way.made is not None and whole.found[0].made is not None
    assert way.made.joints > whole.found[0].made.joints + 2
    _as_cut(design, replace(whole, found=(way,)))
