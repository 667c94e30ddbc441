"""Where a way may turn, and which turns follow each other: corner points, what sees what, and a search by bend count.

Corner points stand on both ends' axes, round every solid a little off it, on mixed coordinates of the ends and the
solids, in narrow places, and evenly spread. An edge between two may be blocked near its ends: a corner is cut off by
its bend, so it counts as far as the tangents reach. The search keeps, for each edge and number of bends, two labels:
the cheaper one with a long tangent behind it may not leave room for the next bend.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numba import njit

from ..closing import bend_cost
from ..geometry import leaf
from ..space import Pose, Vector
from .cost import to_segment
from .field import Field, about, spare_at, spares

NEIGHBOURS = 44
LABELS = 2
SOFT_MM, SOFT_COST, HARD_MM = 30.0, 6.0, 10.0
SLACK_MM = 12.0  # corners stand where they were put: what is short by so much polishing mends
NODE_APART_MM = 24.0
CLEAR_STEP_MM = 8.0
SEEN_WALK_MM = 16.0  # the least step along what two nodes see of each other
MOST_SPREAD = 150
SHARES = 0.55, 0.25, 0.02, 0.18  # of the corner points: in narrow places, round things, on mixed coordinates, spread
ODDS = (0.0, 0.7548776662466927, 0.5698402909980532, 0.4301597090019468)  # low-discrepancy steps (Roberts 2018)


def nodes(
    start: Pose,
    end: Pose,
    radius: float,
    things: tuple[Vector, Vector],
    field: Field,
    vias: Vector,
    many: tuple[int, float],
    turned: float = 0.0,
) -> tuple[Vector, int, int]:
    """Corner points (n, 3): those on the start's axis first, then those on the end's; how many of each.

    things: the boxes round them (m, 2, 3) and what to keep from each (m,). many: how many at most, and how near to each
    other [mm]. `turned` shifts what is spread evenly.
    """
    far = float(np.linalg.norm(end.point - start.point))
    reach = np.unique(np.concatenate([radius * np.geomspace(0.12, 3.0, 9), far * np.linspace(0.1, 1.05, 9)]))
    ahead = start.point + reach[:, None] * start.flow
    behind = end.point - reach[:, None] * end.flow
    ahead, behind = (_thin(_kept(p, field, -60.0), 15.0, 16) for p in (ahead, behind))
    low = np.minimum(start.point, end.point) - 1.6 * radius - 160.0
    high = np.maximum(start.point, end.point) + 1.6 * radius + 160.0
    kinds = (
        _narrow(low, high, field, radius, turned),
        _round(*things, start, end),
        _mixed(things[0], start, end),
        _spread(low, high, MOST_SPREAD, turned),
    )
    random_draws = np.random.default_rng(int(1000 * turned))
    usable = [random_draws.permutation(_kept(k[((k > low) & (k < high)).all(axis=1)], field, -SOFT_MM)) for k in kinds]
    rest = np.concatenate([_through(vias, radius), by_shares(usable, SHARES)])
    rest = _thin(rest, many[1], max(0, many[0] - len(ahead) - len(behind)))
    return np.concatenate([ahead, behind, rest]), len(ahead), len(behind)


def by_shares(kinds: Sequence[Vector], shares: Sequence[float]) -> Vector:
    """Points of several kinds in one order, in which as long as there are any each kind has its share."""
    rank = np.concatenate([np.arange(1, len(k) + 1) / share for k, share in zip(kinds, shares, strict=True)])
    return np.asarray(np.concatenate(kinds)[np.argsort(rank, kind="stable")])


def _kept(points: Vector, field: Field, least: float) -> Vector:
    """Points that are not deeper in something than `least` [mm]."""
    if not len(points):
        return points
    return np.asarray(points[spares(np.ascontiguousarray(points), field) > least])


@njit(cache=True, nogil=True, error_model="numpy")
def _thin(points, apart, most):
    """The first points (n, 3) that stand at least `apart` from those before, in order of their worth."""
    kept = np.empty((min(most, points.shape[0]), 3))
    count = 0
    for i in range(points.shape[0]):
        if count == kept.shape[0]:
            break
        alone = True
        for j in range(count):
            square = 0.0
            for c in range(3):
                square += (kept[j, c] - points[i, c]) ** 2
            if square < apart * apart:
                alone = False
                break
        if alone:
            for c in range(3):
                kept[count, c] = points[i, c]
            count += 1
    return kept[:count]


def _round(boxes: Vector, keep: Vector, start: Pose, end: Pose) -> Vector:
    """Beside every face and edge of the box round each solid, a little more than needed off it."""
    bounded = np.isfinite(boxes).all(axis=(1, 2))
    low, high = boxes[bounded, None, 0], boxes[bounded, None, 1]  # each (m, 1, 3)
    signs = np.array([s for s in np.ndindex(3, 3, 3) if 0 < np.abs(np.subtract(s, 1)).sum() < 3]) - 1.0
    at = (low + high) / 2 + signs * ((high - low) / 2 + keep[bounded, None, None] + 6.0)
    # along what the pipe passes it is the ends that say where, not the middle of a long beam
    middle = np.clip((start.point + end.point) / 2, low, high)
    return np.where(signs == 0, middle, at).reshape(-1, 3)


def _mixed(boxes: Vector, start: Pose, end: Pose) -> Vector:
    xs = [c for low, high in boxes if np.isfinite(low).all() for c in (low[0] - 60.0, high[0] + 60.0)]
    xs += list(np.linspace(start.point[0], end.point[0], 6))
    a, b = start.point, end.point
    return np.array([(x, y, z) for x in xs for y, z in ((a[1], a[2]), (b[1], b[2]), (a[1], b[2]), (b[1], a[2]))])


def _spread(low: Vector, high: Vector, n: int, turned: float) -> Vector:
    k = np.arange(1, n + 1)[:, None]
    return np.asarray(low + (high - low) * ((k * np.array(ODDS[1:]) + turned) % 1.0))


def _through(vias: Vector, radius: float) -> Vector:
    """On what the way must come through, and before and behind it."""
    out = [via[:3] for via in vias]
    for via in vias:
        axes = via[None, 3:6] if np.any(via[3:6]) else np.eye(3)
        out += [via[:3] + s * radius * axis for axis in axes for s in (-1.5, -0.7, 0.7, 1.5)]
    return np.array(out).reshape(-1, 3)


def _narrow(low: Vector, high: Vector, field: Field, radius: float, turned: float) -> Vector:
    """Places in the middle of narrow gaps, and pairs on either side of each along the vehicle's axes."""
    climbed = climb(_spread(low, high, 700, turned), field)
    room = spares(climbed, field)
    good = climbed[(room > 0.0) & (room < 70.0)]
    order = np.argsort(room[(room > 0.0) & (room < 70.0)])
    seeds = _thin(good[order], 45.0, 26)
    steps = [np.zeros(3), *(s * radius * 0.75 * np.eye(3)[k] for k in range(3) for s in (-1.0, 1.0))]
    return np.concatenate([seeds + s for s in steps]) if len(seeds) else np.zeros((0, 3))


