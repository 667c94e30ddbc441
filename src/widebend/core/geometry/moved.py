"""Gaps of moving bodies in all positions at once (compiled): the same as asking position by position.

A position k moves a point p to scale[k] * turn[k] p + shift[k]; `stretch` (k,) is the most that it moves the end of an
arm of length one whose other end stays. A position is only tried against the things that it can bring near.
"""

import math

import numpy as np
from numba import njit

from .clearance import centre
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
