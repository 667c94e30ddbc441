"""Find a way between two poses past everything, gentlest first: seeds from a graph, polished on the true centre line.

Zero and one bend in closed form (`closing`); more by a layered search over corner points (`way_graph`), each of the
cheapest chains of every bend count polished by a small evolution strategy with a fixed seed, with bends left out where
that is better. Same input, same answer. docs/architecture.md, "Finding a way".
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numba import njit

from . import chain, way_graph
from .closing import END_MM, LEAST_ANGLE_DEG, Answer, Ways, close
from .frame import Pose, Vector, pose_from_matrix
from .gaps import Around
from .route import NO_RIGID
from .shifting import bounds
from .way_cost import way_cost

LEAST_NODES, NODES_A_METRE, MOST_BENDS = 110, 35, 6
FIRST_ROUNDS, LAST_ROUNDS, MOST_POLISHED, MOST_FINISHED = 16, 90, 7, 4
EXTRA_MM = 0.25  # kept over the needed gap while searching: an optimum sits exactly at its limit
SEEDS_EACH = 9  # chains polished for each number of bends
SLIGHT_MM = 0.3  # a straight shorter than this is none that anybody cuts
FITS_MM = 0.25  # a misfit this small is rounding, not a way that does not go


@dataclass(frozen=True)
class Task:
    """What is asked: from, to, the tube, and what is in the way as solids, with what to keep from each (radius in)."""

    start: Pose
    end: Pose
    od_mm: float
    ways: Ways
    rows: Vector
    keep: Vector
    boxes: Vector
    balls: Vector
    most_deg: float = 90.0

    @property
    def field(self) -> way_graph.Field:
        """The solids as the compiled search takes them."""
        return self.rows, self.keep, self.balls

    @property
    def limits(self) -> tuple[float, float, float]:
        """Shortest straight [mm], largest and least turn [deg]."""
        return float(self.ways.shortest_mm), float(self.most_deg), LEAST_ANGLE_DEG


@dataclass(frozen=True)
class Way:
    """A way found: its corner points with both ends (n + 2, 3), its cost, the least it keeps over what is needed."""

    points: Vector
    radii: Vector
    cost: float
    spare_mm: float

    @property
    def bends(self) -> int:
        return len(self.points) - 2


def task_of(start: Pose, end: Pose, od_mm: float, ways: Ways, around: Around, *, most_deg: float = 90.0) -> Task:
    """A task among things as they stand in every position; scans are left to the final check."""
    keep = around.needed[around.owner] + od_mm / 2 + EXTRA_MM
    boxes = np.array([_box(around, int(owner)) for owner in around.owner]).reshape(-1, 2, 3)
    balls = np.column_stack([boxes.mean(axis=1), np.linalg.norm(boxes[:, 1] - boxes[:, 0], axis=1) / 2])
    balls[~np.isfinite(balls).all(axis=1)] = (0.0, 0.0, 0.0, -1.0)
    return Task(start, end, od_mm, ways, np.ascontiguousarray(around.rows), keep, boxes, balls, most_deg)


def _box(around: Around, owner: int) -> Vector:
    box = bounds(around.obstacles[owner].thing.shape)
    return np.array(box) if box is not None else np.full((2, 3), np.nan)


def find(task: Task) -> list[Way]:
    """Ways that keep every gap, cheapest first; those that do not go come last, nearest miss first."""
    found = list(_straight(task))
    for radius in task.ways.clr_mm:
        rough = _all_polished(task, [(p, float(radius)) for p in _seeds(task, float(radius))], FIRST_ROUNDS, 40.0)
        found += _all_polished(task, [(w.points, float(radius)) for w in _worth_more(rough)], LAST_ROUNDS, 40.0)
    finished = sorted(found, key=lambda w: w.cost)[:MOST_FINISHED]
    found += _all_polished(task, [(w.points, float(w.radii[0])) for w in finished if w.bends > 1], LAST_ROUNDS, 9.0)
    best = sorted(found, key=_order)[:2]
    found += [w for w in (_fewer(task, way) for way in best) if w]
    return sorted(found, key=_order)


def _all_polished(task: Task, lines: Sequence[tuple[Vector, float]], rounds: int, sigma: float) -> list[Way]:
    """Several lines polished beside each other: the kernel lets go of the interpreter. In the order they came."""
    with ThreadPoolExecutor(2) as beside:
        return list(beside.map(lambda line: _polished(task, line[0], line[1], rounds, sigma), lines))


def _order(way: Way) -> tuple[bool, float]:
    return way.spare_mm < 0, way.cost


def _worth_more(rough: Sequence[Way]) -> list[Way]:
    """The most promising of each number of bends, and of all."""
    chosen: list[Way] = []
    by_cost = sorted(rough, key=lambda w: w.cost)
    for way in by_cost:
        alike = sum(w.bends == way.bends for w in chosen)
        if alike < 3 and len(chosen) < MOST_POLISHED and all(_apart(way, w) > 25.0 for w in chosen):
            chosen.append(way)
    return chosen


def _straight(task: Task) -> Iterator[Way]:
    """No bend, one, or two in one plane: what closing gives, where it keeps clear."""
    ways = Ways(task.ways.clr_mm, (), True, task.ways.shortest_mm, most_bends=2, starts=16)
    for answer in close(task.start, task.end, ways)[:12]:
        points = corner_points(task.start, answer)
        yield judged(task, points, answer.bends[:, 2] if len(answer.bends) else np.zeros(0))


def corner_points(start: Pose, answer: Answer) -> Vector:
    """The corners of an answer with both ends, (n + 2, 3)."""
    frames = chain.lay_frames(start.matrix(), answer.steps, NO_RIGID)
    points = [start.point]
    for step, frame in zip(answer.steps, frames, strict=False):
        if step[0] == chain.BEND:
            at = pose_from_matrix(frame)
            points.append(at.point + at.flow * step[2] * math.tan(math.radians(step[1]) / 2))
    return np.array([*points, pose_from_matrix(frames[-1]).point])


def judged(task: Task, points: Vector, radii: Vector) -> Way:
    """A line through corner points with what it costs and keeps; one that does not fit has a spare far below 0."""
    radii = np.ascontiguousarray(radii, dtype=float)
    cost, spare, misfit = way_cost(np.ascontiguousarray(points), radii, task.limits, task.field, 1e18)  # fmt: skip
    return Way(points, radii, float(cost), float(spare) if misfit < FITS_MM else -float(misfit) - 1000.0)


def _seeds(task: Task, radius: float) -> Iterator[Vector]:
    """The cheapest chains of each number of bends from two on, as lines through corner points."""
    far = float(np.linalg.norm(task.end.point - task.start.point))
    most = LEAST_NODES + round(NODES_A_METRE * far / 1000)
    points, ahead, behind = way_graph.nodes(task.start, task.end, radius, task.boxes, task.field, most)
    tangent = radius * math.tan(math.radians(min(task.most_deg, 90.0)) / 2)
    blocked, extra = way_graph.seen(points, 0, len(points), tangent, task.field, far * 1.1 + 4 * radius)
    near = _neighbours(points, blocked, ahead, behind)
    limits = task.limits[0], math.radians(task.limits[1]), math.radians(task.limits[2])
    whole, back = way_graph.by_bends(
        points, (ahead, behind), task.start.point, task.start.flow, task.end.point, task.end.flow,
        (blocked, extra, near), radius, limits, MOST_BENDS - 1,
    )  # fmt: skip
    for layer in range(whole.shape[0]):
        taken: list[Vector] = []
        for flat in np.argsort(whole[layer], axis=None)[:400]:
            u, q, label = (int(i) for i in np.unravel_index(flat, whole[layer].shape))
            if whole[layer, u, q, label] > 1e17 or len(taken) >= SEEDS_EACH:
                break
            line = points[way_graph.chain_of(near, back, layer, u, q, label)]
            if all(np.abs(line - other).max() > 70.0 for other in taken):
                taken.append(line)
                yield np.concatenate([task.start.point[None], line, task.end.point[None]])


def _neighbours(points: Vector, blocked: Vector, ahead: int, behind: int) -> Vector:
    """What each node goes on to: all it sees of the end's axis, and of the rest a spread of near and far."""
    n = len(points)
    near: Vector = np.full((n, way_graph.NEIGHBOURS), -1, dtype=np.int64)
    mutual = (blocked >= 0) & (blocked.T >= 0)
    for i in range(n):
        seen = np.flatnonzero(mutual[i])
        seen = seen[seen >= ahead]
        order = seen[np.argsort(np.linalg.norm(points[seen] - points[i], axis=1))]
        axis = order[order < ahead + behind]
        rest = order[order >= ahead + behind]
        room = way_graph.NEIGHBOURS - len(axis)
        if len(rest) > room > 0:
            rest = rest[np.unique(np.linspace(0, len(rest) - 1, room).astype(int))]
        chosen = np.concatenate([axis, rest])[: way_graph.NEIGHBOURS]
        near[i, : len(chosen)] = chosen
    return near