def clear_along(point: Vector, way: Vector, far: float, least: float, field: Field) -> float:
    """How far from a point along a way nothing is nearer than `least` over what is needed [mm].

    Where it begins too near, that is overlooked.
    """
    along = np.arange(0.0, far + CLEAR_STEP_MM, CLEAR_STEP_MM)
    free = spares(np.ascontiguousarray(point + along[:, None] * way), field) >= least
    first = int(np.argmax(free)) if free.any() else len(free)
    blocked = np.flatnonzero(~free[first:])
    return float(along[first + blocked[0]] - CLEAR_STEP_MM) if len(blocked) else far


@njit(cache=True, nogil=True, error_model="numpy")
def climb(points, field):
    """Each point moved away from what is nearest until two things are as near: the middle of a gap."""
    out, grad = points.copy(), np.empty(3)
    for i in range(out.shape[0]):
        step = 24.0
        here = spare_at(out[i, 0], out[i, 1], out[i, 2], field, grad)
        for _ in range(14):
            best, bx, by, bz = here, 0.0, 0.0, 0.0
            for k in range(3):
                for s in (-1.0, 1.0):
                    dx = s * step if k == 0 else 0.0
                    dy = s * step if k == 1 else 0.0
                    dz = s * step if k == 2 else 0.0
                    d = spare_at(out[i, 0] + dx, out[i, 1] + dy, out[i, 2] + dz, field, grad)
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


