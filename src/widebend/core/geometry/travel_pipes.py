"""Gaps between two pipes that go different ways, over the whole of both travels, compiled: as `travel` finds those of
tubes to things, but that nothing is known of two tubes but how fast they go.
"""

from __future__ import annotations

import numpy as np
from numba import njit

from .pipe_gap import least_between
from .sweeping import DEEP, first_box, is_corner, losses, moved_segment, pushed, relative, speeds, widest, with_corners
from .travel import MOST_BOXES, STEP_MM, TRAVEL_MM, ball_of


@njit(cache=True, nogil=True)
def pipe_travel_gap(rows, starts, others, other_starts, skips, least_apart, sweeps, other_sweeps, best, found, where):
    """The least gap of two pipes' segments (n, 14), (m, 14) (`pipe_gap.least_between`, with its starts, skips and
    least_apart) over all sweeps of both, if less than `best`, else that. Fills found (4,): row, other row, sweep, other
    sweep, and where (3,): mm along the row, and the parameters of both sweeps.
    """
    turn, pose, other, rates = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    shift, place, off, point, lost = np.empty(3), np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    stack, box, now, one = np.empty((DEEP, 6)), np.empty(6), np.empty(6), np.empty((1, rows.shape[1]))
    cold = np.zeros(4)  # metal beside metal grows alike
    for a in range(sweeps.shape[0]):
        for b in range(other_sweeps.shape[0]):
            if not first_box(sweeps[a], cold, other_sweeps[b], box):
                continue
            for k in range(rows.shape[0]):
                reach = ball_of(rows[k], point)
                top, looks = with_corners(stack, box), 0
                while top > 0:
                    top -= 1
                    now[:] = stack[top]
                    relative(sweeps[a], cold, other_sweeps[b], now[:3], turn, shift, pose, place, other, off)
                    far, _ = losses(
                        point, reach, sweeps[a], cold, other_sweeps[b], now[:3], now[3:], pose, place, rates
                    )
                    moved_segment(rows[k], turn, shift, 1.0, one[0])
                    gap, row, s, on = least_between(
                        one, starts[k : k + 1], others, other_starts, skips, least_apart, best + min(far, 1e6)
                    )
                    looks += 1
                    if row < 0:
                        continue
                    if gap < best - (0.0 if is_corner(now) else STEP_MM):
                        best = gap
                        found[0], found[1], found[2], found[3] = k, on, a, b
                        where[0], where[1], where[2] = s, now[0], now[2]
                    if gap - far >= best - TRAVEL_MM:
                        continue
                    if looks > MOST_BOXES or top > DEEP - 3:
                        best -= far
                        continue
                    speeds(sweeps[a], cold, other_sweeps[b], rates, reach, lost)
                    top = pushed(stack, top, now, widest(now[3:], lost))
    return best
