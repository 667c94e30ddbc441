"""The cost of a way through corner points, compiled: its length and bends, and by how much it comes too near.

A way from p0 (flow f0) to p1 (flow f1) is a line through n corners: the first on the start's axis, the last on the
end's, so that both ends are exact whatever the corners are. Corner i becomes an arc of radius R with the tangent
R tan(angle/2).

The cost is the one of `closing` [mm]. Nearness is found by walking the true centre line: a distance field of solids is
1-Lipschitz, so from a place with d to spare the next step may be as long as d. What is found so is checked again with
`clearance` before it is shown.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from ..closing import bend_cost
from ..geometry import leaf
from .field import spare_at

DEEP_STEP = 0.5  # deep in something the walk takes steps of this share of the depth: it is no way anyhow
MISFIT = 20.0  # what a millimetre of missing straight counts for
TOO_NEAR_AT_ALL = 300.0  # a way that is too near somewhere is worse than one with two bends more that is not
TOO_NEAR = 50.0  # and what a millimetre counts for, once for the worst place
TOO_NEAR_ALONG = 0.05  # and for each millimetre along, so that less of it is better


@leaf()
def corner_turn(a, b, c):
    """The turn [rad] of the line a, b, c at b; 0 where two of them coincide."""
    ux, uy, uz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    vx, vy, vz = c[0] - b[0], c[1] - b[1], c[2] - b[2]
    lu, lv = math.sqrt(ux * ux + uy * uy + uz * uz), math.sqrt(vx * vx + vy * vy + vz * vz)
    if lu < 1e-9 or lv < 1e-9:
        return 0.0
    cx, cy, cz = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    return math.atan2(math.sqrt(cx * cx + cy * cy + cz * cz), ux * vx + uy * vy + uz * vz)


@njit(cache=True, nogil=True, error_model="numpy")
def way_cost(points, radii, asked, patience):
    """Cost [mm] of a line (n + 2, 3) from the start to the end with its corners rounded, and its worst spare [mm].

    radii (n,) are the corners' bend radii. asked: (limits, field, vias, walk, ease): limits are the shortest straight
    at an end and between bends [mm], the largest and least turn [deg], and how much of the first and of the last
    straight is not walked [mm]; vias (m, 7) what it must come through in this order: middle, axis, within how
    much [mm]; walk the least step [mm], passing an edge at 40 mm a step of s misses s^2 / 320 mm of nearness; ease what
    it may be too near [mm]. Misfits (a straight too short, a turn too sharp or too
    slight, a via missed, a place too near) add to the cost; the walk stops when the cost is past `patience`: then it is
    only known to be more.
    Returns (cost, worst spare, misfit mm).
    """
    limits, field, vias, walk, ease = asked
    shortest_end, shortest, most_deg, least_deg, flat_start, flat_end = limits
    n = points.shape[0] - 2
    turns, tangents = np.zeros(n + 2), np.zeros(n + 2)
    cost, misfit = 0.0, 0.0
    for i in range(1, n + 1):
        turns[i] = corner_turn(points[i - 1], points[i], points[i + 1])
        deg = math.degrees(turns[i])
        if deg > most_deg:
            misfit += (deg - most_deg) * 4.0
        if deg < least_deg:
            misfit += (least_deg - deg) * 4.0
        tangents[i] = radii[i - 1] * math.tan(min(turns[i], 2.9) / 2)
        cost += bend_cost(deg) + radii[i - 1] * turns[i]
    for i in range(n + 1):
        dx, dy, dz = points[i + 1, 0] - points[i, 0], points[i + 1, 1] - points[i, 1], points[i + 1, 2] - points[i, 2]
        leg = math.sqrt(dx * dx + dy * dy + dz * dz) - tangents[i] - tangents[i + 1]
        need = shortest if 0 < i < n else shortest_end
        if leg < need:
            misfit += need - leg
        cost += max(leg, 0.0)
    if vias.shape[0]:
        misfit += missed_vias(points, tangents, vias)
    cost += MISFIT * misfit
    worst = 1e9
    if cost > patience:
        return cost, worst, misfit
    near, scratch = 0.0, np.empty((4, 3))
    tangents[0], tangents[n + 1] = flat_start, flat_end
    for i in range(n + 1):
        leg = _at_leg(points[i], points[i + 1], tangents[i], tangents[i + 1], scratch)
        deepest, sum_near = _walk(scratch, 0.0, leg, field, walk)
        worst, near = min(worst, deepest), near + sum_near
        if i < n and turns[i + 1] > 1e-6 and math.sin(turns[i + 1]) > 1e-9:
            _at_arc(points[i], points[i + 1], points[i + 2], tangents[i + 1], turns[i + 1], scratch)
            deepest, sum_near = _walk(scratch, radii[i], radii[i] * turns[i + 1], field, walk)
            worst, near = min(worst, deepest), near + sum_near
        if worst + ease < 0.0 and cost + TOO_NEAR_AT_ALL - TOO_NEAR * (worst + ease) + near > patience:
            break
    worst += ease
    if worst < 0.0:
        cost += TOO_NEAR_AT_ALL - TOO_NEAR * worst + near
    return cost, worst, misfit


@leaf()
def _at_leg(a, b, low, high, at):
    """Where the straight between two corners begins and the way it goes, into at (4, 3); how long it is [mm].

    One that is shorter than its tangents is walked from the one to the other all the same.
    """
    length = math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2 + (b[2] - a[2]) ** 2)
    begins = min(low, length)
    for k in range(3):
        at[1, k], at[2, k] = (b[k] - a[k]) / max(length, 1e-9), 0.0
        at[0, k] = a[k] + begins * at[1, k]
    return max(length - high - begins, 0.0)


@leaf()
def _at_arc(a, b, c, tangent, turn, at):
    """Where the arc round the corner b begins, the way it goes there and the way to its middle, into at (4, 3)."""
    la = math.sqrt((b[0] - a[0]) ** 2 + (b[1] - a[1]) ** 2 + (b[2] - a[2]) ** 2)
    lc = math.sqrt((c[0] - b[0]) ** 2 + (c[1] - b[1]) ** 2 + (c[2] - b[2]) ** 2)
    for k in range(3):
        at[1, k] = (b[k] - a[k]) / la
        at[0, k] = b[k] - tangent * at[1, k]
        at[2, k] = ((c[k] - b[k]) / lc - math.cos(turn) * at[1, k]) / math.sin(turn)


@leaf()
def _walk(at, radius, length, field, walk):
    """Along a straight (radius 0) or an arc from where `at` (4, 3; the last row is scratch) says: the least that is to
    spare, and what being too near on the way counts for [mm].
    """
    worst, near, s = 1e9, 0.0, 0.0
    while True:
        x, y = s, 0.0
        if radius > 0.0:
            x, y = radius * math.sin(s / radius), radius * (1.0 - math.cos(s / radius))
        d = spare_at(
            at[0, 0] + x * at[1, 0] + y * at[2, 0],
            at[0, 1] + x * at[1, 1] + y * at[2, 1],
            at[0, 2] + x * at[1, 2] + y * at[2, 2],
            field,
            at[3],
        )
        worst = min(worst, d)
        step = max(walk, d, DEEP_STEP * -d)
        if d < 0:
            near += TOO_NEAR_ALONG * -d * step
        if s >= length:
            return worst, near
        s = min(s + step, length)


@njit(cache=True, nogil=True, error_model="numpy")
def missed_vias(points, tangents, vias):
    """By how much a line misses what it must come through, in order [mm]; its bends are taken as three chords each."""
    n = points.shape[0]
    line = np.empty((1 + 3 * (n - 2) + 1, 3))
    line[0], line[line.shape[0] - 1] = points[0], points[n - 1]
    for i in range(1, n - 1):
        here = line[3 * i - 2 : 3 * i + 1]
        for end in range(2):
            other = points[i - 1] if end == 0 else points[i + 1]
            length = math.sqrt(((other - points[i]) ** 2).sum())
            share = tangents[i] / length if length > 1e-9 else 0.0
            here[2 * end] = points[i] + share * (other - points[i])
        here[1] = 0.25 * here[0] + 0.25 * here[2] + 0.5 * points[i]  # the middle of a parabola: near enough to an arc's
    missed, first, along = 0.0, 0, 0.0
    for k in range(vias.shape[0]):
        best, best_first, best_along = 1e9, first, along
        for i in range(first, line.shape[0] - 1):
            off, t = to_segment(line[i], line[i + 1], vias[k], along if i == first else 0.0)
            if off < best:
                best, best_first, best_along = off, i, t
            if best <= vias[k, 6]:
                break
        first, along = best_first, best_along
        missed += max(0.0, best - vias[k, 6])
    return missed


@leaf()
def to_segment(a, b, p, least):
    """Distance from a point to a segment not before the share `least` of it, and the nearest place's share."""
    wx, wy, wz = b[0] - a[0], b[1] - a[1], b[2] - a[2]
    square = wx * wx + wy * wy + wz * wz
    t = least
    if square > 1e-12:
        t = min(max(((p[0] - a[0]) * wx + (p[1] - a[1]) * wy + (p[2] - a[2]) * wz) / square, least), 1.0)
    dx, dy, dz = a[0] + t * wx - p[0], a[1] + t * wy - p[1], a[2] + t * wz - p[2]
    return math.sqrt(dx * dx + dy * dy + dz * dz), t