@njit(cache=True, nogil=True, error_model="numpy")
def seen(points, most_tangent, grid, longest):
    """Return the visibility between nodes: (blocked, hard, extra), each (n, n).

    blocked[i, j] is how far from i's end the line to j goes deep into something [mm], hard[i, j] how far it is too near
    anything at all, -1 where they do not see each other so; extra is what passing too near on the way counts for [mm].
    A line that does so further than a tangent can reach from both its ends is no edge. The room is that of the field's
    grid: between corners that polishing moves it need not be exact.
    """
    n = points.shape[0]
    blocked, hard, extra = np.full((n, n), -1.0), np.full((n, n), -1.0), np.zeros((n, n))
    ends = np.empty(4)
    for i in range(n):
        for j in range(i + 1, n):
            length = math.sqrt(((points[j] - points[i]) ** 2).sum())
            if length > longest or length < 8.0:
                continue
            worst = _look(points[i], points[j], length, most_tangent, grid, ends)
            if worst < -SOFT_MM or max(ends[0], ends[1]) > most_tangent:
                continue
            blocked[i, j], blocked[j, i] = ends[0], ends[1]
            extra[i, j] = extra[j, i] = -SOFT_COST * worst
            if worst >= -HARD_MM and max(ends[2], ends[3]) <= most_tangent:
                hard[i, j], hard[j, i] = ends[2], ends[3]
    return blocked, hard, extra


@leaf()
def _look(a, b, length, most_tangent, grid, ends):
    """Along a line: how far from each end it is deep in something, then too near (ends (4,)); its worst further in."""
    s, worst = 0.0, 0.0
    ends[:] = 0.0
    for t in (0.5, 0.25, 0.75):  # most that is blocked is blocked here: that saves the walk
        if min(t, 1.0 - t) * length > most_tangent:
            d, _ = about(a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2]), grid)
            if d < -SOFT_MM:
                return d
    while s <= length:
        t = s / length
        d, _ = about(a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2]), grid)
        if s > most_tangent and length - s > most_tangent:
            worst = min(worst, d)
            if worst < -SOFT_MM:
                return worst
        for k, limit in ((0, -SOFT_MM), (2, -HARD_MM)):
            if d < limit and s < length * 0.5:
                ends[k] = s + SEEN_WALK_MM
            elif d < limit:
                ends[k + 1] = max(ends[k + 1], length - s + SEEN_WALK_MM)
        s += max(SEEN_WALK_MM, d)
    return worst


@njit(cache=True, nogil=True, error_model="numpy")
def neighbours(points, blocked, ahead, behind):
    """Return the neighbours of each node (n, NEIGHBOURS), -1 for no more: all it sees of the end's axis, and of the
    rest a spread of near and far. blocked: see `seen`; none goes on to the start's axis, the first `ahead` nodes.
    """
    n = points.shape[0]
    out = np.full((n, NEIGHBOURS), -1)
    seen_of, far = np.empty(n, dtype=np.int64), np.empty(n)
    for i in range(n):
        found, filled = 0, 0
        for j in range(ahead, n):
            if blocked[i, j] >= 0 and blocked[j, i] >= 0:
                if j < ahead + behind:
                    if filled < NEIGHBOURS:
                        out[i, filled] = j
                        filled += 1
                else:
                    seen_of[found] = j
                    far[found] = ((points[j] - points[i]) ** 2).sum()
                    found += 1
        order = np.argsort(far[:found])
        room = min(NEIGHBOURS - filled, found)
        for k in range(room):
            at = k * (found - 1) // (room - 1) if room > 1 else 0
            out[i, filled + k] = seen_of[order[at]]
    return out


@leaf()
def corner_cost(turn, radius):
    """Return the cost of a bend, less the length it saves at its corner [mm]."""
    deg = math.degrees(turn)
    tangent = radius * math.tan(turn / 2)
    return bend_cost(deg) + radius * turn - 2 * tangent


@leaf()
def half_tan(u, v, lengths):
    """The tangent of half the turn from u to v, the product of whose lengths is known."""
    cx, cy, cz = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
    return math.sqrt(cx * cx + cy * cy + cz * cz) / max(lengths + u[0] * v[0] + u[1] * v[1] + u[2] * v[2], 1e-9)


