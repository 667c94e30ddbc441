"""Gap between two pipes, compiled: the least distance of their centre lines less both radii, and of mitres' heels.

For a place on one centre line the nearest place on a straight or an arc is closed algebra; along the other pipe the
distance is searched by splitting, a stretch being dropped when its middle's distance less half its length (distances
are 1-Lipschitz) is no better than the best so far; what no place of the stretch is held against is left out of that
look. Stretches are split down to SMALL_MM; between looks so near each
other the distance can fall by SMALL_MM^2 / 8 times how the two bend together: under 0.01 mm.

A heel stands out of its corner by less than a diameter: it counts as the points of its rim.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .clearance import ARC, HEEL, centre
from .plates import FAR

SMALL_MM = 1.0
RIM_POINTS = 48


@njit(cache=True, nogil=True)
def _nearest_on(seg, x, y, z, low, high, out):
    """Distance of a point to a segment's centre line on [low, high] mm, and where on it."""
    if low > high:
        return FAR, -1.0
    px, py, pz = x - seg[3], y - seg[4], z - seg[5]
    along = px * seg[6] + py * seg[7] + pz * seg[8]
    if seg[0] != ARC:
        s = min(max(along, low), high)
        centre(seg, s, out)
        return math.sqrt((x - out[0]) ** 2 + (y - out[1]) ** 2 + (z - out[2]) ** 2), s
    aside = seg[12] - (px * seg[9] + py * seg[10] + pz * seg[11])
    turn = math.atan2(along, aside)
    best, at = FAR, low
    for k in range(5):
        if k == 0:
            s = low
        elif k == 1:
            s = high
        else:  # the angle of the point's own place, once round either way
            s = seg[12] * (turn + 2 * math.pi * (k - 3))
            if s < low or s > high:
                continue
        centre(seg, s, out)
        d = (x - out[0]) ** 2 + (y - out[1]) ** 2 + (z - out[2]) ** 2
        if d < best:
            best, at = d, s
    return math.sqrt(best), at


@njit(cache=True, nogil=True)
def _cuts(low, high, skips, least_apart):
    """The stretches (n, 2) [mm] of the other pipe that no place from `low` to `high` mm of its own is held against."""
    cuts = np.empty((skips.shape[0] + 1, 2))
    n = 0
    for k in range(skips.shape[0]):
        if skips[k, 0] <= low and high <= skips[k, 1]:
            cuts[n, 0], cuts[n, 1] = skips[k, 2], skips[k, 3]
            n += 1
    if high - least_apart < low + least_apart:
        cuts[n, 0], cuts[n, 1] = high - least_apart, low + least_apart
        n += 1
    return cuts[:n]


@njit(cache=True, nogil=True)
def _allowed(low, high, other, other_start, skips, least_apart, x, y, z, out):
    """Distance of a point to what of another's segment a stretch of its pipe is held against; FAR for none.

    The stretch is from `low` to `high` mm along its pipe: one place where they are one.
    """
    cuts = _cuts(low, high, skips, least_apart)
    here, high, best = other_start, other_start + other[1], FAR
    while here <= high:
        end, again = high, -1.0
        for k in range(cuts.shape[0]):
            if cuts[k, 0] <= here < cuts[k, 1]:
                again = cuts[k, 1]  # inside a cut: on from its end
            elif here < cuts[k, 0] < end:
                end = cuts[k, 0]
        if again < 0.0:
            d, _ = _nearest_on(other, x, y, z, here - other_start, end - other_start, out)
            best = min(best, d)
            again = end if end < high else high + 1.0
        here = again
    return best


@njit(cache=True, nogil=True)
def _along(seg, start, other, other_start, skips, least_apart, best):
    """Least distance of a segment's centre line to another's below `best`: (distance, at), or (best, -1)."""
    at = -1.0
    here, out = np.empty(6), np.empty(6)
    stack = np.empty((64, 2))
    stack[0, 0], stack[0, 1], top = 0.0, seg[1], 1
    while top > 0:
        top -= 1
        a, b = stack[top, 0], stack[top, 1]
        m, half = 0.5 * (a + b), 0.5 * (b - a)
        centre(seg, m, here)
        x, y, z = here[0], here[1], here[2]
        if _allowed(start + a, start + b, other, other_start, skips, least_apart, x, y, z, out) - half >= best:
            continue
        d = _allowed(start + m, start + m, other, other_start, skips, least_apart, x, y, z, out)
        if d < best:
            best, at = d, m
        if 2.0 * half > SMALL_MM and top < 62:
            stack[top, 0], stack[top, 1] = a, m
            stack[top + 1, 0], stack[top + 1, 1] = m, b
            top += 2
            continue
        for t in (a, b):  # toward the end of a segment it may go on falling
            centre(seg, t, here)
            x, y, z = here[0], here[1], here[2]
            d = _allowed(start + t, start + t, other, other_start, skips, least_apart, x, y, z, out)
            if d < best:
                best, at = d, t
    return best, at


