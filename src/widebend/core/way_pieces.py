"""A way as pieces to make: corner points to straights, bends and rolls, exact at the end; and back."""

from __future__ import annotations

import math

import numpy as np

from . import chain
from .closing import END_MM, LEAST_ANGLE_DEG, Answer
from .frame import Pose, Vector, pose_from_matrix
from .route import NO_RIGID
from .way_task import Task, Way

SLIGHT_MM = 0.3  # a straight shorter than this is none that anybody cuts


def pieces_of(task: Task, way: Way, *, keep_angles: bool = False) -> Answer:
    """A way as steps laid from its start: straights, bends and rolls, exact at the end; its angles kept where asked."""
    steps: list[list[float]] = []
    at, points = task.start, way.points
    tangent = 0.0
    for i in range(1, len(points) - 1):
        before = at.flow
        onward = points[i + 1] - points[i]
        onward = onward / np.linalg.norm(onward) if i + 2 < len(points) else task.end.flow
        turn = math.atan2(float(np.linalg.norm(np.cross(before, onward))), float(before @ onward))
        t = float(way.radii[i - 1]) * math.tan(turn / 2)
        leg = float(np.linalg.norm(points[i] - points[i - 1])) - tangent - t
        steps.append([chain.LEG, max(leg, 0.0), 0.0, 0.0])
        steps.append([chain.BEND, math.degrees(turn), float(way.radii[i - 1]), at.roll_of(onward)])
        at = pose_from_matrix(chain.lay_frames(at.matrix(), np.array(steps[-2:]), NO_RIGID)[-1])
        tangent = t
    steps.append([chain.LEG, max(0.0, float(np.linalg.norm(points[-1] - points[-2])) - tangent), 0.0, 0.0])
    return Answer(_exact(task, np.array(steps), keep_angles=keep_angles), from_set=keep_angles)


def _exact(task: Task, steps: Vector, *, keep_angles: bool) -> Vector:
    """Straights of next to nothing made nothing, and the rest moved by as little until the end is met exactly; where
    that cannot be with all of them, with all but one.
    """
    slight = [int(i) for i in np.flatnonzero((steps[:, 0] == chain.LEG) & (steps[:, 1] < SLIGHT_MM))]
    fewer = [[i for i in slight if i != left] for left in slight]
    for without in [slight, *fewer]:
        if without and (closed := _closed(task, steps, without, keep_angles)) is not None:
            return closed
    return steps


def _closed(task: Task, steps: Vector, without: list[int], keep_angles: bool) -> Vector | None:
    """Steps without some straights that meet the end exactly, if there are such near them."""
    legs, bends = np.flatnonzero(steps[:, 0] == chain.LEG), np.flatnonzero(steps[:, 0] == chain.BEND)
    made = steps.copy()
    made[without, 1] = 0.0
    free = [(i, 1) for i in legs if i not in without] + [
        (i, c) for i in bends for c in ((3,) if keep_angles else (3, 1))
    ]
    low = np.array([0.0 if steps[i, 0] == chain.LEG else LEAST_ANGLE_DEG if c == 1 else -1080.0 for i, c in free])
    high = np.array([9000.0 if steps[i, 0] == chain.LEG else 180.0 if c == 1 else 1080.0 for i, c in free])
    arm = max(200.0, float(np.linalg.norm(task.end.point - task.start.point)) / 3)
    closed, error = chain.close_chain(task.start.matrix(), made, NO_RIGID, task.end.matrix(), np.array(free), low, high,
                                      arm, 60)  # fmt: skip
    return np.asarray(closed) if error < END_MM else None


def corner_points(start: Pose, answer: Answer) -> Vector:
    """The corners of an answer with both ends, (n + 2, 3)."""
    frames = chain.lay_frames(start.matrix(), answer.steps, NO_RIGID)
    points = [start.point]
    for step, frame in zip(answer.steps, frames, strict=False):
        if step[0] == chain.BEND:
            at = pose_from_matrix(frame)
            points.append(at.point + at.flow * step[2] * math.tan(math.radians(step[1]) / 2))
    return np.array([*points, pose_from_matrix(frames[-1]).point])
