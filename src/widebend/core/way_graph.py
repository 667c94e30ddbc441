"""Where a way may turn, and which turns follow each other: corner points, what sees what, and a search by bend count.

Corner points stand on both ends' axes, round every solid a little off it, on mixed coordinates of the ends and the
solids, in narrow places, and evenly spread. An edge between two may be blocked near its ends: a corner is cut off by
its bend, so it counts as far as the tangents reach. The search keeps, for each edge and number of bends, two labels:
the cheaper one with a long tangent behind it may not leave room for the next bend.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .frame import Pose, Vector
from .way_cost import PER_BEND, PER_DEG, SHARP, WALK_MM, spare_at

Field = tuple[Vector, Vector, Vector]  # solids, what to keep from each, a ball round each: `way_cost.spare_at`

NEIGHBOURS = 44
LABELS = 2
SOFT_MM, SOFT_COST = 30.0, 6.0
NODE_APART_MM = 24.0
ODDS = (0.0, 0.7548776662466927, 0.5698402909980532, 0.4301597090019468)  # low-discrepancy steps (Roberts 2018)


def nodes(
    start: Pose, end: Pose, radius: float, boxes: Vector, field: Field, most: int
) -> tuple[Vector, int, int]:  # fmt: skip
    """Corner points (n, 3): those on the start's axis first, then those on the end's; how many of each."""
    far = float(np.linalg.norm(end.point - start.point))
    reach = np.unique(np.concatenate([radius * np.geomspace(0.12, 3.0, 9), far * np.linspace(0.1, 1.05, 9)]))
    ahead = start.point + reach[:, None] * start.flow
    behind = end.point - reach[:, None] * end.flow
    ahead, behind = (_thin(_kept(p, field, -60.0), 15.0, 16) for p in (ahead, behind))
    low = np.minimum(start.point, end.point) - 1.6 * radius - 160.0
    high = np.maximum(start.point, end.point) + 1.6 * radius + 160.0
    rest = np.concatenate([_narrow(low, high, field, radius), _round(boxes, field[1], start, end),
                           _mixed(boxes, start, end), _spread(low, high, 90)])  # fmt: skip
    rest = rest[((rest > low) & (rest < high)).all(axis=1)]
    rest = _thin(_kept(rest, field, -30.0), NODE_APART_MM, max(0, most - len(ahead) - len(behind)))
    return np.concatenate([ahead, behind, rest]), len(ahead), len(behind)


def _kept(points: Vector, field: Field, least: float) -> Vector:
    """Points that are not deeper in something than `least` [mm]."""
    if not len(points):
        return points
    return np.asarray(points[spares(np.ascontiguousarray(points), field) > least])


@njit(cache=True, nogil=True)
def spares(points, field):
    """How much more than needed each point (n, 3) keeps from the nearest solid (n,) [mm]."""
    out = np.empty(points.shape[0])
    for i in range(points.shape[0]):
        out[i], _ = spare_at(points[i, 0], points[i, 1], points[i, 2], field)
    return out


def _thin(points: Vector, apart: float, most: int) -> Vector:
    """The first points that stand at least `apart` from those before, in order of their worth."""
    kept: list[Vector] = []
    for p in points:
        if len(kept) >= most:
            break
        if not kept or np.min(np.linalg.norm(np.array(kept) - p, axis=1)) >= apart:
            kept.append(p)
    return np.array(kept).reshape(-1, 3)


def _round(boxes: Vector, keep: Vector, start: Pose, end: Pose) -> Vector:
    """Beside every face and edge of the box round each solid, a little more than needed off it."""
    out = []
    middle = (start.point + end.point) / 2
    for (low, high), gap in zip(boxes, keep, strict=True):
        if not np.isfinite(low).all():
            continue
        centre, half = (low + high) / 2, (high - low) / 2 + gap + 6.0
        for signs in np.ndindex(3, 3, 3):
            way = np.array(signs) - 1.0
            if 0 < np.abs(way).sum() < 3:
                at = centre + way * half
                # along what the pipe passes it is the ends that say where, not the middle of a long beam
                at = np.where(way == 0, np.clip(middle, low, high), at)
                out.append(at)
    return np.array(out).reshape(-1, 3)


def _mixed(boxes: Vector, start: Pose, end: Pose) -> Vector:
    xs = [c for low, high in boxes if np.isfinite(low).all() for c in (low[0] - 60.0, high[0] + 60.0)]
    xs += list(np.linspace(start.point[0], end.point[0], 6))
    a, b = start.point, end.point
    return np.array([(x, y, z) for x in xs for y, z in ((a[1], a[2]), (b[1], b[2]), (a[1], b[2]), (b[1], a[2]))])


def _spread(low: Vector, high: Vector, n: int) -> Vector:
    k = np.arange(1, n + 1)[:, None]
    return np.asarray(low + (high - low) * ((k * np.array(ODDS[1:])) % 1.0))


def _narrow(low: Vector, high: Vector, field: Field, radius: float) -> Vector:
    """Places in the middle of narrow gaps, and pairs on either side of each along the vehicle's axes."""
    climbed = climb(_spread(low, high, 700), field)
    room = spares(climbed, field)
    good = climbed[(room > 0.0) & (room < 70.0)]
    order = np.argsort(room[(room > 0.0) & (room < 70.0)])
    seeds = _thin(good[order], 45.0, 26)
    steps = [np.zeros(3), *(s * radius * 0.75 * np.eye(3)[k] for k in range(3) for s in (-1.0, 1.0))]
    return np.concatenate([seeds + s for s in steps]) if len(seeds) else np.zeros((0, 3))


