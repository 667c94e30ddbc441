"""Distances from a tube, a body and points to a triangle mesh, compiled: exact, through its tree of boxes.

A segment and a box of the tree are searched together: the halves of the segment against the children of the box, a
pair being dropped when its lower bound (the middle's distance to the box less half the length: distances are
1-Lipschitz) is no better than the best so far. A triangle is convex, so on it the segment search of `clearance` holds.

Inside a closed mesh the tube's gap is minus the depth of its centre line plus its radius, as for every other solid.
A mesh that is not closed has no inside: only its skin counts.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .clearance import ARC, HEEL, centre, least_on, reach_of, segment_gap, swept_gap, trimmed
from .mesh import LEAF
from .plates import FAR, TOLERANCE_MM, cross, square_to
from .solids import signed_distance

STATIONS, ROUND = 64, 48  # where a clashing skin is looked at first
DEPTH_MM = 0.02  # how exactly a depth inside a mesh is searched: a clash is no better known by any scan
# three odd directions for asking inside or outside: a ray along a mesh's own edges would count them twice
RAYS = np.array([[0.3713907, 0.5570861, 0.7427814], [-0.6401844, 0.7682213, 0.0], [0.1690309, -0.5070926, 0.8451543]])


@njit(cache=True, nogil=True)
def _box_distance(low, high, x, y, z):
    dx = max(low[0] - x, 0.0, x - high[0])
    dy = max(low[1] - y, 0.0, y - high[1])
    dz = max(low[2] - z, 0.0, z - high[2])
    return math.sqrt(dx * dx + dy * dy + dz * dz)


@njit(cache=True, nogil=True)
def nearest(rows, low, high, x, y, z):
    """Distance [mm] of a point to the mesh, and the index of the nearest triangle."""
    return nearest_within(rows, low, high, x, y, z, FAR)


@njit(cache=True, nogil=True)
def nearest_within(rows, low, high, x, y, z, best):
    """`nearest` where it is known to be nearer than `best`; that and -1 where it is not."""
    leaves = (low.shape[0] + 1) // 2
    grad = np.empty(3)
    stack, bounds = np.empty(64, dtype=np.int64), np.empty(64)
    stack[0], bounds[0], top = 0, 0.0, 1
    which = -1
    while top > 0:
        top -= 1
        if bounds[top] >= best:
            continue
        node = stack[top]
        if node >= leaves - 1:
            first = (node - leaves + 1) * LEAF
            for k in range(first, min(first + LEAF, rows.shape[0])):
                value = signed_distance(rows[k], x, y, z, grad)
                if value < best:
                    best, which = value, k
            continue
        left, right = 2 * node + 1, 2 * node + 2
        dl = _box_distance(low[left], high[left], x, y, z)
        dr = _box_distance(low[right], high[right], x, y, z)
        if dl < dr:  # the nearer is looked at first
            stack[top], bounds[top], stack[top + 1], bounds[top + 1] = right, dr, left, dl
        else:
            stack[top], bounds[top], stack[top + 1], bounds[top + 1] = left, dl, right, dr
        top += 2
    return best, which


@njit(cache=True, nogil=True)
def _ray_meets_box(low, high, p, d):
    near, far = 0.0, FAR
    for i in range(3):
        if abs(d[i]) < 1e-12:
            if p[i] < low[i] or p[i] > high[i]:
                return False
            continue
        a, b = (low[i] - p[i]) / d[i], (high[i] - p[i]) / d[i]
        near, far = max(near, min(a, b)), min(far, max(a, b))
    return near <= far


@njit(cache=True, nogil=True)
def _ray_meets_triangle(row, p, d):
    """Whether a ray from p along d passes a triangle (Moeller and Trumbore 1997, from memory)."""
    e1, e2 = row[4:7] - row[1:4], row[7:10] - row[1:4]
    h0, h1, h2 = d[1] * e2[2] - d[2] * e2[1], d[2] * e2[0] - d[0] * e2[2], d[0] * e2[1] - d[1] * e2[0]
    det = e1[0] * h0 + e1[1] * h1 + e1[2] * h2
    if abs(det) < 1e-14:
        return False
    s0, s1, s2 = p[0] - row[1], p[1] - row[2], p[2] - row[3]
    u = (s0 * h0 + s1 * h1 + s2 * h2) / det
    if u < 0.0 or u > 1.0:
        return False
    q0, q1, q2 = s1 * e1[2] - s2 * e1[1], s2 * e1[0] - s0 * e1[2], s0 * e1[1] - s1 * e1[0]
    v = (d[0] * q0 + d[1] * q1 + d[2] * q2) / det
    return v >= 0.0 and u + v <= 1.0 and (e2[0] * q0 + e2[1] * q1 + e2[2] * q2) / det > 0.0


@njit(cache=True, nogil=True)
def is_inside(rows, low, high, p):
    """Whether a point (3,) is inside a closed mesh: by two of three rays' crossings."""
    for i in range(3):
        if p[i] < low[0, i] or p[i] > high[0, i]:
            return False
    leaves = (low.shape[0] + 1) // 2
    stack = np.empty(128, dtype=np.int64)
    votes = 0
    for r in range(3):
        if r == 2 and votes != 1:
            break
        crossings, top = 0, 1
        stack[0] = 0
        while top > 0:
            top -= 1
            node = stack[top]
            if not _ray_meets_box(low[node], high[node], p, RAYS[r]):
                continue
            if node >= leaves - 1:
                first = (node - leaves + 1) * LEAF
                for k in range(first, min(first + LEAF, rows.shape[0])):
                    crossings += int(_ray_meets_triangle(rows[k], p, RAYS[r]))
            else:
                stack[top], stack[top + 1] = 2 * node + 1, 2 * node + 2
                top += 2
        votes += crossings % 2
    return votes >= 2


