"""Straights so short that nobody cuts them: left out, and the rest moved by as little until the end is met again."""

from __future__ import annotations

import numpy as np

from ..laying import NO_RIGID
from ..space import Pose, Vector, chain

SLIGHT_MM = 3.0  # a straight shorter than this is none that anybody cuts: common practice, no source
MEETS_MM = 1e-7  # how near to the end an answer must come
LEAST_ANGLE_DEG = 5.0  # nobody cuts a smaller bend out of a bend; a re-clocked cut does that


def without_slivers(start: Pose, end: Pose, steps: Vector, *, keep_angles: bool) -> Vector:
    """Straights of next to nothing made nothing, and the rest moved by as little until the end is met exactly; where
    that cannot be with all of them, with all but one. Steps (n, 4) as they were where there is none, or no such answer.
    """
    slight = [int(i) for i in np.flatnonzero((steps[:, 0] == chain.LEG) & (steps[:, 1] < SLIGHT_MM))]
    fewer = [[i for i in slight if i != left] for left in slight]
    for without in [slight, *fewer]:
        if without and (closed := _closed(start, end, steps, without, keep_angles)) is not None:
            return closed
    return steps


def _closed(start: Pose, end: Pose, steps: Vector, without: list[int], keep_angles: bool) -> Vector | None:
    """Steps without some straights that meet the end exactly, if there are such near them."""
    legs, bends = np.flatnonzero(steps[:, 0] == chain.LEG), np.flatnonzero(steps[:, 0] == chain.BEND)
    made = steps.copy()
    made[without, 1] = 0.0
    free = [(i, 1) for i in legs if i not in without] + [
        (i, c) for i in bends for c in ((3,) if keep_angles else (3, 1))
    ]
    if not free:
        return None
    low = np.array([0.0 if steps[i, 0] == chain.LEG else LEAST_ANGLE_DEG if c == 1 else -1080.0 for i, c in free])
    high = np.array([9000.0 if steps[i, 0] == chain.LEG else 180.0 if c == 1 else 1080.0 for i, c in free])
    arm = max(200.0, float(np.linalg.norm(end.point - start.point)) / 3)
    closed, error = chain.close_chain(start.matrix(), made, NO_RIGID, end.matrix(), np.array(free), low, high, arm, 60)
    return np.asarray(closed) if error < MEETS_MM else None