# --- polishing --------------------------------------------------------------------------------------------------------


def _polished(task: Task, points: Vector, radius: float, rounds: int, sigma: float) -> Way:
    """Corners moved until the way is as cheap as it gets, the first and last along the axes of the ends."""
    n = len(points) - 2
    radii = np.full(n, radius)
    first = float((points[1] - task.start.point) @ task.start.flow)
    last = float((task.end.point - points[-2]) @ task.end.flow)
    values = np.concatenate([[first], points[2:-2].ravel(), [last]]) if n > 1 else np.array([first])
    if n < 2:
        return judged(task, points, radii)
    rng = np.random.default_rng(n * 1000 + round(sigma))
    lots = rng.standard_normal((rounds, _lots(len(values)), len(values)))
    best, _ = evolve(values, sigma, lots, task.start.point, task.start.flow, task.end.point, task.end.flow, radii,
                     task.limits, task.field)  # fmt: skip
    return judged(task, line_of(best, task.start.point, task.start.flow, task.end.point, task.end.flow), radii)


def _lots(size: int) -> int:
    return 6 + round(2.2 * math.log(size + 1) + size / 4)


@njit(cache=True, nogil=True)
def line_of(values, start, f0, end, f1):
    """Corner points with both ends from free values: along the start's axis, places between, along the end's."""
    n = (values.shape[0] - 2) // 3 + 2
    points = np.empty((n + 2, 3))
    for c in range(3):
        points[0, c], points[n + 1, c] = start[c], end[c]
        points[1, c] = start[c] + values[0] * f0[c]
        points[n, c] = end[c] - values[values.shape[0] - 1] * f1[c]
    for i in range(2, n):
        for c in range(3):
            points[i, c] = values[1 + 3 * (i - 2) + c]
    return points


