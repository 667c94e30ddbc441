"""A way with every angle from the shop's set: the rolls and straights take up what the angles no longer can.

With n bends and all angles fixed, 2n - 4 values are free, with one odd angle 2n - 3; the search is over those
(`way_polish`, GIVEN), so every candidate meets the end and its angles exactly. Mixes of angles near a way's own are
tried roughly, those that cost least for good. Where the set alone does not go, one angle may be odd.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from .closing import COST_PER_BEND, COST_PER_DEG, COST_SHARP, LEAST_ANGLE_DEG
from .frame import Vector
from .way_polish import Pass, with_angles
from .way_task import Task, Way, judged

MOST_MIXES = 90  # tried for one way
ROUGH, FINE = Pass(12, 25.0, 32.0), Pass(90, 10.0, 10.0)
FINISHED, MOST_FINISHED = 4, 12  # mixes tried for good: so many at least, so many while none goes
ON_SET_DEG = 1e-4


@dataclass(frozen=True)
class Mix:
    """Angles [deg] for each bend of a way, one of them perhaps free (`odd`, else -1), and which cone answer."""

    angles: tuple[float, ...]
    side: float
    odd: int = -1


@dataclass(frozen=True)
class Snapped:
    """A way with angles from the set, all but `odd` [deg], where one is."""

    way: Way
    odd_deg: float | None


def snapped(task: Task, ways: Sequence[Way], angles: Sequence[float]) -> Snapped | None:
    """The cheapest way near those of the fewest bends with all its angles from the set; else near those with more; else
    one with a single odd angle; else None.

    Same input, same answer: the lots are drawn with the task's seed.
    """
    usable = sorted(a for a in angles if LEAST_ANGLE_DEG <= a <= task.most_deg)
    ways = [w for w in ways if w.bends >= 2]
    if not usable or not ways:
        return None
    for odd in (False, True):
        for _, alike in itertools.groupby(sorted(ways, key=lambda w: w.bends), key=lambda w: w.bends):
            found = [w for way in alike for w in _near(task, way, usable, odd=odd)]
            if found:
                best = min(found, key=lambda w: w.cost)
                return Snapped(best, _odd_angle(best, task, usable) if odd else None)
    return None


def _odd_angle(way: Way, task: Task, usable: Sequence[float]) -> float | None:
    turns = directions_of(task, way)[1]
    return next((float(t) for t in turns if min(abs(t - a) for a in usable) > ON_SET_DEG), None)


def _near(task: Task, way: Way, usable: Sequence[float], *, odd: bool) -> list[Way]:
    """Ways that go and have these angles, near one."""
    directions, turns = directions_of(task, way)
    legs = _legs_of(way, turns)

    def line(mix: Mix, how: Pass) -> tuple[Vector, float]:
        given = np.array([t if i == mix.odd else a for i, (a, t) in enumerate(zip(mix.angles, turns, strict=True))])
        return with_angles(task, way, directions, legs, given, mix.side, mix.odd, how)

    mixes = list(itertools.islice(_mixes(turns, usable, odd=odd), MOST_MIXES))
    fits: list[Way] = []
    with ThreadPoolExecutor(2) as beside:
        costs = list(beside.map(lambda m: line(m, ROUGH)[1], mixes))
        best = [mixes[int(k)] for k in np.argsort(costs, kind="stable")[:MOST_FINISHED]]
        for first in range(0, len(best), FINISHED):
            lines = beside.map(lambda m: line(m, FINE)[0], best[first : first + FINISHED])
            made = [judged(task, points, way.radii) for points in lines]
            fits += [w for w in made if w.spare_mm >= 0 and _on_set(directions_of(task, w)[1], usable, int(odd))]
            if fits:
                break
    return fits


def _on_set(turns: Vector, usable: Sequence[float], odd: int) -> bool:
    off = sum(min(abs(t - a) for a in usable) > ON_SET_DEG for t in turns)
    return off <= odd


def directions_of(task: Task, way: Way) -> tuple[Vector, Vector]:
    """The directions of a way's straights (n + 1, 3), the ends' own axes first and last, and its turns [deg]."""
    ways = np.diff(way.points, axis=0)
    ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-9)[:, None]
    ways[0], ways[-1] = task.start.flow, task.end.flow
    crosses = np.linalg.norm(np.cross(ways[:-1], ways[1:]), axis=1)
    return ways, np.degrees(np.arctan2(crosses, np.einsum("ij,ij->i", ways[:-1], ways[1:])))


def _legs_of(way: Way, turns: Vector) -> Vector:
    tangents = np.concatenate([[0.0], way.radii * np.tan(np.radians(turns) / 2), [0.0]])
    return np.asarray(np.linalg.norm(np.diff(way.points, axis=0), axis=1) - tangents[:-1] - tangents[1:])


def _mixes(turns: Vector, usable: Sequence[float], *, odd: bool) -> Iterator[Mix]:
    """Angles of the set for each bend, those that turn least besides what the way itself turns first; both sides."""
    near = [sorted(usable, key=lambda a: abs(a - turn))[:4] for turn in turns]
    for angles in sorted(itertools.product(*near), key=lambda mix: _dear(mix, turns)):
        for side, which in itertools.product((1.0, -1.0), range(len(turns)) if odd else (-1,)):
            yield Mix(angles, side, which)


def _dear(mix: Sequence[float], turns: Vector) -> float:
    """What bends of these angles cost, and how far they are from the way's own."""
    each = np.array(mix)
    sharp = COST_SHARP * (np.maximum(each - 45.0, 0.0) ** 2).sum()
    return float(COST_PER_BEND * len(each) + COST_PER_DEG * each.sum() + sharp + 1.5 * np.abs(each - turns).sum())