@njit(cache=True, nogil=True)
def point_depths(points, rows, low, high, closed):
    """Signed distance [mm] of points (n, 3), minus inside a closed mesh: (n,)."""
    out = np.empty(points.shape[0])
    for i in range(points.shape[0]):
        out[i], _ = nearest(rows, low, high, points[i, 0], points[i, 1], points[i, 2])
        if closed and is_inside(rows, low, high, points[i]):
            out[i] = -out[i]
    return out


@njit(cache=True, nogil=True)
def _skin_gap(segs, k, rows, low, high, best):
    """Least gap of segment k of a chain to the mesh's triangles: (gap, along), or (best, -1)."""
    seg = segs[k]
    leaves = (low.shape[0] + 1) // 2
    nodes = np.empty(512, dtype=np.int64)
    spans = np.empty((512, 2))
    nodes[0], spans[0, 0], spans[0, 1], top = 0, 0.0, seg[1], 1
    trim_low, trim_high = np.empty(segs.shape[0]), np.empty(segs.shape[0])
    here, reach = np.empty(6), reach_of(seg)
    at = -1.0
    while top > 0:
        top -= 1
        node, a, b = nodes[top], spans[top, 0], spans[top, 1]
        half = 0.5 * (b - a)
        centre(seg, a + half, here)
        if _box_distance(low[node], high[node], here[0], here[1], here[2]) - half - reach >= best:
            continue
        size = max(high[node, 0] - low[node, 0], high[node, 1] - low[node, 1], high[node, 2] - low[node, 2])
        if top < 500 and b - a > size and b - a > 1.0:
            centre(seg, a + 0.5 * half, here)
            front = _box_distance(low[node], high[node], here[0], here[1], here[2])
            centre(seg, a + 1.5 * half, here)
            back = _box_distance(low[node], high[node], here[0], here[1], here[2])
            nodes[top : top + 2] = node
            later = a if front > back else a + half  # the nearer half is looked at first
            spans[top, 0], spans[top, 1] = later, later + half
            spans[top + 1, 0], spans[top + 1, 1] = 2 * a + half - later, 2 * a + 2 * half - later
            top += 2
        elif node < leaves - 1:
            left, right = 2 * node + 1, 2 * node + 2
            dl = _box_distance(low[left], high[left], here[0], here[1], here[2])
            dr = _box_distance(low[right], high[right], here[0], here[1], here[2])
            nodes[top], nodes[top + 1] = (right, left) if dl < dr else (left, right)
            spans[top : top + 2, 0], spans[top : top + 2, 1] = a, b
            top += 2
        else:
            first = (node - leaves + 1) * LEAF
            for j in range(first, min(first + LEAF, rows.shape[0])):
                # as if the ends were round: never more than the gap of the flat end
                value, where = least_on(seg, rows[j], a, b, best + reach)
                if where >= 0.0 and value - reach < best - 1e-9:
                    trimmed(segs, rows[j], trim_low, trim_high)
                    gap, place = segment_gap(seg, rows[j], trim_low[k], trim_high[k], best)
                    if place >= 0.0:
                        best, at = gap, place
    return best, at


