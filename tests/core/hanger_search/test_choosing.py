"""Which hangers are chosen: no fewer hold it than were offered, and where none do, the new point offered does.

Held against every set of one and two hangers at every place, each hung and judged as any other.
"""

from __future__ import annotations

import itertools
import random

import numpy as np
import pytest

from widebend.core.hanger_search import NEEDS, OVER_MM, propose_hangers
from widebend.core.hanger_search.trying import CLEAN, Places
from widebend.core.hanger_search.where import candidates, places_to_hang
from widebend.core.hanging import hang, hang_faults, rod_of
from widebend.core.laying import System, system_of
from widebend.core.records import Design, Hanger, HangPoint
from widebend.core.units import Length
from widebend.demo.examples import cat_back
from widebend.demo.systems import quad_rear


def _points(at: list[np.ndarray]) -> tuple[HangPoint, ...]:
    return tuple(
        HangPoint(id=f"q{k}", name=f"q{k}", point=tuple(Length(round(float(c), 1)) for c in p))
        for k, p in enumerate(at)
    )


def _with_points(design: Design, points: tuple[HangPoint, ...]) -> Design:
    survey = design.survey.replace(hang_points=points)
    return design.replace(survey=survey, hangers=())


def _random(seed: int) -> tuple[Design, System]:
    rng = random.Random(seed)
    design = rng.choice([cat_back, quad_rear])()
    system = system_of(design)
    over = [place for place, _ in places_to_hang(design, system)]
    at = [
        rng.choice(over) + np.array([rng.uniform(-150, 150), rng.uniform(-150, 150), rng.uniform(90, 200)])
        for _ in range(rng.randint(2, 5))
    ]
    return _with_points(design, _points(at)), system


def _holds(design: Design, system: System, hangers: list[Hanger]) -> bool:
    named = tuple(h.replace(id=f"h{k}") for k, h in enumerate(hangers))
    hung = design.replace(hangers=named)
    return not any(f.code in NEEDS for f in hang_faults(hung, system, hang(hung, system, modes=0)))


def _fewest(design: Design, system: System) -> int:
    """The fewest hangers of all sets of one and two that hold it; 3 where none does."""
    places = Places.of(design, system, candidates(design, system, design.survey.hang_points))
    by_point: dict[int, list[int]] = {}
    for n, (point, _) in enumerate(places.places):
        by_point.setdefault(point, []).append(n)
    for size in (1, 2):
        rows = [row for some in itertools.combinations(by_point.values(), size) for row in itertools.product(*some)]
        tries = places.tried(np.array(rows).reshape(-1, size))
        for k in np.flatnonzero(tries.wrong < 10 * CLEAN):
            if _holds(design, system, places.hangers(tries.which[k], tries.rubbers[k], tries.loads[k])):
                return size
    return 3


@pytest.mark.parametrize("seed", range(4))
def test_no_fewer_hangers_hold_it_than_are_offered_and_a_new_point_does_where_none_do(seed: int) -> None:
    design, system = _random(seed)
    answer = propose_hangers(design, system)
    offered = min((len(one.hangers) for one in answer.found if one.holds), default=0)
    if answer.needs_none:
        return
    if offered:
        assert min(offered, 3) <= _fewest(design, system)
        return
    assert _fewest(design, system) == 3
    assert answer.points
    more = _points([one.place + np.array([0.0, 0.0, OVER_MM]) for one in answer.points])
    named = tuple(p.replace(id=f"new-{p.id}") for p in more)
    helped = _with_points(design, (*design.survey.hang_points, *named))
    assert any(one.holds for one in propose_hangers(helped, system).found)


def test_the_rubber_lies_on_the_straight_of_its_rod_wherever_it_hangs() -> None:
    """Random eyes round a pipe: the eye and half a rubber to both sides lie on the rod's straight pin."""
    rng = np.random.default_rng(5)
    for _ in range(150):
        eye = np.array([rng.uniform(-60, 60), rng.uniform(-200, 200), rng.uniform(100, 260)])
        flow = np.array([1.0, rng.uniform(-0.4, 0.4), rng.uniform(-0.3, 0.3)])
        wide = float(rng.choice([30, 34]))
        rod = rod_of(eye, np.zeros(3), flow, 63.5, float(rng.choice([10, 12])), wide, 50.0)
        way = np.diff(rod.line, axis=0)
        long = np.linalg.norm(way, axis=1)
        along = np.einsum("ni,ni->n", eye - rod.line[:-1], way) / long
        aside = np.linalg.norm(eye - rod.line[:-1] - along[:, None] * way / long[:, None], axis=1)
        assert any(
            off < 1e-3 and a >= wide / 2 - 1e-3 and whole - a >= wide / 2 - 1e-3
            for off, a, whole in zip(aside, along, long, strict=True)
        )
