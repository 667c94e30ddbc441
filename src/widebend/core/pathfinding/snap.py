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

from ..closing import LEAST_ANGLE_DEG, bend_cost
from ..space import Vector
from .polish import WIDE, Pass, all_polished, with_angles
from .task import RouteCandidate, Task, judged

MOST_MIXES = 160  # tried for one way
MOST_ROUND, ROLLS_DEG = 40, (0.0, 60.0, 120.0, 180.0, 240.0, 300.0)  # mixes tried all round, the first bend so turned
ROUGH, FINE = Pass(18, 25.0, 24.0), Pass(90, 10.0, 10.0)
FINISHED, MOST_FINISHED = 6, 24  # mixes tried for good: this many at least, this many while none goes
ON_SET_DEG = 1e-4
MEETS = 0.01  # what a line that meets its end with no straight short of nothing may count for misfits


@dataclass(frozen=True)
class Mix:
    """Angles [deg] for each bend of a way, one of them perhaps free (`odd`, else -1), which cone answer, and how
    far the first bend is turned to begin with [deg].
    """

    angles: tuple[float, ...]
    side: float
    odd: int = -1
    roll_deg: float = 0.0


@dataclass(frozen=True)
class Snapped:
    """A way with angles from the set, all but `odd` [deg], where one is."""

    way: RouteCandidate
    odd_deg: float | None


def snapped(task: Task, way: RouteCandidate, angles: Sequence[float], *, thorough: bool = False) -> Snapped | None:
    """The cheapest way near one with all its angles from the set; else with one bend more; else one with a single odd
    angle; else None. When thorough, three bends are tried all round before a fourth, and two bends more at the end.

    Same input, same answer: the lots are drawn with the task's seed.
    """
    usable = sorted(a for a in angles if LEAST_ANGLE_DEG <= a <= task.most_deg)
    if not usable or way.bends < 2:
        return None
    for made in _tries(task, way, usable, thorough=thorough):
        task.pulse()
        if made:
            return Snapped(min(made, key=lambda w: w.cost), None)
    odd = _near(task, way, list(itertools.islice(_mixes(task, way, usable, odd=True), MOST_MIXES)))
    best = min((w for w in odd if _off_set(task, w, usable) <= 1), key=lambda w: w.cost, default=None)
    return Snapped(best, _odd_angle(best, task, usable)) if best else None


def _tries(
    task: Task, way: RouteCandidate, usable: Sequence[float], *, thorough: bool
) -> Iterator[list[RouteCandidate]]:
    """Yield the passes near a way, then near it with a bend more; when thorough, all round before that, with two more
    last.
    """

    def near(line: RouteCandidate) -> list[RouteCandidate]:
        mixes = itertools.islice(_mixes(task, line, usable, odd=False), MOST_MIXES * (3 if thorough else 1))
        return [w for w in _near(task, line, list(mixes)) if not _off_set(task, w, usable)]

    yield near(way)
    if thorough and way.bends == 3:
        yield [w for w in _near(task, way, _all_round(task, way, usable)) if not _off_set(task, w, usable)]
    one_more = _one_more(task, way)
    yield from (near(longer) for longer in one_more)
    if thorough:
        yield from (near(longer) for line in one_more for longer in _one_more(task, line)[:1])


def _one_more(task: Task, way: RouteCandidate) -> list[RouteCandidate]:
    """A way with a corner more in one of its two longest straights, cheapest first."""
    legs = np.linalg.norm(np.diff(way.points, axis=0), axis=1)
    lines = []
    for k in (int(k) for k in np.argsort(-legs)[:2]):
        middle = (way.points[k] + way.points[k + 1]) / 2 + np.array([0.0, 0.0, 5.0])
        if 0 < k < len(legs) - 1:
            lines.append((np.insert(way.points, k + 1, middle, axis=0), np.insert(way.radii, k, way.radii[k - 1])))
        else:  # a corner on an end's axis stays there: the new one goes on its other side
            at = 2 if k == 0 else len(way.points) - 2
            middle = (way.points[at - 1] + way.points[at]) / 2
            lines.append((np.insert(way.points, at, middle, axis=0), np.insert(way.radii, at - 1, way.radii[0])))
    return sorted(all_polished(task, lines, WIDE), key=lambda w: w.cost)