@njit(cache=True, nogil=True)
def climb(points, field):
    """Each point moved away from what is nearest until two things are as near: the middle of a gap."""
    out = points.copy()
    for i in range(out.shape[0]):
        step = 24.0
        here, _ = spare_at(out[i, 0], out[i, 1], out[i, 2], field)
        for _ in range(14):
            best, bx, by, bz = here, 0.0, 0.0, 0.0
            for k in range(3):
                for s in (-1.0, 1.0):
                    dx = s * step if k == 0 else 0.0
                    dy = s * step if k == 1 else 0.0
                    dz = s * step if k == 2 else 0.0
                    d, _ = spare_at(out[i, 0] + dx, out[i, 1] + dy, out[i, 2] + dz, field)
                    if d > best:
                        best, bx, by, bz = d, dx, dy, dz
            if best > here + 0.5 and here < 60.0:
                out[i, 0] += bx
                out[i, 1] += by
                out[i, 2] += bz
                here = best
            else:
                step *= 0.5
                if step < 3.0:
                    break
    return out


@njit(cache=True, nogil=True)
def seen(points, first, last, most_tangent, field, longest):
    """What sees what: for nodes `first` to `last`, blocked[i, j] (mm from i's end until free), -1 where never, and what
    passing too near on the way counts for [mm].

    A line that goes deep into something further than a tangent can reach from both its ends is no edge; one that only
    comes a little too near is: the polishing moves it off.
    """
    n = points.shape[0]
    blocked = np.full((last - first, n), -1.0)
    extra = np.zeros((last - first, n))
    for i in range(first, last):
        for j in range(n):
            if i == j:
                continue
            dx, dy, dz = points[j, 0] - points[i, 0], points[j, 1] - points[i, 1], points[j, 2] - points[i, 2]
            length = math.sqrt(dx * dx + dy * dy + dz * dz)
            if length > longest or length < 8.0:
                continue
            s, free_from, ok, worst = 0.0, 0.0, True, 0.0
            while s <= length:
                t = s / length
                d, _ = spare_at(points[i, 0] + t * dx, points[i, 1] + t * dy, points[i, 2] + t * dz, field)
                if s > most_tangent and length - s > most_tangent:
                    worst = min(worst, d)
                if d < -SOFT_MM:
                    if s > most_tangent and length - s > most_tangent:
                        ok = False
                        break
                    if s <= most_tangent and s < length * 0.5:
                        free_from = s + WALK_MM
                    s += WALK_MM
                else:
                    s += max(WALK_MM, d)
            if ok and free_from <= most_tangent:
                blocked[i - first, j] = free_from
                extra[i - first, j] = -SOFT_COST * worst
    return blocked, extra


@njit(cache=True, nogil=True)
def bend_cost(turn, radius):
    """What a bend costs, less what it cuts off its corner [mm]."""
    deg = math.degrees(turn)
    tangent = radius * math.tan(turn / 2)
    return PER_BEND + PER_DEG * deg + SHARP * max(0.0, deg - 45.0) ** 2 + radius * turn - 2 * tangent


@njit(cache=True, nogil=True)
def turn_between(u, v):
    cx, cy, cz = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
    return math.atan2(math.sqrt(cx * cx + cy * cy + cz * cz), u[0] * v[0] + u[1] * v[1] + u[2] * v[2])


@njit(cache=True, nogil=True)
def by_bends(points, ends, start, f0, end, f1, edges, radius, limits, layers):
    """The cheapest chains for each number of bends: a layered dynamic programme over directed edges.

    ends: how many nodes stand on the start's axis (first) and on the end's (next). edges: (blocked, extra, near), near
    (n, k) the nodes each goes on to, -1 for none. limits: shortest straight [mm], largest and least turn [rad].
    Returns the cost of whole chains that turn onto the end's axis, (layers, n, k, labels) by their last edge, and for
    every label where it came from: node, and slot * LABELS + label.
    """
    n, k = edges[2].shape
    cost = np.full((layers, n, k, LABELS), 1e18)
    tangent = np.zeros((layers, n, k, LABELS))
    back = np.full((layers, n, k, LABELS, 2), -1, dtype=np.int64)
    whole = np.full((layers, n, k, LABELS), 1e18)
    _begin(points, ends[0], start, f0, edges, radius, limits, cost, tangent)
    for layer in range(layers):
        for u in range(n):
            for q in range(k):
                if edges[2][u, q] >= 0 and cost[layer, u, q, 0] < 1e17:
                    if layer + 1 < layers:
                        _go_on(points, u, q, layer, edges, radius, limits, cost, tangent, back)
                    _arrive(points, ends, u, q, layer, end, f1, edges, radius, limits, cost, tangent, whole)
    return whole, back