@njit(cache=True, nogil=True)
def evolve(values, sigma, lots, start, f0, end, f1, radii, limits, field):
    """A covariance-matrix evolution strategy (Hansen 2016, from memory) with its lots drawn beforehand."""
    d, rounds, offspring = values.shape[0], lots.shape[0], lots.shape[1]
    parents = offspring // 2
    weights = np.empty(parents)
    for i in range(parents):
        weights[i] = math.log(parents + 0.5) - math.log(i + 1.0)
    weights /= weights.sum()
    mu = 1.0 / (weights**2).sum()
    cc, cs = (4 + mu / d) / (d + 4 + 2 * mu / d), (mu + 2) / (d + mu + 5)
    c1 = 2 / ((d + 1.3) ** 2 + mu)
    cmu = min(1 - c1, 2 * (mu - 2 + 1 / mu) / ((d + 2) ** 2 + mu))
    damps = 1 + 2 * max(0.0, math.sqrt((mu - 1) / (d + 1)) - 1) + cs
    chi = math.sqrt(d) * (1 - 1 / (4 * d) + 1 / (21 * d * d))
    mean, cov = values.copy(), np.eye(d)
    pc, ps = np.zeros(d), np.zeros(d)
    basis, scale = np.eye(d), np.ones(d)
    best = values.copy()
    best_cost = way_cost(line_of(best, start, f0, end, f1), radii, limits, field, 1e18)[0]
    tried, costs = np.empty((offspring, d)), np.empty(offspring)
    for r in range(rounds):
        if r % 3 == 0:
            scale, basis = np.linalg.eigh(cov)
            scale, basis = np.sqrt(np.maximum(scale, 1e-12)), np.ascontiguousarray(basis)
        for k in range(offspring):
            tried[k] = mean + sigma * (basis @ (scale * lots[r, k]))
            tried[k, 0], tried[k, d - 1] = max(tried[k, 0], 0.0), max(tried[k, d - 1], 0.0)
            line = line_of(tried[k], start, f0, end, f1)
            costs[k] = way_cost(line, radii, limits, field, best_cost * 1.6 + 2000.0)[0]
        order = np.argsort(costs)
        if costs[order[0]] < best_cost:
            best_cost, best = costs[order[0]], tried[order[0]].copy()
        old = mean.copy()
        mean = np.zeros(d)
        for i in range(parents):
            mean += weights[i] * tried[order[i]]
        step = (mean - old) / sigma
        ps = (1 - cs) * ps + math.sqrt(cs * (2 - cs) * mu) * (basis @ ((basis.T @ step) / scale))
        length = math.sqrt((ps**2).sum())
        fast = length / math.sqrt(1 - (1 - cs) ** (2 * (r + 1))) / chi < 1.4 + 2 / (d + 1)
        pc = (1 - cc) * pc + (math.sqrt(cc * (2 - cc) * mu) * step if fast else np.zeros(d))
        cov = (1 - c1 - cmu) * cov + c1 * np.outer(pc, pc)
        for i in range(parents):
            y = (tried[order[i]] - old) / sigma
            cov += cmu * weights[i] * np.outer(y, y)
        sigma *= math.exp(min(1.0, (cs / damps) * (length / chi - 1)))
        if sigma * scale.max() < 0.02:
            break
    return best, best_cost