@leaf()
def turn_between(u, v):
    cx, cy, cz = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
    return math.atan2(math.sqrt(cx * cx + cy * cy + cz * cz), u[0] * v[0] + u[1] * v[1] + u[2] * v[2])


@njit(cache=True, nogil=True, error_model="numpy")
def by_bends(points, ends, start, f0, end, f1, clear, edges, radius, limits, layers, vias, dearer):
    """The cheapest chains for each number of bends: a layered dynamic programme over directed edges.

    ends: how many nodes stand on the start's axis (first) and on the end's (next); clear: how far along its axis the
    start and the end is free (2,) [mm]. edges: (blocked, extra, near), near
    (n, k) the nodes each goes on to, -1 for none. limits: shortest straight [mm], largest and least turn [rad]. vias:
    what the way must come through in order; a chain is at a stage, the number of those it has come through. What cannot
    be whole any more for less than `dearer` over the cheapest is not gone on with [mm].
    Returns the cost of whole chains that turn onto the end's axis, (slabs, n, k, labels) by their last edge, a slab
    being layer * stages + stage, and for every label where it came from: node, slot * LABELS + label, slab.
    """
    n, k = edges[2].shape
    stages = vias.shape[0] + 1
    passes = _passes(points, edges[2], vias)
    shape = (layers * stages, n, k, LABELS)
    labels = np.full(shape, 1e18), np.zeros(shape), np.full((*shape, 3), -1, dtype=np.int64)
    whole = np.full(shape, 1e18)
    _begin(points, ends[0], start, f0, clear[0], edges, radius, limits, labels, passes, vias)
    left = np.empty(n)  # a bend costs more than it cuts off its corner, so no chain is shorter than the straight line
    for v in range(n):
        left[v] = math.sqrt(((end - points[v]) ** 2).sum())
    least = 1e17
    for slab in range(layers * stages):
        for u in range(n):
            for q in range(k):
                if edges[2][u, q] >= 0 and labels[0][slab, u, q, 0] < 1e17:
                    _arrive(points, ends, u, q, slab, end, f1, clear[1], edges, radius, limits, labels, whole, vias)
                    least = min(least, whole[slab, u, q, 0], whole[slab, u, q, 1])
        if slab + stages < layers * stages:
            for u in range(n):
                for q in range(k):
                    v = edges[2][u, q]
                    if v >= 0 and labels[0][slab, u, q, 0] + left[v] < min(least + dearer, 1e17):
                        _go_on(points, u, q, slab, edges, radius, limits, labels, passes)
    return whole, labels[2]


@leaf()
def _after(a, b, vias, stage):
    """The stage after going from a to b: what is come through in order, a little off it too: polishing mends that."""
    along = 0.0
    while stage < vias.shape[0]:
        off, along = to_segment(a, b, vias[stage], along)
        if off > vias[stage, 6] + SOFT_MM:
            return stage
        stage += 1
    return stage


@njit(cache=True, nogil=True, error_model="numpy")
def _passes(points, near, vias):
    """The stage after each edge, from each stage: (stages, n, k)."""
    n, k = near.shape
    out = np.zeros((vias.shape[0] + 1, n, k), dtype=np.int64)
    for stage in range(vias.shape[0] + 1):
        for u in range(n):
            for q in range(k):
                if near[u, q] >= 0:
                    out[stage, u, q] = _after(points[u], points[near[u, q]], vias, stage)
    return out


@leaf()
def _way(a, b, way):
    """The way from a to b (3,) into `way`, and its length."""
    length = 0.0
    for c in range(3):
        way[c] = b[c] - a[c]
        length += way[c] ** 2
    return math.sqrt(length)


@njit(cache=True, nogil=True, error_model="numpy")
def _begin(points, ahead, start, f0, clear, edges, radius, limits, labels, passes, vias):
    """First bends: from the start's axis onto every edge that leaves it."""
    blocked, extra, near = edges
    cost, tangent, _ = labels
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
            if (
                limits[2] <= turn <= limits[1]
                and lead - clear <= t <= min(lead, length) + SLACK_MM
                and blocked[u, v] <= t + 1.0
            ):
                slab = passes[_after(start, points[u], vias, 0), u, q]
                cost[slab, u, q, 0] = lead + corner_cost(turn, radius) + length + extra[u, v]
                tangent[slab, u, q, 0] = t


