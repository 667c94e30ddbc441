"""A line through corner points made as cheap as it gets, compiled: all of it free, or with its angles given.

How values make a line is its model, a tuple (kind, start, f0, end, f1, radii, directions, legs, angles, side, odd):
    FREE   values: how far along the start's axis the first corner is, the corners between, the last's to the end
    GIVEN  n bends with given angles. values: turns of the first n - 2 bends about their straights [deg] from those of
           `directions` (n + 1, 3); what to add to each of `legs` (n + 1) before they are made to meet the end; and with
           odd >= 0, what to add to that bend's angle [deg]. The last direction but one lies on two cones: `side` says
           which of the two answers.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numba import njit

from ..closing import LEAST_ANGLE_DEG
from ..space import Pose, Vector
from .cost import MISFIT, way_cost
from .task import USED_UP_MM, Asked, RouteCandidate, Task, judged

FREE, GIVEN = 0, 1
LEAST_LEAD_MM = 0.1
NONE3: Vector = np.zeros((0, 3))
NONE1: Vector = np.zeros(0)


@dataclass(frozen=True)
class Pass:
    """How a line is polished: rounds, how far corners are first thrown [mm], the least step of the walk [mm], what too
    near is let pass in what comes out [mm]: what such a walk does not see, the next pass mends; and what the last keeps
    besides for that [mm], no pass coming after it.
    """

    rounds: int
    sigma: float
    walk_mm: float
    ease_mm: float = USED_UP_MM
    besides_mm: float = 0.0


ROUGH, WIDE = Pass(16, 40.0, 24.0, 1.8), Pass(80, 11.0, 16.0, 0.8)
FINE = Pass(130, 11.0, 8.0, besides_mm=0.12)
FEWER = Pass(80, 40.0, 16.0, 0.8)


def polished(task: Task, points: Vector, radii: Vector, how: Pass) -> RouteCandidate:
    """Corners moved until the way is as cheap as it gets, the first and last along the axes of the ends."""
    if len(points) < 4:
        return judged(task, points, radii)
    first = float((points[1] - task.start.point) @ task.start.flow)
    last = float((task.end.point - points[-2]) @ task.end.flow)
    values = np.concatenate([[first], points[2:-2].ravel(), [last]])
    model = (FREE, *_ends(task.start, task.end), np.ascontiguousarray(radii), NONE3, NONE1, NONE1, 0.0, -1)
    best, _ = evolve(values, how.sigma, random_draws(task, how.rounds, len(values)), model, _asked(task, how))
    return judged(task, line_of(best, model)[0], radii, how.ease_mm)


def all_polished(task: Task, lines: Sequence[tuple[Vector, Vector]], how: Pass) -> list[RouteCandidate]:
    """Several lines polished beside each other: the kernel lets go of the interpreter. In the order they came."""
    with ThreadPoolExecutor(2) as beside:
        return list(beside.map(lambda line: polished(task, line[0], line[1], how), lines))


def _asked(task: Task, how: Pass) -> Asked:
    return task.asked(how.walk_mm, -how.besides_mm)


def _ends(start: Pose, end: Pose) -> tuple[Vector, Vector, Vector, Vector]:
    return start.point, start.flow, end.point, end.flow


def random_draws(task: Task, rounds: int, size: int) -> Vector:
    """Lots for `evolve`, drawn with the task's seed: the same for the same question."""
    each = 6 + round(2.2 * math.log(size + 1) + size / 4)
    return np.random.default_rng((task.seed, rounds, size)).standard_normal((rounds, each, size))


def with_angles(
    task: Task,
    way: RouteCandidate,
    directions: Vector,
    legs: Vector,
    angles: Vector,
    side: float,
    odd: int,
    roll_deg: float,
    how: Pass,
) -> tuple[Vector, float, float]:
    """The cheapest line near a way with these angles [deg], its first bend turned so far to begin with: its points, its
    cost, and what of that is for misfits.
    """
    n = len(angles)
    model = (GIVEN, *_ends(task.start, task.end), np.ascontiguousarray(way.radii), directions, legs, angles, side, odd)
    values = np.zeros(2 * n - 1 + (odd >= 0))
    values[0] = roll_deg if n > 2 else 0.0
    best, cost = evolve(values, how.sigma, random_draws(task, how.rounds, len(values)), model, _asked(task, how))
    points, off = line_of(best, model)
    return points, float(cost), float(off)


@njit(cache=True, nogil=True, error_model="numpy")
def cost_of(values, model, asked, patience):
    """The cost of what values make, all that misfits in it [mm]."""
    points, off = line_of(values, model)
    return way_cost(points, model[5], asked, patience - off)[0] + off


@njit(cache=True, nogil=True, error_model="numpy")
def line_of(values, model):
    """Corner points with both ends from free values, (n + 2, 3), and what misfits in them counts for [mm]."""
    if model[0] == GIVEN:
        return _given(values, model)
    start, f0, end, f1 = model[1], model[2], model[3], model[4]
    n = (values.shape[0] - 2) // 3 + 2
    points = np.empty((n + 2, 3))
    for c in range(3):
        points[0, c], points[n + 1, c] = start[c], end[c]
        points[1, c] = start[c] + values[0] * f0[c]
        points[n, c] = end[c] - values[values.shape[0] - 1] * f1[c]
    for i in range(2, n):
        for c in range(3):
            points[i, c] = values[1 + 3 * (i - 2) + c]
    return points, 0.0


