"""Find a way between two poses past everything, gentlest first: seeds from a graph, polished on the true centre line.

Zero and one bend in closed form (`closing`); more by a layered search over corner points (`way_graph`), each of the
cheapest chains of every bend count polished by a small evolution strategy with a fixed seed, with bends left out where
that is better. Same input, same answer. docs/architecture.md, "Finding a way".
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from ..closing import BendOptions, close
from ..space import Vector
from . import graph as way_graph
from .pieces import corner_points
from .polish import FEWER, FINE, ROUGH, WIDE, all_polished
from .task import RouteCandidate, Task, apart, judged

LEAST_NODES, NODES_A_METRE, MOST_BENDS = 140, 15, 6
MOST_POLISHED, MOST_FINISHED = 8, 3
MOST_BATCHES = 3  # this many of MOST_POLISHED are polished in search of enough to finish
MENDS_MM = 4.0  # what lacks no more than this after the second polishing may not after the last
ALIKE_MM = 50.0  # ways nowhere further apart than this are polished once
SPREADS, ATTEMPTS = 4, 3  # corner points are spread in this many ways at a time; this many times where none goes
FINER = 1.0  # each attempt has so much more corner points than the one before, and nearer to each other
SCARCE = 8  # with fewer chains that are free all along, what was found need not be the best: another attempt is made
SEEDS_EACH = 6  # chains taken from a spread for each number of bends: of those nearly free, and of the others
SEEDS_APART_MM, MOST_LOOKED_AT = 70.0, 400  # so far apart along one axis somewhere; of this many cheapest chains
MOST_CHEAP, MOST_ALIKE = 32, 10  # seeds polished at first: in all, with one number of bends; free and others each
DEARER_MM = 400.0  # what a chain may cost more than the cheapest and be polished before it is known that none goes


@dataclass(frozen=True)
class Seed:
    """A chain of the graph as a line with both ends (n + 2, 3), its bend radius, what the graph says it costs, and
    whether it is free all along."""

    cost: float
    points: Vector
    radius: float
    free: bool


Layers = tuple[Vector, Vector, Vector]  # what each node goes on to, what whole chains cost, where they come from


@dataclass(frozen=True)
class Graph:
    """Corner points (n, 3) for bends of one radius, and the chains over what sees each other: nearly free all along,
    and, for the first spread of an attempt, what is nearer too.
    """

    points: Vector
    radius: float
    free: Layers
    soft: Layers | None = None


def find(task: Task, attempts: int = ATTEMPTS) -> list[RouteCandidate]:
    """Ways that keep every gap, cheapest first; those that do not go come last, nearest miss first.

    `attempts`: how often it is looked at, each time more finely, where none goes or where there is hardly room.
    """
    found = list(_straight(task))
    if any(w.spare_mm >= 0 and w.bends == 0 for w in found):  # nothing is gentler than straight ahead
        return sorted(found, key=_order)
    for attempt in range(attempts):
        task.pulse()
        seeds = _pooled(task, attempt)
        found += _finished(task, _from_seeds(task, seeds))
        if any(w.spare_mm >= 0 for w in found) and sum(s.free for s in seeds) >= SCARCE:
            break
    task.pulse()
    less = _changed(task, found, fewer)
    if less:
        less += _changed(task, found + less, fewer)
    found += less
    return sorted(found + _changed(task, found, _other_radii), key=_order)


def _changed(
    task: Task, found: Sequence[RouteCandidate], change: Callable[[Task, RouteCandidate], RouteCandidate | None]
) -> list[RouteCandidate]:
    """Return the best ways after a change, polished to the end."""
    better = [w for w in (change(task, way) for way in _best(found)) if w]
    return all_polished(task, [(w.points, w.radii) for w in better], FINE)


def _best(found: Sequence[RouteCandidate]) -> list[RouteCandidate]:
    """The best two that are not alike."""
    best: list[RouteCandidate] = []
    for way in sorted(found, key=_order):
        if len(best) < 2 and all(apart(way, other) > ALIKE_MM for other in best):
            best.append(way)
    return best


def _pooled(task: Task, attempt: int) -> list[Seed]:
    """Chains over corner points spread in several ways, for every radius, cheapest first; a second attempt has others
    and looks at dearer ones too.
    """
    wanted = [(r, s) for r in task.ways.clr_mm for s in range(attempt * SPREADS, (attempt + 1) * SPREADS)]
    with ThreadPoolExecutor(2) as beside:
        graphs = list(beside.map(lambda want: _graph(task, want, attempt), wanted))
    seeds: list[Seed] = []
    for radius in task.ways.clr_mm:
        taken: dict[int, list[Vector]] = {}
        for graph in (graph for graph in graphs if graph.radius == radius):
            # what passes too near is cheap and may never be mended: first without it
            seeds += _chains(task, graph, graph.free, taken, free=True)
            if graph.soft is not None:
                seeds += _chains(task, graph, graph.soft, taken, free=False)
    seeds.sort(key=lambda seed: seed.cost)
    return _picked(seeds, 1 + attempt)


def _picked(seeds: Sequence[Seed], times: int) -> list[Seed]:
    """The cheapest of those that are free all along and of the others, this many of each number of bends at most."""
    out: list[Seed] = []
    for free in (True, False):
        many: Counter[int] = Counter()
        dearest = min((s.cost for s in seeds if s.free == free), default=0.0) + DEARER_MM * times
        for seed in (s for s in seeds if s.free == free and s.cost < dearest):
            many[len(seed.points)] += 1
            if many[len(seed.points)] <= MOST_ALIKE * times and many.total() <= MOST_CHEAP * times:
                out.append(seed)
    return out


def _from_seeds(task: Task, seeds: Sequence[Seed]) -> list[RouteCandidate]:
    """The most promising polished further, and more of them until enough of those keep every gap."""
    rough = all_polished(task, [(s.points, np.full(len(s.points) - 2, s.radius)) for s in seeds], ROUGH)
    wide: list[RouteCandidate] = []
    for _ in range(MOST_BATCHES):
        task.pulse()
        chosen = _worth_more(rough, wide)
        if not chosen or sum(w.spare_mm >= 0 for w in wide) >= MOST_FINISHED:
            break
        wide += all_polished(task, [(w.points, w.radii) for w in chosen], WIDE)
        rough = [w for w in rough if all(w is not other for other in chosen)]
    return wide


def _finished(task: Task, wide: Sequence[RouteCandidate]) -> list[RouteCandidate]:
    """The cheapest polished to the end, a few at a time until one keeps every gap; after the first few only those that
    lack little.
    """
    found: list[RouteCandidate] = []
    waiting = sorted(wide, key=lambda w: w.cost)
    while waiting and not any(w.spare_mm >= 0 for w in found):
        task.pulse()
        found += all_polished(task, [(w.points, w.radii) for w in waiting[:MOST_FINISHED]], FINE)
        waiting = [w for w in waiting[MOST_FINISHED:] if w.lacks_mm < MENDS_MM]
    return found


def _order(way: RouteCandidate) -> tuple[bool, float]:
    return way.spare_mm < 0, way.cost


def _worth_more(rough: Sequence[RouteCandidate], polished: Sequence[RouteCandidate]) -> list[RouteCandidate]:
    """The cheapest of each number of bends, and of all, none near another or near one that is polished."""
    chosen: list[RouteCandidate] = []
    for way in sorted(rough, key=lambda w: w.cost):
        alike = sum(w.bends == way.bends for w in chosen)
        if alike < 4 and len(chosen) < MOST_POLISHED and all(apart(way, w) > ALIKE_MM for w in (*chosen, *polished)):
            chosen.append(way)
    return chosen


def _straight(task: Task) -> Iterator[RouteCandidate]:
    """No bend, one, or two in one plane: what closing gives, where it keeps clear."""
    ways = BendOptions(task.ways.clr_mm, (), True, task.ways.shortest_mm, most_bends=2, starts=16)
    for answer in close(task.start, task.end, ways)[:12]:
        points = corner_points(task.start, answer)
        yield judged(task, points, answer.radii_mm if len(answer.bends) else np.zeros(0))


def _graph(task: Task, want: tuple[float, int], attempt: int) -> Graph:
    """Corner points for this radius spread so, what sees what, and the cheapest chains of each number of bends from two
    on.
    """
    radius, spread = want
    far = float(np.linalg.norm(task.end.point - task.start.point))
    finer = 1.0 + FINER * attempt
    most = round(finer * (LEAST_NODES + NODES_A_METRE * far / 1000))
    things = task.boxes, task.keep
    points, ahead, behind = way_graph.nodes(
        task.start,
        task.end,
        radius,
        things,
        task.around,
        task.vias,
        (most, way_graph.NODE_APART_MM / finer),
        (task.seed + 7 * spread) * 0.6180339887,
    )
    tangent = radius * math.tan(math.radians(min(task.most_deg, 90.0)) / 2)
    blocked, hard, extra = way_graph.seen(points, tangent, task.around[0], far * 1.1 + 4 * radius)
    limits = task.limits[0], math.radians(task.limits[1]), math.radians(task.limits[2])

    def layers(edges: Vector, least: float) -> Layers:
        near = way_graph.neighbours(points, edges, ahead, behind)
        return (
            near,
            *way_graph.by_bends(
                points,
                (ahead, behind),
                task.start.point,
                task.start.flow,
                task.end.point,
                task.end.flow,
                _clear(task, least),
                (edges, extra, near),
                radius,
                limits,
                MOST_BENDS - 1,
                task.vias,
                DEARER_MM * (1 + attempt),
            ),
        )

    free = layers(hard, -way_graph.HARD_MM)
    return Graph(points, radius, free, layers(blocked, -way_graph.SOFT_MM) if spread % SPREADS == 0 else None)


def _chains(task: Task, graph: Graph, over: Layers, taken: dict[int, list[Vector]], *, free: bool) -> Iterator[Seed]:
    """The cheapest chains over these edges for each number of bends, none near another or one taken before."""
    near, whole, back = over
    stages = len(task.vias) + 1
    for first in range(0, len(whole), stages):
        lines = taken.setdefault(first, [])
        room = len(lines) + SEEDS_EACH
        slabs = whole[first : first + stages]
        for flat in np.argsort(slabs, axis=None)[:MOST_LOOKED_AT]:
            stage, u, q, label = (int(i) for i in np.unravel_index(flat, slabs.shape))
            if slabs[stage, u, q, label] > 1e17 or len(lines) >= room:
                break
            line = graph.points[way_graph.chain_of(near, back, first + stage, u, q, label)]
            if all(np.abs(line - other).max() > SEEDS_APART_MM for other in lines):
                lines.append(line)
                whole_line = np.concatenate([task.start.point[None], line, task.end.point[None]])
                yield Seed(float(slabs[stage, u, q, label]), whole_line, graph.radius, free)


def _clear(task: Task, least: float) -> tuple[float, float]:
    """How far along its axis the start and the end is clear [mm]."""
    far = float(np.linalg.norm(task.room[1] - task.room[0]))
    ahead = way_graph.clear_along(task.start.point, task.start.flow, far, least, task.around)
    return ahead, way_graph.clear_along(task.end.point, -task.end.flow, far, least, task.around)


def fewer(task: Task, way: RouteCandidate) -> RouteCandidate | None:
    """A way with one corner less, where that goes and costs less."""
    return _cheaper(all_polished(task, list(_one_less(way)), FEWER), way)


def _one_less(way: RouteCandidate) -> Iterator[tuple[Vector, Vector]]:
    """Lines with one corner less: one left out, or two next to each other made one where their outer straights meet."""
    points, radii = way.points, way.radii
    for i in range(2, len(points) - 2):
        yield np.delete(points, i, axis=0), np.delete(radii, i - 1)
    for i in range(1, len(points) - 2 if len(radii) > 2 else 0):
        met = _meeting(points[i - 1], points[i], points[i + 1], points[i + 2])
        if met is not None:
            yield np.concatenate([points[:i], met[None], points[i + 2 :]]), np.delete(radii, i)


def _meeting(a: Vector, b: Vector, c: Vector, d: Vector) -> Vector | None:
    """Where the line from a on past b and that from d on past c come nearest; none where that is not ahead of both."""
    u, v = b - a, c - d
    sides = np.array([[u @ u, -(u @ v)], [u @ v, -(v @ v)]])
    if abs(np.linalg.det(sides)) < 1e-3 * (u @ u) * (v @ v):
        return None
    s, t = np.linalg.solve(sides, np.array([(c - b) @ u, (c - b) @ v]))
    return np.asarray((b + s * u + c + t * v) / 2) if s > 0 and t > 0 else None


def _other_radii(task: Task, way: RouteCandidate) -> RouteCandidate | None:
    """A way with one bend of another radius on hand, where that goes and costs less."""
    lines = []
    for i in range(way.bends):
        for radius in task.ways.clr_mm:
            if radius != way.radii[i]:
                radii = way.radii.copy()
                radii[i] = radius
                lines.append((way.points, radii))
    return _cheaper(all_polished(task, lines, ROUGH), way)


def _cheaper(tried: Sequence[RouteCandidate], way: RouteCandidate) -> RouteCandidate | None:
    good = [w for w in tried if w.spare_mm >= 0 and (way.spare_mm < 0 or w.cost < way.cost - 1.0)]
    return min(good, key=lambda w: w.cost, default=None)
