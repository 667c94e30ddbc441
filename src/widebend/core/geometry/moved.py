"""Gaps of what moves, in every position it takes at once (compiled): the same as asking position by position.

A position k moves a point p to scale[k] * turn[k] p + shift[k]; `stretch` (k,) is the most that it moves the end of an
arm of length one whose other end stays. A position is only tried against the things that it can bring near.
"""

import math

import numpy as np
from numba import njit

from .clearance import centre, chain_gaps, swept_gap
from .solids import signed_distance


@njit(cache=True, nogil=True)
def _carried(turn, point, out):
    for i in range(3):
        out[i] = turn[i, 0] * point[0] + turn[i, 1] * point[1] + turn[i, 2] * point[2]


@njit(cache=True, nogil=True)
def _moved_point(turn, shift, scale, point, out):
    _carried(turn, point, out)
    for i in range(3):
        out[i] = scale * out[i] + shift[i]


@njit(cache=True, nogil=True)
def _moved_segment(turn, shift, scale, seg, out):
    out[:] = seg
    _moved_point(turn, shift, scale, seg[3:6], out[3:6])
    _carried(turn, seg[6:9], out[6:9])
    _carried(turn, seg[9:12], out[9:12])
    for i in (1, 2, 12):
        out[i] = seg[i] * scale


@njit(cache=True, nogil=True)
def _farthest(turn, shift, scale, stretch, points, reach):
    """At most how far [mm] a position moves anything within `reach` (n,) of points (n, 3)."""
    most, at = 0.0, np.empty(3)
    for i in range(points.shape[0]):
        _moved_point(turn, shift, scale, points[i], at)
        off = math.sqrt((at[0] - points[i, 0]) ** 2 + (at[1] - points[i, 1]) ** 2 + (at[2] - points[i, 2]) ** 2)
        most = max(most, off + stretch * reach[i])
    return most


@njit(cache=True, nogil=True)
def chain_gaps_moved(segs, turns, shifts, scales, stretches, rows, owner, needed, least, worst, worth_saying):
    """Gaps of one chain's segments (n, 14) to things (m) in every position (k): gaps (k, m, n) [mm] and where along
    each segment (k, m, n), -1 where nothing nearer than `needed` (m,) and `worst` is found.

    `least` (m,) is what each thing leaves over what it needs at rest; a thing that no position brings under `worst` is
    not looked at, unless a position moves so far that what is not worth saying at rest comes near.
    """
    k, m, n = turns.shape[0], needed.shape[0], segs.shape[0]
    gaps, along = np.empty((k, m, n)), np.full((k, m, n), -1.0)
    moved, each, where = np.empty_like(segs), np.empty(n), np.empty(n)
    starts, reach = np.ascontiguousarray(segs[:, 3:6]), segs[:, 1] + segs[:, 2]
    for p in range(k):
        far = _farthest(turns[p], shifts[p], scales[p], stretches[p], starts, reach)
        near = least - far < worst if worst + far < worth_saying else least < np.inf
        if not near.any():
            continue
        for i in range(n):
            _moved_segment(turns[p], shifts[p], scales[p], segs[i], moved[i])
        for q in range(rows.shape[0]):
            j = owner[q]
            if not near[j]:
                continue
            chain_gaps(moved, rows[q], needed[j] + worst, each, where)
            for i in range(n):
                if where[i] >= 0.0 and (along[p, j, i] < 0.0 or each[i] < gaps[p, j, i]):
                    gaps[p, j, i], along[p, j, i] = each[i], where[i]
    return gaps, along


@njit(cache=True, nogil=True)
def centres_moved(segs, turns, shifts, scales, found, along):
    """Where the centre of segment n is in position k, `along` (k, m, n) [mm] it, for each row (k, m, n) of `found`:
    (rows, 3).
    """
    out, one, here = np.empty((found.shape[0], 3)), np.empty(segs.shape[1]), np.empty(6)
    for i in range(found.shape[0]):
        p, n = found[i, 0], found[i, 2]
        _moved_segment(turns[p], shifts[p], scales[p], segs[n], one)
        centre(one, along[p, found[i, 1], n], here)
        out[i] = here[:3]
    return out


@njit(cache=True, nogil=True)
def body_gaps_moved(seg, half_u, half_v, u, v, turns, shifts, scales, rows, owner, needed, near):
    """Gap of a body (`clearance.swept_gap`) to things (m) in every position (k), exact below `needed` (m,): (k, m)
    [mm], endless where `near` (k, m) says that it is not to be looked at.
    """
    gaps, one, one_u, one_v = np.full(near.shape, np.inf), np.empty_like(seg), np.empty(3), np.empty(3)
    for p in range(near.shape[0]):
        if not near[p].any():
            continue
        _moved_segment(turns[p], shifts[p], scales[p], seg, one)
        _carried(turns[p], u, one_u)
        _carried(turns[p], v, one_v)
        for q in range(rows.shape[0]):
            j = owner[q]
            if near[p, j]:
                gap = swept_gap(one, half_u * scales[p], half_v * scales[p], one_u, one_v, rows[q], needed[j])
                gaps[p, j] = min(gaps[p, j], gap)
    return gaps


@njit(cache=True, nogil=True)
def least_margins_moved(points, radius, turns, shifts, scales, stretches, rows, owner, needed, least, ceiling):
    """Least of signed distance less radius less `needed` (m,) of centre-line points (n, 3) over every position: (n,)
    [mm], `ceiling` where none comes lower. `least` (m,) is the least of it at rest over all points.
    """
    n, at, grad = points.shape[0], np.empty(3), np.empty(3)
    out, nothing = np.full(n, ceiling), np.zeros(n)
    for p in range(turns.shape[0]):
        far = _farthest(turns[p], shifts[p], scales[p], stretches[p], points, nothing)
        near = least - far < ceiling
        if not near.any():
            continue
        for i in range(n):
            _moved_point(turns[p], shifts[p], scales[p], points[i], at)
            for q in range(rows.shape[0]):
                if near[owner[q]]:
                    gap = signed_distance(rows[q], at[0], at[1], at[2], grad)
                    out[i] = min(out[i], gap - radius[i] * scales[p] - needed[owner[q]])
    return out