@njit(cache=True, nogil=True)
def _way(a, b, way):
    """The way from a to b (3,) into `way`, and its length."""
    length = 0.0
    for c in range(3):
        way[c] = b[c] - a[c]
        length += way[c] ** 2
    return math.sqrt(length)


@njit(cache=True, nogil=True)
def _begin(points, ahead, start, f0, edges, radius, limits, cost, tangent):
    """First bends: from the start's axis onto every edge that leaves it."""
    blocked, extra, near = edges
    way = np.empty(3)
    for u in range(ahead):
        lead = 0.0
        for c in range(3):
            lead += (points[u, c] - start[c]) * f0[c]
        for q in range(near.shape[1]):
            v = near[u, q]
            if v < 0:
                continue
            length = _way(points[u], points[v], way)
            turn = turn_between(f0, way)
            t = radius * math.tan(min(turn, 3.0) / 2)
            if limits[2] <= turn <= limits[1] and t <= min(lead, length) + 1e-9 and blocked[u, v] <= t + 1.0:
                cost[0, u, q, 0] = lead + bend_cost(turn, radius) + length + extra[u, v]
                tangent[0, u, q, 0] = t


@njit(cache=True, nogil=True)
def _go_on(points, u, q, layer, edges, radius, limits, cost, tangent, back):
    """From one edge onto all that follow it."""
    blocked, extra, near = edges
    v = near[u, q]
    way, other = np.empty(3), np.empty(3)
    length = _way(points[u], points[v], way)
    for p in range(near.shape[1]):
        w = near[v, p]
        if w < 0 or w == u:
            continue
        onward = _way(points[v], points[w], other)
        turn = turn_between(way, other)
        if turn > limits[1] or turn < limits[2]:
            continue
        t = radius * math.tan(turn / 2)
        if t > onward or blocked[v, u] > t + 1.0 or blocked[v, w] > t + 1.0:
            continue
        more = bend_cost(turn, radius) + onward + extra[v, w]
        for label in range(LABELS):
            total = cost[layer, u, q, label] + more
            if total < 1e17 and length - tangent[layer, u, q, label] - t >= limits[0]:
                _keep(cost, tangent, back, layer + 1, v, p, total, t, u, q * LABELS + label)


@njit(cache=True, nogil=True)
def _arrive(points, ends, u, q, layer, end, f1, edges, radius, limits, cost, tangent, whole):
    """From an edge that ends on the end's axis, the last bend onto it."""
    blocked, _, near = edges
    v = near[u, q]
    if v < ends[0] or v >= ends[0] + ends[1]:
        return
    way = np.empty(3)
    length, tail = _way(points[u], points[v], way), 0.0
    for c in range(3):
        tail += (end[c] - points[v, c]) * f1[c]
    turn = turn_between(way, f1)
    t = radius * math.tan(min(turn, 3.0) / 2)
    if turn > limits[1] or turn < limits[2] or t > tail + 1e-9 or blocked[v, u] > t + 1.0:
        return
    for label in range(LABELS):
        total = cost[layer, u, q, label]
        if total < 1e17 and length - tangent[layer, u, q, label] - t >= limits[0]:
            whole[layer, u, q, label] = total + bend_cost(turn, radius) + tail


@njit(cache=True, nogil=True)
def _keep(cost, tangent, back, layer, v, p, total, t, u, slot):
    """A label kept when it is cheaper, or has a shorter tangent than the cheaper one."""
    if total < cost[layer, v, p, 0]:
        if t > tangent[layer, v, p, 0] and cost[layer, v, p, 0] < 1e17:
            cost[layer, v, p, 1], tangent[layer, v, p, 1] = cost[layer, v, p, 0], tangent[layer, v, p, 0]
            back[layer, v, p, 1, 0], back[layer, v, p, 1, 1] = back[layer, v, p, 0, 0], back[layer, v, p, 0, 1]
        cost[layer, v, p, 0], tangent[layer, v, p, 0] = total, t
        back[layer, v, p, 0, 0], back[layer, v, p, 0, 1] = u, slot
    elif t < tangent[layer, v, p, 0] - 1.0 and total < cost[layer, v, p, 1]:
        cost[layer, v, p, 1], tangent[layer, v, p, 1] = total, t
        back[layer, v, p, 1, 0], back[layer, v, p, 1, 1] = u, slot


def chain_of(near: Vector, back: Vector, layer: int, u: int, q: int, label: int) -> list[int]:
    """The nodes of a chain from its last edge, first to last."""
    out = [int(near[u, q]), u]
    while layer > 0:
        before, slot = (int(v) for v in back[layer, u, q, label])
        layer, u, q, label = layer - 1, before, slot // LABELS, slot % LABELS
        out.append(u)
    return out[::-1]
