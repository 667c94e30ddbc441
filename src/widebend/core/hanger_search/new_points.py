"""Where a new point of the vehicle would help: as few as hold it beside those that are known, straight over it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..laying import System
from ..records import Design, Hanger, HangPoint, Rubber
from ..space import Vector
from ..units import Length
from .trying import BEAM, CLEAN, MOST_HANGERS, Places, Tries
from .where import candidates, places_to_hang

OVER_MM = 140.0  # over the middle of what it holds: a rubber, and a rod rolled round its pipe


@dataclass(frozen=True)
class NewPoint:
    """Where a point of the vehicle would help: over which place (3,) [mm], and what it would carry [N]."""

    place: Vector
    run: str
    part: str
    load_n: float


def new_points(design: Design, system: System, own: Sequence[Rubber], thickest_mm: float | None) -> Iterator[NewPoint]:
    """As few new points as keep every rule; where even many do not, those that break them least."""
    points: list[HangPoint] = list(design.survey.hang_points)
    over = list(places_to_hang(design, system))
    made: list[tuple[int, Hanger]] = list(candidates(design, system, points))
    known = len(points)
    fresh: list[HangPoint] = []
    for n, (place, hanger) in enumerate(over):
        x, y, z = (Length(round(float(c), 1)) for c in place + np.array([0.0, 0.0, OVER_MM]))
        fresh.append(HangPoint(id=f"new-{n}", name=f"new {n}", point=(x, y, z)))
        made.append((known + n, hanger.replace(id=f"over-{n}", hang_point=f"new-{n}")))
    survey = design.survey.replace(hang_points=(*points, *fresh))
    places = Places.of(design.replace(survey=survey), system, made, own, thickest_mm)
    best = _least(places, [n for n, (k, _) in enumerate(places.places) if k >= known])
    if best is None:
        return
    for n, load in zip(best.which[0], best.loads[0], strict=True):
        point, hanger = places.places[n]
        if point >= known:
            yield NewPoint(over[point - known][0], hanger.run or "", hanger.part or "", float(load))


def _least(places: Places, fresh: Sequence[int]) -> Tries | None:
    """The set with the fewest new points that keeps every rule; else the one that breaks them least."""
    old = [n for n in range(len(places.places)) if n not in set(fresh)]
    bases: list[tuple[int, ...]] = [()]
    for tries in places.best_sets(old):
        bases += [tuple(tries.which[k]) for k in tries.best(BEAM)]
    best: Tries | None = None
    for _ in range(MOST_HANGERS):
        grown = [(*base, n) for base in bases for n in fresh if n not in base]
        by_size: dict[int, list[tuple[int, ...]]] = {}
        for row in grown:
            by_size.setdefault(len(row), []).append(row)
        tries_of = [places.tried(np.array(rows)) for size, rows in by_size.items() if size <= MOST_HANGERS]
        if not tries_of:
            break
        leaders = [places.tried(tries.which[tries.best(1)]) for tries in tries_of]
        leader = min(leaders, key=lambda one: (round(float(one.wrong[0]), 3), one.which.shape[1], one.strain[0]))
        if best is None or float(leader.wrong[0]) < float(best.wrong[0]) - CLEAN:
            best = leader  # the fewest of those that are as good
        if float(leader.wrong[0]) < CLEAN:
            break
        bases = [tuple(tries.which[k]) for tries in tries_of for k in tries.best(BEAM)]
    return best