def _odd_angle(way: RouteCandidate, task: Task, usable: Sequence[float]) -> float | None:
    turns = directions_of(task, way)[1]
    return next((float(t) for t in turns if min(abs(t - a) for a in usable) > ON_SET_DEG), None)


def _near(task: Task, way: RouteCandidate, mixes: Sequence[Mix]) -> list[RouteCandidate]:
    """Ways that go with these mixes of angles, near one: all tried roughly, the best for good."""
    directions, turns = directions_of(task, way)
    legs = _legs_of(way, turns)

    def line(mix: Mix, how: Pass) -> tuple[Vector, float, float]:
        given = np.array([t if i == mix.odd else a for i, (a, t) in enumerate(zip(mix.angles, turns, strict=True))])
        return with_angles(task, way, directions, legs, given, mix.side, mix.odd, mix.roll_deg, how)

    fits: list[RouteCandidate] = []
    with ThreadPoolExecutor(2) as beside:
        costs = list(beside.map(lambda m: line(m, ROUGH)[1], mixes))
        best = [mixes[int(k)] for k in np.argsort(costs, kind="stable")[:MOST_FINISHED]]
        for first in range(0, len(best), FINISHED):
            lines = beside.map(lambda m: line(m, FINE), best[first : first + FINISHED])
            made = [judged(task, points, way.radii) for points, _, off in lines if off < MEETS]
            fits += [w for w in made if w.spare_mm >= 0]
            if fits:
                break
    return fits


def _off_set(task: Task, way: RouteCandidate, usable: Sequence[float]) -> int:
    """How many angles of a way are none of the set."""
    return sum(1 for t in directions_of(task, way)[1] if min(abs(t - a) for a in usable) > ON_SET_DEG)


def directions_of(task: Task, way: RouteCandidate) -> tuple[Vector, Vector]:
    """The directions of a way's straights (n + 1, 3), the ends' own axes first and last, and its turns [deg]."""
    ways = np.diff(way.points, axis=0)
    ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-9)[:, None]
    ways[0], ways[-1] = task.start.flow, task.end.flow
    crosses = np.linalg.norm(np.cross(ways[:-1], ways[1:]), axis=1)
    return ways, np.degrees(np.arctan2(crosses, np.einsum("ij,ij->i", ways[:-1], ways[1:])))


def _legs_of(way: RouteCandidate, turns: Vector) -> Vector:
    tangents = np.concatenate([[0.0], way.radii * np.tan(np.radians(turns) / 2), [0.0]])
    return np.asarray(np.linalg.norm(np.diff(way.points, axis=0), axis=1) - tangents[:-1] - tangents[1:])


def _mixes(task: Task, way: RouteCandidate, usable: Sequence[float], *, odd: bool) -> Iterator[Mix]:
    """Angles of the set for each bend, those that turn least besides what the way itself turns first; both sides."""
    turns = directions_of(task, way)[1]
    near = [sorted(usable, key=lambda a: abs(a - turn))[:4] for turn in turns]
    for angles in sorted(itertools.product(*near), key=lambda mix: _dear(mix) + 1.5 * _off(mix, turns)):
        for side, which in itertools.product((1.0, -1.0), range(len(turns)) if odd else (-1,)):
            yield Mix(angles, side, which)


def _all_round(task: Task, way: RouteCandidate, usable: Sequence[float]) -> list[Mix]:
    """The cheapest mixes of all, the first bend turned every way."""
    mixes = sorted(itertools.product(usable, repeat=way.bends), key=_dear)[:MOST_ROUND]
    return [Mix(m, side, -1, roll) for m in mixes for side in (1.0, -1.0) for roll in ROLLS_DEG]


def _dear(mix: Sequence[float]) -> float:
    """Return the cost of bends of these angles [mm]."""
    return float(sum(bend_cost(deg) for deg in mix))


def _off(mix: Sequence[float], turns: Vector) -> float:
    return float(np.abs(np.array(mix) - turns).sum())
