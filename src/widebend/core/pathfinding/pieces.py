"""A way as pieces to make: corner points to straights, bends and rolls, exact at the end; and back."""

from __future__ import annotations

import math

import numpy as np

from ..closing import Answer, without_slivers
from ..laying import NO_RIGID
from ..space import Pose, Vector, chain, pose_from_matrix
from .task import RouteCandidate, Task


def pieces_of(task: Task, way: RouteCandidate, *, keep_angles: bool = False) -> Answer:
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
    exact = without_slivers(task.start, task.end, np.array(steps), keep_angles=keep_angles)
    return Answer(exact, from_set=keep_angles)


def corner_points(start: Pose, answer: Answer) -> Vector:
    """The corners of an answer with both ends, (n + 2, 3)."""
    frames = chain.lay_frames(start.matrix(), answer.steps, NO_RIGID)
    points = [start.point]
    for step, frame in zip(answer.steps, frames, strict=False):
        if step[0] == chain.BEND:
            at = pose_from_matrix(frame)
            points.append(at.point + at.flow * step[2] * math.tan(math.radians(step[1]) / 2))
    return np.array([*points, pose_from_matrix(frames[-1]).point])