@njit(cache=True, nogil=True)
def _deepest(seg, rows, low, high, all_inside):
    """Greatest depth of a segment's centre line inside a closed mesh: (depth, along), (0, -1) when it stays outside.

    On a stretch no place is deeper than the farther end's distance to the triangle nearest to its middle (distance to
    a triangle is convex along a straight), plus how far an arc bulges from its chord.
    """
    spans = np.empty((128, 2))
    spans[0, 0], spans[0, 1], top = 0.0, seg[1], 1
    here, grad = np.empty(6), np.empty(3)
    best, at = 0.0, -1.0
    while top > 0:
        top -= 1
        a, b = spans[top, 0], spans[top, 1]
        half = 0.5 * (b - a)
        centre(seg, a + half, here)
        depth, which = nearest(rows, low, high, here[0], here[1], here[2])
        if depth >= half and not all_inside and not is_inside(rows, low, high, here[:3]):
            continue  # all of the stretch is outside
        if depth > best and (all_inside or depth >= half or is_inside(rows, low, high, here[:3])):
            best, at = depth, a + half
        bound = seg[12] * (1.0 - math.cos(half / seg[12])) if seg[0] == ARC else 0.0
        farther = 0.0
        for s in (a, b):
            centre(seg, s, here)
            farther = max(farther, signed_distance(rows[which], here[0], here[1], here[2], grad))
        if min(farther + bound, depth + half) > best + DEPTH_MM and half > DEPTH_MM and top < 126:
            spans[top, 0], spans[top, 1] = a, a + half
            spans[top + 1, 0], spans[top + 1, 1] = a + half, b
            top += 2
    return best, at


@njit(cache=True, nogil=True)
def _deepest_skin(seg, rows, low, high, best, at):
    """Deepest place of a clashing segment's skin in a closed mesh, where it is deeper than known: (minus it, along).

    Only what lies behind a flat end or on a heel is: elsewhere no skin is deeper than the radius less the centre
    line's distance. The best of evenly spread places is followed to all sides with smaller and smaller steps.
    """
    here = np.empty(6)
    long = seg[2] if seg[0] == HEEL else seg[1]
    stations = min(STATIONS, max(4, math.ceil(4.0 * long / seg[2])))
    found, s, turn = min(best, 0.0), -1.0, 0.0
    for i in range(stations + 1):
        along = long * i / stations
        if seg[0] != HEEL:
            centre(seg, along, here)
            beside, _ = nearest_within(rows, low, high, here[0], here[1], here[2], seg[2] + found)
            if beside >= seg[2] + found and not is_inside(rows, low, high, here[:3]):
                continue
        for j in range(ROUND):
            t = 2.0 * math.pi * j / ROUND
            depth = _skin_depth(seg, along, t, rows, low, high)
            if -depth < found:
                found, s, turn = -depth, along, t
    if s < 0.0:
        return best, at
    by, by_turn = long / stations, 2.0 * math.pi / ROUND
    while max(by, by_turn * seg[2]) > DEPTH_MM:
        better = False
        for k in range(8):
            along = min(max(s + by * math.cos(k * math.pi / 4), 0.0), long)
            t = turn + by_turn * math.sin(k * math.pi / 4)
            depth = _skin_depth(seg, along, t, rows, low, high)
            if -depth < found - 1e-6:
                found, s, turn, better = -depth, along, t, True
        if not better:
            by, by_turn = 0.5 * by, 0.5 * by_turn
    return found, 0.0 if seg[0] == HEEL else s