@njit(cache=True, nogil=True, error_model="numpy")
def _go_on(points, u, q, slab, edges, radius, limits, labels, passes):
    """From one edge onto all that follow it."""
    blocked, extra, near = edges
    cost, tangent, _ = labels
    stages = passes.shape[0]
    layer, stage = slab // stages, slab % stages
    v = near[u, q]
    way, other = np.empty(3), np.empty(3)
    length = _way(points[u], points[v], way)
    least = tangent[slab, u, q, 0]  # the second label's is shorter, where there is one
    if cost[slab, u, q, 1] < 1e17:
        least = min(least, tangent[slab, u, q, 1])
    for p in range(near.shape[1]):
        w = near[v, p]
        if w < 0 or w == u:
            continue
        onward = _way(points[v], points[w], other)
        t = radius * half_tan(way, other, length * onward)
        if t > onward or t + least > length + SLACK_MM or blocked[v, u] > t + 1.0 or blocked[v, w] > t + 1.0:
            continue
        turn = 2.0 * math.atan(t / radius)
        if turn > limits[1] or turn < limits[2]:
            continue
        more = corner_cost(turn, radius) + onward + extra[v, w]
        onto = (layer + 1) * stages + passes[stage, v, p]
        for label in range(LABELS):
            total = cost[slab, u, q, label] + more
            if total < 1e17 and length - tangent[slab, u, q, label] - t >= limits[0] - SLACK_MM:
                _keep(labels, onto, v, p, total, t, u, q * LABELS + label, slab)


@njit(cache=True, nogil=True, error_model="numpy")
def _arrive(points, ends, u, q, slab, end, f1, clear, edges, radius, limits, labels, whole, vias):
    """From an edge that ends on the end's axis, the last bend onto it."""
    blocked, _, near = edges
    cost, tangent, _ = labels
    v = near[u, q]
    if v < ends[0] or v >= ends[0] + ends[1]:
        return
    if _after(points[v], end, vias, slab % (vias.shape[0] + 1)) < vias.shape[0]:
        return
    way = np.empty(3)
    length, tail = _way(points[u], points[v], way), 0.0
    for c in range(3):
        tail += (end[c] - points[v, c]) * f1[c]
    turn = turn_between(way, f1)
    t = radius * math.tan(min(turn, 3.0) / 2)
    if turn > limits[1] or turn < limits[2] or t > tail + SLACK_MM or t < tail - clear or blocked[v, u] > t + 1.0:
        return
    for label in range(LABELS):
        total = cost[slab, u, q, label]
        if total < 1e17 and length - tangent[slab, u, q, label] - t >= limits[0] - SLACK_MM:
            whole[slab, u, q, label] = total + corner_cost(turn, radius) + tail


@leaf()
def _keep(labels, slab, v, p, total, t, u, slot, before):
    """A label kept when it is cheaper, or has a shorter tangent than the cheaper one."""
    cost, tangent, back = labels
    which = 1
    if total < cost[slab, v, p, 0]:
        if t > tangent[slab, v, p, 0] and cost[slab, v, p, 0] < 1e17:
            cost[slab, v, p, 1], tangent[slab, v, p, 1] = cost[slab, v, p, 0], tangent[slab, v, p, 0]
            for c in range(3):
                back[slab, v, p, 1, c] = back[slab, v, p, 0, c]
        which = 0
    elif t >= tangent[slab, v, p, 0] - 1.0 or total >= cost[slab, v, p, 1]:
        return
    cost[slab, v, p, which], tangent[slab, v, p, which] = total, t
    back[slab, v, p, which, 0], back[slab, v, p, which, 1], back[slab, v, p, which, 2] = u, slot, before


def chain_of(near: Vector, back: Vector, slab: int, u: int, q: int, label: int) -> list[int]:
    """The nodes of a chain from its last edge, first to last."""
    out = [int(near[u, q]), u]
    while back[slab, u, q, label, 0] >= 0:
        u, slot, slab = (int(v) for v in back[slab, u, q, label])
        q, label = slot // LABELS, slot % LABELS
        out.append(u)
    return out[::-1]