@njit(cache=True, nogil=True)
def _rim(heel, k, out):
    """The k-th point of a heel's rim, on the side that stands out."""
    t = math.pi * (k / (RIM_POINTS - 1.0) - 0.5)
    c, s = math.cos(t), math.sin(t)
    wide = np.empty(3)
    wide[0] = heel[7] * heel[11] - heel[8] * heel[10]
    wide[1] = heel[8] * heel[9] - heel[6] * heel[11]
    wide[2] = heel[6] * heel[10] - heel[7] * heel[9]
    for i in range(3):
        out[i] = heel[3 + i] + heel[2] * (c * heel[9 + i] + s * wide[i]) + c * heel[12] * heel[6 + i]


@njit(cache=True, nogil=True)
def least_between(rows, starts, others, other_starts, skips, least_apart, cull):
    """The least gap of two pipes' segments (n, 14), (m, 14): (gap, row, mm on it, other row), or (cull, -1, 0, -1).

    starts (n,) and other_starts (m,) say how far along its pipe each segment begins [mm]. skips (k, 4) are rules: a
    place between 0 and 1 of one pipe is not held against what lies between 2 and 3 of the other; places less than
    `least_apart` mm from each other along (of one and the same pipe) are not either.
    """
    best, row, at, other = cull, -1, 0.0, -1
    here, there = np.empty(6), np.empty(6)
    for i in range(rows.shape[0]):
        centre(rows[i], 0.5 * rows[i, 1], here)
        reach = 0.5 * rows[i, 1] + (rows[i, 12] if rows[i, 0] == HEEL else 0.0) + rows[i, 2]
        for j in range(others.shape[0]):
            if rows[i, 0] == HEEL and others[j, 0] == HEEL:
                continue  # each is held against the other's pipe
            centre(others[j], 0.5 * others[j, 1], there)
            off = 0.0
            for c in range(3):
                off += (here[c] - there[c]) ** 2
            other_reach = 0.5 * others[j, 1] + (others[j, 12] if others[j, 0] == HEEL else 0.0) + others[j, 2]
            if math.sqrt(off) - reach - other_reach >= best:
                continue
            if rows[i, 0] == HEEL or others[j, 0] == HEEL:
                gap, s = _heel_gap(rows[i], starts[i], others[j], other_starts[j], skips, least_apart, best)
                if gap < best:
                    best, row, at, other = gap, i, s, j
                continue
            radii = rows[i, 2] + others[j, 2]
            d, s = _along(rows[i], starts[i], others[j], other_starts[j], skips, least_apart, best + radii)
            if s >= 0.0:
                best, row, at, other = d - radii, i, s, j
    return best, row, at, other


@njit(cache=True, nogil=True)
def _heel_gap(one, start, two, other_start, skips, least_apart, best):
    """Gap of a heel's rim to a straight or bend, whichever of the two is the heel, and where on the first."""
    heel, pipe = (one, two) if one[0] == HEEL else (two, one)
    rim, out = np.empty(3), np.empty(6)
    at = 0.0
    for k in range(RIM_POINTS):
        _rim(heel, k, rim)
        if one[0] == HEEL:
            d = _allowed(start, start, pipe, other_start, skips, least_apart, rim[0], rim[1], rim[2], out)
            s = 0.0
        else:
            d, s = _nearest_on(pipe, rim[0], rim[1], rim[2], 0.0, pipe[1], out)
            if _passed_over(start + s, other_start, skips, least_apart):
                continue
        if d - pipe[2] < best:
            best, at = d - pipe[2], s
    return best, at


@njit(cache=True, nogil=True)
def _passed_over(a, b, skips, least_apart):
    """Whether a place at `a` mm of one pipe is not held against one at `b` mm of the other."""
    for k in range(skips.shape[0]):
        if skips[k, 0] <= a <= skips[k, 1] and skips[k, 2] <= b <= skips[k, 3]:
            return True
    return least_apart > 0.0 and abs(a - b) < least_apart
