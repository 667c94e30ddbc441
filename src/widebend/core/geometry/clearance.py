"""Gap between a tube and a solid: exact for straights and arcs, with depth when inside.

Definition. The tube is the sweep of its flat round section along the centre line, flat at open ends; where straights
meet at an angle each is cut on the plane of the joint, so that the outside of the corner stands out: the heel.
    apart       the gap is the distance between the two bodies
    clashing    minus the distance the centre line must still go to leave the solid, plus the radius: for each place
                of the centre line where the solid is nearest, its signed distance less the radius. A flat end or a
                heel in a solid: minus how far it must be moved to be out, by the best supporting plane found, and
                never less than its deepest place is deep
An open end counts as its flat disc, not as a ball. A centre line that only comes nearer toward an open end is judged
by that disc.

Method. Along a straight or an arc the signed distance f of the centre line to a convex solid is searched by splitting
the interval; each half is dropped when its lower bound (the solid's supporting plane at the middle: convexity) is
above the best value so far. Result within TOLERANCE_MM of the true least value.

A segment is a row of 14 numbers: [kind, length mm, radius mm, point 3, flow 3, side 3, clr mm, chain end flags];
flags: 1 = the inlet is an open end, 2 = the outlet is; 4 and 8 the same where the end is not square: there a heel is
the face. kind 0 = straight, 1 = arc (turns from flow toward side),
2 = heel: what a straight cut off square at `point` has beyond its square end there. Its flow looks out of that end, its
side toward the longest line, and in the place of clr stands how far that line stands out: radius tan(cut). Together
with the straights themselves, round at the corner point, heels make the mitred body exactly: the rest of each cut end
lies inside the neighbour.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .plates import FAR, GOLDEN, TOLERANCE_MM, cross, deepest_on, disc_gap, plate_gap, square_to
from .solids import TRIANGLE, signed_distance

STRAIGHT, ARC, HEEL = 0, 1, 2
SEGMENT_WIDTH = 14
TURNS_MM = 1e-4  # how well it is known where a centre line begins to come nearer: f hardly changes there
SWEEP_MM = 0.01  # how finely the offset of a wide body is searched: f is 1-Lipschitz, so its error is no more
Array = NDArray[np.float64]


@njit(cache=True, nogil=True)
def centre(seg, s, out):
    """Point (out 0:3) and flow (out 3:6) at length `s` [mm] along a segment."""
    if seg[0] != ARC:
        for i in range(3):
            out[i] = seg[3 + i] + s * seg[6 + i]
            out[3 + i] = seg[6 + i]
        return
    clr = seg[12]
    c, w = math.cos(s / clr), math.sin(s / clr)
    for i in range(3):
        out[i] = seg[3 + i] + clr * (w * seg[6 + i] + (1.0 - c) * seg[9 + i])
        out[3 + i] = c * seg[6 + i] + w * seg[9 + i]


@njit(cache=True, nogil=True)
def _lower_bound(seg, half, value, slope, sideways):
    """Least possible f within `half` mm of a point with this value, slope along and slope sideways (convexity)."""
    if seg[0] != ARC:
        return value - half * abs(slope)
    clr = seg[12]
    t = half / clr
    if t > 1.5:
        return value - half
    # c(s) - c(0) = clr (sin t flow + (1 - cos t) side): take the worse sign of each part
    return max(value - half, value - clr * (math.sin(t) * abs(slope) + (1.0 - math.cos(t)) * max(0.0, -sideways)))


@njit(cache=True, nogil=True)
def least_on(seg, row, low, high, best):
    """Least signed distance of the centre line on [low, high] mm: (value, at mm).

    Anything not below `best` is not looked for: then (best, -1) comes back.
    """
    stack = np.empty((128, 2))
    stack[0, 0], stack[0, 1] = low, high
    top = 1
    at = -1.0
    here = np.empty(6)
    grad = np.empty(3)
    normal = np.empty(3)
    while top > 0:
        top -= 1
        a, b = stack[top, 0], stack[top, 1]
        m, half = 0.5 * (a + b), 0.5 * (b - a)
        centre(seg, m, here)
        value = signed_distance(row, here[0], here[1], here[2], grad)
        if value != value:
            return -FAR, m  # no number at all: never to be taken for clear
        if value < best:
            best, at = value, m
        if seg[0] == ARC:
            t = m / seg[12]
            for i in range(3):  # toward the bend's centre at this place
                normal[i] = math.cos(t) * seg[9 + i] - math.sin(t) * seg[6 + i]
        slope = grad[0] * here[3] + grad[1] * here[4] + grad[2] * here[5]
        sideways = grad[0] * normal[0] + grad[1] * normal[1] + grad[2] * normal[2] if seg[0] == ARC else 0.0
        if _lower_bound(seg, half, value, slope, sideways) > best - TOLERANCE_MM or half < 1e-7 or top > 120:
            continue
        # look first where f falls
        if slope > 0:
            stack[top, 0], stack[top, 1], stack[top + 1, 0], stack[top + 1, 1] = m, b, a, m
        else:
            stack[top, 0], stack[top, 1], stack[top + 1, 0], stack[top + 1, 1] = a, m, m, b
        top += 2
    return best, at


@njit(cache=True, nogil=True)
def _slope(seg, row, s):
    here = np.empty(6)
    grad = np.empty(3)
    centre(seg, s, here)
    signed_distance(row, here[0], here[1], here[2], grad)
    return grad[0] * here[3] + grad[1] * here[4] + grad[2] * here[5]


@njit(cache=True, nogil=True)
def falling_stretch(seg, row, from_outlet):
    """How far [mm] from an open end the centre line keeps going away from the solid; 0 when it does not.

    Along that stretch only the end's disc counts.
    """
    length = seg[1]
    n = 1 if seg[0] != ARC else max(8, math.ceil(length / seg[12] / 0.05))
    for k in range(n + 1):
        s = length * k / n
        slope = _slope(seg, row, length - s if from_outlet else s)
        away = -slope if from_outlet else slope
        if away <= 1e-9:
            if k == 0:
                return 0.0
            low, high = length * (k - 1) / n, s
            while high - low > TURNS_MM:
                mid = 0.5 * (low + high)
                slope = _slope(seg, row, length - mid if from_outlet else mid)
                if (-slope if from_outlet else slope) > 1e-9:
                    low = mid
                else:
                    high = mid
            return high
    return length


@njit(cache=True, nogil=True)
def falls_away(seg, row, from_outlet):
    """Whether all of a segment only goes away from the solid, seen from one end: most do not at their other end."""
    slope = _slope(seg, row, 0.0 if from_outlet else seg[1])
    if (-slope if from_outlet else slope) <= 1e-9:
        return False
    return falling_stretch(seg, row, from_outlet) >= seg[1] - 1e-9


@njit(cache=True, nogil=True)
def heel_gap(seg, row, cull):
    """Gap of a heel to a solid, or `cull`: of its slanted face, or of its round side where that is nearest.

    By convexity nothing else of it can be nearer: the least over the whole round bar lies on the heel, or the least
    over the heel lies on one of its flat faces, and the square one is inside the straight it belongs to.
    """
    here, face, width, grad = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    slope = seg[12] / seg[2]
    for i in range(3):
        here[i] = seg[3 + i]
        face[i] = seg[9 + i] + slope * seg[6 + i]
    cross(seg[6:9], seg[9:12], width)
    best = min(cull, plate_gap(here, face, width, seg[2], row, cull))
    if best < 0.0 and row[0] != TRIANGLE:
        return min(best, _deepest_between(here, seg[9:12], seg[6:9], slope, width, seg[2], row))
    value, s = least_on(seg, row, 0.0, seg[12], best + seg[2])
    if s <= 0.0 or s >= seg[12]:
        return best
    if value <= 0.0:  # clashing: the deepest place of the cuts between the square end and the slanted face
        return min(best, _deepest_between(here, seg[9:12], seg[6:9], slope, width, seg[2], row))
    signed_distance(row, here[0] + s * seg[6], here[1] + s * seg[7], here[2] + s * seg[8], grad)
    along = grad[0] * seg[6] + grad[1] * seg[7] + grad[2] * seg[8]
    toward = (grad[0] * seg[9] + grad[1] * seg[10] + grad[2] * seg[11]) / math.sqrt(max(1e-12, 1.0 - along * along))
    if -toward * seg[12] < s:
        return best  # that side of the bar is cut away
    for i in range(3):
        here[i] += s * seg[6 + i] - seg[2] * (grad[i] - along * seg[6 + i]) / math.sqrt(max(1e-12, 1.0 - along * along))
    return min(best, signed_distance(row, here[0], here[1], here[2], grad))


@njit(cache=True, nogil=True)
def _deepest_between(point, side, flow, slope, width, radius, row):
    """Least signed distance to a solid over the cuts of a heel through its hinge, from square to its slanted face."""
    best, cut = FAR, np.empty(3)
    low, high = 0.0, slope
    for _ in range(3):
        step = (high - low) / 8.0
        at = low
        for k in range(9):
            for i in range(3):
                cut[i] = side[i] + (low + k * step) * flow[i]
            value = deepest_on(point, cut, width, radius, row)
            if value < best:
                best, at = value, low + k * step
        low, high = max(0.0, at - step), min(slope, at + step)
    return best


@njit(cache=True, nogil=True)
def trimmed(segs, row, low, high):
    """Cut from each segment what only falls away from an open end: fills low and high (n,) [mm].

    A whole segment that falls away hands the question on to its neighbour.
    """
    n = segs.shape[0]
    falling = False
    low[:], high[:] = 0.0, 0.0
    for k in range(n):
        if segs[k, 0] == HEEL:  # a body of its own; what falls away before the corner may go on doing so behind it
            continue
        falling = falling or int(segs[k, 13]) & (1 + 4) > 0
        low[k] = falling_stretch(segs[k], row, False) if falling else 0.0
        falling = falling and low[k] >= segs[k, 1] - 1e-9
        if falling and segs[k, 1] == 0.0:
            low[k] = 1e-6  # past the end of nothing: it is not looked at
    falling = False
    for k in range(n - 1, -1, -1):
        if segs[k, 0] == HEEL:
            continue
        falling = falling or int(segs[k, 13]) & (2 + 8) > 0
        stretch = falling_stretch(segs[k], row, True) if falling else 0.0
        high[k] = segs[k, 1] - stretch
        falling = falling and stretch >= segs[k, 1] - 1e-9
        if falling and segs[k, 1] == 0.0:
            high[k] = -1e-6


@njit(cache=True, nogil=True)
def chain_gaps(segs, row, cull, gaps, along):
    """Gap of every segment of a chain of joined segments (n, 14) to one solid.

    Fills gaps (n,) [mm] and along (n,) [mm from the segment's inlet]; a segment not nearer than `cull` gets cull, -1.
    """
    n = segs.shape[0]
    near = False
    for k in range(n):
        gaps[k], along[k] = cull, -1.0
        near = near or _within_reach(segs[k], row, cull)
    if not near:
        return
    low, high = np.empty(n), np.empty(n)
    trimmed(segs, row, low, high)
    for k in range(n):
        if _within_reach(segs[k], row, cull):
            gaps[k], along[k] = segment_gap(segs[k], row, low[k], high[k], gaps[k])


@njit(cache=True, nogil=True)
def segment_gap(seg, row, low, high, best):
    """Gap of one segment, trimmed to [low, high] mm of its length, and of its open ends: (gap, along) or (best, -1)."""
    at = -1.0
    if seg[0] == HEEL:
        value = heel_gap(seg, row, best)
        return (value, 0.0) if value < best else (best, at)
    if high - low > 1e-9 or (low == 0.0 and high == seg[1]):
        value, where = least_on(seg, row, low, high, best + seg[2])
        if where >= 0.0:
            best, at = value - seg[2], where
    here = np.empty(6)
    for end in range(2):
        if int(seg[13]) & (1 + end):
            centre(seg, seg[1] * end, here)
            value = disc_gap(here[:3], here[3:], seg[2], row, best - TOLERANCE_MM)
            if value < best:
                best, at = value, seg[1] * end
            if value >= 0.0 and value < FAR:
                continue  # this end is clear, so what falls away behind it is clear too
        cut = (0.0, min(low, seg[1])) if end == 0 else (max(high, 0.0), seg[1])
        if cut[1] - cut[0] > 1e-9 and row[0] != TRIANGLE:  # a triangle has no depth: `mesh_gap` asks the whole mesh
            value, where = _deepest_in(seg, row, cut[0], cut[1], end, best)
            if value < best:
                best, at = value, where
    return best, at


@njit(cache=True, nogil=True)
def _deepest_in(seg, row, low, high, end, best):
    """Depth of the deepest place of the stretch [low, high] mm that falls away from one end: (minus it, along), or
    (best, -1). Its flat end may be out sooner than the skin behind it. Over flat cuts of a straight it is convex, so
    golden section; a bend's stretch is searched as if it were.
    """
    here, grad = np.empty(6), np.empty(3)
    centre(seg, high if end else low, here)
    if signed_distance(row, here[0], here[1], here[2], grad) - seg[2] >= min(best, 0.0):
        return best, -1.0
    s1, s2 = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    f1, f2 = _deepest_at(seg, row, s1), _deepest_at(seg, row, s2)
    while high - low > 0.1:
        if f1 < f2:
            high, s2, f2 = s2, s1, f1
            s1 = high - GOLDEN * (high - low)
            f1 = _deepest_at(seg, row, s1)
        else:
            low, s1, f1 = s1, s2, f2
            s2 = low + GOLDEN * (high - low)
            f2 = _deepest_at(seg, row, s2)
    value, where = (f1, s1) if f1 < f2 else (f2, s2)
    return (value, where) if value < min(best, 0.0) else (best, -1.0)


@njit(cache=True, nogil=True)
def _deepest_at(seg, row, s):
    """Least signed distance to a solid of the flat cut at `s` mm along a segment."""
    here, u, v = np.empty(6), np.empty(3), np.empty(3)
    centre(seg, s, here)
    square_to(here[3:], u)
    cross(here[3:], u, v)
    return deepest_on(here[:3], u, v, seg[2], row)


@njit(cache=True, nogil=True)
def all_gaps(segs, rows, culls):
    """Gaps of every segment (n, 14) of one chain to every solid (m, WIDTH): (gaps (m, n), along (m, n))."""
    gaps = np.empty((rows.shape[0], segs.shape[0]))
    along = np.empty((rows.shape[0], segs.shape[0]))
    for j in range(rows.shape[0]):
        chain_gaps(segs, rows[j], culls[j], gaps[j], along[j])
    return gaps, along


@njit(cache=True, nogil=True)
def least_gaps(segs, rows, owner, culls):
    """Gaps of every segment (n, 14) of one chain to every thing (m): (gaps (m, n), along (m, n)).

    A thing is the solids (k, WIDTH) that `owner` (k,) gives it; of several the nearest counts. One with none gets its
    cull (m,) and -1, as what is not nearer than that does.
    """
    gaps = np.empty((culls.shape[0], segs.shape[0]))
    along = np.full((culls.shape[0], segs.shape[0]), -1.0)
    for j in range(culls.shape[0]):
        gaps[j] = culls[j]
    each, where = np.empty(segs.shape[0]), np.empty(segs.shape[0])
    for k in range(rows.shape[0]):
        j = owner[k]
        chain_gaps(segs, rows[k], culls[j], each, where)
        for i in range(segs.shape[0]):
            if each[i] < gaps[j, i]:
                gaps[j, i], along[j, i] = each[i], where[i]
    return gaps, along


@njit(cache=True, nogil=True)
def tube_gap(segs, row, cull):
    """Least gap of a chain of joined segments to one solid [mm], or `cull` when none is nearer."""
    gaps, along = np.empty(segs.shape[0]), np.empty(segs.shape[0])
    chain_gaps(segs, row, cull, gaps, along)
    return gaps.min()


@njit(cache=True, nogil=True)
def _within_reach(seg, row, gap):
    """Whether a segment can come nearer than `gap`: one look at its middle, f being 1-Lipschitz."""
    here = np.empty(6)
    grad = np.empty(3)
    centre(seg, 0.5 * seg[1], here)
    value = signed_distance(row, here[0], here[1], here[2], grad)
    return value - 0.5 * seg[1] - reach_of(seg) < gap


@njit(cache=True, nogil=True)
def reach_of(seg):
    """How far a segment reaches from its centre line [mm]."""
    return math.hypot(seg[2], seg[12]) if seg[0] == HEEL else seg[2]


@njit(cache=True, nogil=True)
def swept_gap(seg, half_u, half_v, u, v, row, cull):
    """Gap of a body: a flat-ended rod moved over a rectangle of half sizes along unit u and v (rounded box, oval, can).

    The rod's gap is a convex function of its offset, so golden section in each direction is exact.
    """
    mid = tube_gap(_shifted(seg, u, v, 0.0, 0.0), row, FAR)
    if mid - half_u - half_v > cull or (half_u < 1e-9 and half_v < 1e-9):
        return mid
    return _least_over(seg, half_u, half_v, u, v, row)


@njit(cache=True, nogil=True)
def _shifted(seg, u, v, x, y):
    out = np.empty((1, seg.shape[0]))
    out[0] = seg
    for i in range(3):
        out[0, 3 + i] += x * u[i] + y * v[i]
    return out


@njit(cache=True, nogil=True)
def _rod_over_v(seg, half_v, u, v, row, x):
    if half_v < 1e-9:
        return tube_gap(_shifted(seg, u, v, x, 0.0), row, FAR)
    low, high = -half_v, half_v
    y1, y2 = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    f1 = tube_gap(_shifted(seg, u, v, x, y1), row, FAR)
    f2 = tube_gap(_shifted(seg, u, v, x, y2), row, FAR)
    while high - low > SWEEP_MM:
        if f1 < f2:
            high, y2, f2 = y2, y1, f1
            y1 = high - GOLDEN * (high - low)
            f1 = tube_gap(_shifted(seg, u, v, x, y1), row, FAR)
        else:
            low, y1, f1 = y1, y2, f2
            y2 = low + GOLDEN * (high - low)
            f2 = tube_gap(_shifted(seg, u, v, x, y2), row, FAR)
    return min(f1, f2)


@njit(cache=True, nogil=True)
def _least_over(seg, half_u, half_v, u, v, row):
    if half_u < 1e-9:
        return _rod_over_v(seg, half_v, u, v, row, 0.0)
    low, high = -half_u, half_u
    x1, x2 = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    f1, f2 = _rod_over_v(seg, half_v, u, v, row, x1), _rod_over_v(seg, half_v, u, v, row, x2)
    while high - low > SWEEP_MM:
        if f1 < f2:
            high, x2, f2 = x2, x1, f1
            x1 = high - GOLDEN * (high - low)
            f1 = _rod_over_v(seg, half_v, u, v, row, x1)
        else:
            low, x1, f1 = x1, x2, f2
            x2 = low + GOLDEN * (high - low)
            f2 = _rod_over_v(seg, half_v, u, v, row, x2)
    return min(f1, f2)


@njit(cache=True, nogil=True)
def least_distances(points, rows, owner, things):
    """Signed distance of each point (n, 3) to each of a number of things: (n, things) [mm], FAR for one with no solid.

    A thing is the solids (k, WIDTH) that `owner` (k,) gives it; the nearest counts.
    """
    out = np.full((points.shape[0], things), FAR)
    grad = np.empty(3)
    for i in range(points.shape[0]):
        for k in range(rows.shape[0]):
            value = signed_distance(rows[k], points[i, 0], points[i, 1], points[i, 2], grad)
            out[i, owner[k]] = min(out[i, owner[k]], value)
    return out