def _fewer(task: Task, way: Way) -> Way | None:
    """A way with one corner less, where that goes and costs less."""
    best: Way | None = None
    for i in range(2, len(way.points) - 2):
        tried = _polished(task, np.delete(way.points, i, axis=0), float(way.radii[0]), FIRST_ROUNDS, 40.0)
        if tried.spare_mm >= 0 and tried.cost < way.cost - 1.0 and (best is None or tried.cost < best.cost):
            best = tried
    return best


def pieces_of(task: Task, way: Way) -> Answer:
    """A way as steps laid from its start: straights, bends and rolls, exact at the end."""
    steps: list[list[float]] = []
    at, points = task.start, way.points
    tangent = 0.0
    for i in range(1, len(points) - 1):
        before = at.flow
        onward = points[i + 1] - points[i]
        onward = onward / np.linalg.norm(onward) if i + 2 < len(points) else task.end.flow
        turn = math.atan2(float(np.linalg.norm(np.cross(before, onward))), float(before @ onward))
        t = float(way.radii[i - 1]) * math.tan(turn / 2)
        leg = float(np.linalg.norm(points[i] - points[i - 1])) - tangent - t
        steps.append([chain.LEG, max(leg, 0.0), 0.0, 0.0])
        steps.append([chain.BEND, math.degrees(turn), float(way.radii[i - 1]), at.roll_of(onward)])
        at = pose_from_matrix(chain.lay_frames(at.matrix(), np.array(steps[-2:]), NO_RIGID)[-1])
        tangent = t
    steps.append([chain.LEG, max(0.0, float(np.linalg.norm(points[-1] - points[-2])) - tangent), 0.0, 0.0])
    return Answer(_exact(task, np.array(steps)), from_set=False)


def _exact(task: Task, steps: Vector) -> Vector:
    """Straights of next to nothing made nothing, and the rest moved by as little until the end is met exactly."""
    legs, bends = np.flatnonzero(steps[:, 0] == chain.LEG), np.flatnonzero(steps[:, 0] == chain.BEND)
    slight = legs[steps[legs, 1] < SLIGHT_MM]
    if not len(slight):
        return steps
    made = steps.copy()
    made[slight, 1] = 0.0
    free = [(i, 1) for i in legs if i not in slight] + [(i, c) for i in bends for c in (3, 1)]
    low = np.array([0.0 if steps[i, 0] == chain.LEG else LEAST_ANGLE_DEG if c == 1 else -1080.0 for i, c in free])
    high = np.array([9000.0 if steps[i, 0] == chain.LEG else 180.0 if c == 1 else 1080.0 for i, c in free])
    arm = max(200.0, float(np.linalg.norm(task.end.point - task.start.point)) / 3)
    closed, error = chain.close_chain(task.start.matrix(), made, NO_RIGID, task.end.matrix(), np.array(free), low, high,
                                      arm, 60)  # fmt: skip
    return np.asarray(closed) if error < END_MM else steps


def distinct(found: Sequence[Way], apart_mm: float = 60.0) -> list[Way]:
    """Ways that go, without near copies: each further than this from every better one somewhere along."""
    kept: list[Way] = []
    for way in found:
        if way.spare_mm >= 0 and all(_apart(way, other) > apart_mm for other in kept):
            kept.append(way)
    return kept


def _apart(a: Way, b: Way) -> float:
    one, two = (_evenly(w.points) for w in (a, b))
    return float(np.linalg.norm(one - two, axis=1).max())


def _evenly(points: Vector, n: int = 40) -> Vector:
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    at = np.linspace(0.0, along[-1], n)
    return np.column_stack([np.interp(at, along, points[:, k]) for k in range(3)])