@njit(cache=True, nogil=True, error_model="numpy")
def _given(values, model):
    _, start, f0, end, f1, radii, directions, legs, given, side, odd = model
    n = given.shape[0]
    angles = given.copy()
    if odd >= 0:
        angles[odd] = min(max(given[odd] + values[2 * n - 1], LEAST_ANGLE_DEG), 150.0)
    ways, tangents = np.empty((n + 1, 3)), np.empty(n)
    ways[0], ways[n] = f0, f1
    for i in range(n - 2):
        _turned(ways[i], directions[i + 1], math.radians(angles[i]), math.radians(values[i]), ways[i + 1])
    off = _between(ways, math.radians(angles[n - 2]), math.radians(angles[n - 1]), side, end - start)
    for i in range(n):
        tangents[i] = radii[i] * math.tan(math.radians(angles[i]) / 2)
    made, missed = _legs(values, n, ways, tangents, legs, end - start)
    points = np.empty((n + 2, 3))
    points[0], points[n + 1] = start, end
    before = 0.0
    for i in range(n):
        points[i + 1] = points[i] + (made[i] + before + tangents[i]) * ways[i]
        before = tangents[i]
        off += MISFIT * max(0.0, -made[i])
    return points, off + MISFIT * (missed + max(0.0, -made[n]))


@njit(cache=True, nogil=True, error_model="numpy")
def _turned(before, toward, angle, roll, out):
    """A direction at `angle` from `before`, toward another, turned about `before` by `roll` [rad]."""
    side = toward - (toward[0] * before[0] + toward[1] * before[1] + toward[2] * before[2]) * before
    size = math.sqrt((side**2).sum())
    if size < 1e-9:
        side[0], side[1], side[2] = 0.0, before[2], -before[1]
        if abs(before[0]) > 0.9:
            side[0], side[1], side[2] = -before[2], 0.0, before[0]
        size = math.sqrt((side**2).sum())
    u = side / size
    s, c = math.sin(roll) * math.sin(angle), math.cos(roll) * math.sin(angle)
    for k in range(3):
        a, b = (k + 1) % 3, (k + 2) % 3
        out[k] = math.cos(angle) * before[k] + c * u[k] + s * (before[a] * u[b] - before[b] * u[a])


@njit(cache=True, nogil=True, error_model="numpy")
def _between(ways, a, b, side, ahead):
    """The last direction but one, at `a` from the one before it and `b` from the last, into ways; what that lacks."""
    n = ways.shape[0] - 1
    p, q, out = ways[n - 2], ways[n], ways[n - 1]
    d = p[0] * q[0] + p[1] * q[1] + p[2] * q[2]
    rest = 1.0 - d * d
    if rest < 1e-10:  # parallel: the offset's plane says which way round, and both angles must be the same
        across = ahead - (ahead[0] * p[0] + ahead[1] * p[1] + ahead[2] * p[2]) * p
        size = max(math.sqrt((across**2).sum()), 1e-9)
        out[:] = math.cos(a) * p + math.sin(a) / size * across
        return 2e4 * abs(math.cos(a) - d * math.cos(b))
    u, v = (math.cos(a) - d * math.cos(b)) / rest, (math.cos(b) - d * math.cos(a)) / rest
    left = 1.0 - u * u - v * v - 2.0 * u * v * d
    rise = side * math.sqrt(max(left, 0.0) / rest)
    for k in range(3):
        i, j = (k + 1) % 3, (k + 2) % 3
        out[k] = u * p[k] + v * q[k] + rise * (p[i] * q[j] - p[j] * q[i])
    if left < 0.0:
        out /= math.sqrt((out**2).sum())
        return 2e4 * min(-left, 1.0)
    return 0.0


@njit(cache=True, nogil=True, error_model="numpy")
def _legs(values, n, ways, tangents, own, ahead):
    """Straights that meet the end, as near to `own` with the values added as they can be, and what is missed [mm]."""
    made, want = np.empty(n + 1), ahead.copy()
    for i in range(n + 1):
        made[i] = own[i] + values[n - 2 + i]
        cut = (tangents[i] if i < n else 0.0) + (tangents[i - 1] if i > 0 else 0.0)
        want -= (cut + made[i]) * ways[i]
    square = np.zeros((3, 3))
    for i in range(n + 1):
        for r in range(3):
            for c in range(3):
                square[r, c] += ways[i, r] * ways[i, c]
    for r in range(3):
        square[r, r] += 1e-11
    push = np.linalg.solve(square, want)
    for i in range(n + 1):
        more = ways[i, 0] * push[0] + ways[i, 1] * push[1] + ways[i, 2] * push[2]
        made[i] += more
        want -= more * ways[i]
    return made, math.sqrt((want**2).sum())


@njit(cache=True, nogil=True, error_model="numpy")
def evolve(values, sigma, random_draws, model, asked):
    """A covariance-matrix evolution strategy (Hansen 2016, from memory) with its lots drawn beforehand.

    model: how values make a line, see `line_of`. Returns the best values and their cost.
    """
    d, rounds, offspring = values.shape[0], random_draws.shape[0], random_draws.shape[1]
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
    best_cost = cost_of(best, model, asked, 1e18)
    tried, costs = np.empty((offspring, d)), np.empty(offspring)
    for r in range(rounds):
        if r % 3 == 0:
            scale, basis = np.linalg.eigh(cov)
            scale, basis = np.sqrt(np.maximum(scale, 1e-12)), np.ascontiguousarray(basis)
        for k in range(offspring):
            tried[k] = mean + sigma * (basis @ (scale * random_draws[r, k]))
            if model[0] == FREE:
                # never in the end itself: a corner there would have no direction to turn from
                tried[k, 0], tried[k, d - 1] = max(tried[k, 0], LEAST_LEAD_MM), max(tried[k, d - 1], LEAST_LEAD_MM)
            # of one that cannot be among the parents any more it need not be known by how much
            patience = np.sort(costs[:k])[parents - 1] if k >= parents else 1e18
            costs[k] = cost_of(tried[k], model, asked, patience)
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
