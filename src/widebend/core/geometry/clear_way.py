"""Whether segments meet a solid on a stretch of a sweep, compiled: nothing that is passed on the way is missed, by the
bound of `travel`.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from .plates import FAR
from .sweeping import SWEEP_WIDTH
from .travel import TRAVEL_MM, look, may_be_near, outlook

NARROW_MM = 0.02  # a stretch of the way this short that is not shown to be clear is not
DEEP = 64  # a way halved so often is far shorter than that


@njit(cache=True, nogil=True)
def _still():
    """The sweep of what stays."""
    still = np.zeros(SWEEP_WIDTH)
    still[10] = still[14] = still[18] = 1.0
    return still


@njit(cache=True, nogil=True)
def _meets(segs, k, rows, sweep, still, allowed, start, end):
    """Whether segment k of a chain comes nearer to solids than it may between two shares of a sweep."""
    n = segs.shape[0]
    best, along, where, lost = np.full(n, allowed), np.empty(n), np.empty((n, 3)), np.empty(3)
    box, grows, stack = np.zeros(6), np.zeros(4), np.empty((DEEP, 2))
    stack[0, 0], stack[0, 1], top = 0.5 * (start + end), 0.5 * (end - start), 1
    while top > 0:
        top -= 1
        box[0], box[3], best[k] = stack[top, 0], stack[top, 1], allowed
        is_open = look(segs, k, rows, sweep, grows, still, box, best, along, where, 0.0, lost)
        if best[k] < allowed:
            return True
        if not is_open:
            continue
        if top > DEEP - 3 or box[3] * lost[0] < NARROW_MM:
            return True
        for side in (1.0, -1.0):
            stack[top, 0], stack[top, 1] = box[0] + side * 0.5 * box[3], 0.5 * box[3]
            top += 1
    return False


@njit(cache=True, nogil=True)
def met_between(segs, firsts, solids, allowed, sweep, start, end):
    """The first of solids (m, WIDTH) to which segments (n, 14), in chains segs[firsts[c] : firsts[c + 1]], come nearer
    than `allowed` (m,) [mm] between two shares of a sweep; -1 where all stay so far off, less TRAVEL_MM.
    """
    still, box, grows, grad = _still(), np.zeros(6), np.zeros(4), np.empty(3)
    box[0], box[3] = 0.5 * (start + end), 0.5 * (end - start)
    for c in range(firsts.shape[0] - 1):
        chain = segs[firsts[c] : firsts[c + 1]]
        balls = np.empty((chain.shape[0], 5))
        outlook(chain, sweep, grows, still, box, balls)
        for j in range(solids.shape[0]):
            row = solids[j : j + 1]
            for k in range(chain.shape[0]):
                near = may_be_near(balls[k], row, allowed[j] - TRAVEL_MM, grad)
                if near and _meets(chain, k, row, sweep, still, allowed[j], start, end):
                    return j
    return -1


@njit(cache=True, nogil=True)
def standing_gaps(segs, firsts, solids, cull):
    """The gap of chains of segments, as of `met_between`, to each solid as they stand: (m,) [mm], `cull` at most."""
    still, box, grows, lost = _still(), np.zeros(6), np.zeros(4), np.empty(3)
    gaps = np.full(solids.shape[0], cull)
    for c in range(firsts.shape[0] - 1):
        chain = segs[firsts[c] : firsts[c + 1]]
        n = chain.shape[0]
        best, along, where = np.full(n, cull), np.empty(n), np.empty((n, 3))
        for j in range(solids.shape[0]):
            for k in range(n):
                best[k] = gaps[j]
                look(chain, k, solids[j : j + 1], still, grows, still, box, best, along, where, 0.0, lost)
                gaps[j] = min(gaps[j], best[k], FAR)
    return gaps