@njit(cache=True, nogil=True)
def _skin_depth(seg, s, turn, rows, low, high):
    """How deep [mm] a place of a segment's skin is inside a closed mesh; minus its distance when it is outside.
    Of a heel it is a place on its slanted face, `s` from its middle.
    """
    here, u, v = np.empty(6), np.empty(3), np.empty(3)
    if seg[0] == HEEL:
        here[:3] = seg[3:6]
        u[:] = seg[9:12] + seg[12] / seg[2] * seg[6:9]
        cross(seg[6:9], seg[9:12], v)
        off = s
    else:
        centre(seg, s, here)
        square_to(here[3:], u)
        cross(here[3:], u, v)
        off = seg[2]
    for i in range(3):
        here[i] += off * (math.cos(turn) * u[i] + math.sin(turn) * v[i])
    depth, _ = nearest(rows, low, high, here[0], here[1], here[2])
    return depth if is_inside(rows, low, high, here[:3]) else -depth


@njit(cache=True, nogil=True)
def mesh_gaps(segs, rows, low, high, closed, cull):
    """Gaps of a chain's segments (n, 14), in the mesh's frame, to the mesh: (gaps (n,), along (n,)); none: cull, -1."""
    n = segs.shape[0]
    gaps, along = np.full(n, cull), np.full(n, -1.0)
    here = np.empty(6)
    centre(segs[0], 0.0, here)
    inside = closed and is_inside(rows, low, high, here[:3])
    for k in range(n):
        gaps[k], along[k] = _skin_gap(segs, k, rows, low, high, cull)
        # a centre line goes in or out only where it meets the skin
        meets = closed and gaps[k] <= TOLERANCE_MM - segs[k, 2]
        if inside or meets:
            depth, at = _deepest(segs[k], rows, low, high, inside and not meets)
            if at >= 0.0 and -depth - segs[k, 2] < gaps[k]:
                gaps[k], along[k] = -depth - segs[k, 2], at
        if closed and gaps[k] < TOLERANCE_MM:
            gaps[k], along[k] = _deepest_skin(segs[k], rows, low, high, gaps[k], along[k])
        if meets:
            centre(segs[k], segs[k, 1], here)
            inside = is_inside(rows, low, high, here[:3])
    return gaps, along


@njit(cache=True, nogil=True)
def body_gap(seg, half_u, half_v, u, v, rows, low, high, cull):
    """Gap of a wide body (see `clearance.swept_gap`) to the mesh's skin, or `cull`; one that touches is not measured
    further."""
    leaves = (low.shape[0] + 1) // 2
    here = np.empty(6)
    centre(seg, 0.5 * seg[1], here)
    reach = math.sqrt(0.25 * seg[1] ** 2 + half_u**2 + half_v**2) + seg[2]
    box = np.zeros(16)  # the body's own corners-and-all box: no nearer to anything than the body is by its rounding
    box[1:4], box[4], box[5], box[6] = here[:3], 0.5 * seg[1], half_u + seg[2], half_v + seg[2]
    box[7:10], box[10:13], box[13:16] = seg[6:9], u, v
    grad = np.empty(3)
    stack = np.empty(128, dtype=np.int64)
    stack[0], top, best = 0, 1, cull
    while top > 0 and best > 0.0:
        top -= 1
        node = stack[top]
        if _box_distance(low[node], high[node], here[0], here[1], here[2]) - reach >= best:
            continue
        if node < leaves - 1:
            stack[top], stack[top + 1] = 2 * node + 1, 2 * node + 2
            top += 2
            continue
        first = (node - leaves + 1) * LEAF
        for k in range(first, min(first + LEAF, rows.shape[0])):
            row = rows[k]
            x, y, z = (row[1] + row[4] + row[7]) / 3, (row[2] + row[5] + row[8]) / 3, (row[3] + row[6] + row[9]) / 3
            size = 0.0
            for c in range(3):
                dx, dy, dz = row[1 + 3 * c] - x, row[2 + 3 * c] - y, row[3 + 3 * c] - z
                size = max(size, math.sqrt(dx * dx + dy * dy + dz * dz))
            if signed_distance(box, x, y, z, grad) - size < best:
                best = min(best, swept_gap(seg, half_u, half_v, u, v, row, best))
    return best
