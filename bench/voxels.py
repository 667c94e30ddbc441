"""The plain way to find a route, to compare with: A* over a grid of voxels, shortcuts taken, corners rounded."""

from __future__ import annotations

import heapq
import itertools

import numpy as np

from widebend.core.pathfinding import RouteCandidate, Task, judged
from widebend.core.pathfinding.graph import spares
from widebend.core.space import Vector

VOXEL_MM = 25.0


def voxel_way(task: Task) -> RouteCandidate | None:
    """The shortest line through free voxels, smoothed by shortcuts, its corners rounded; None where there is none.

    It knows nothing of bends: whether they fit, and what they cost, is judged afterwards.
    """
    low, high = task.room
    counts = np.ceil((high - low) / VOXEL_MM).astype(int)
    grid = np.stack(np.meshgrid(*(np.arange(c) for c in counts), indexing="ij"), axis=-1)
    middles = low + (grid + 0.5) * VOXEL_MM
    free = (spares(np.ascontiguousarray(middles.reshape(-1, 3)), task.around) > 0.0).reshape(tuple(counts))
    lead = 1.05 * max(task.ways.clr_mm)
    first, last = task.start.point + lead * task.start.flow, task.end.point - lead * task.end.flow
    cells = _shortest(free, *(tuple(((p - low) // VOXEL_MM).astype(int)) for p in (first, last)))
    if cells is None:
        return None
    line = [first, *(low + (np.array(c) + 0.5) * VOXEL_MM for c in cells[1:-1]), last]
    points = np.array([task.start.point, *_shortcut(task, line), task.end.point])
    return judged(task, points, np.full(len(points) - 2, max(task.ways.clr_mm)))


def _shortest(free: Vector, start: tuple[int, ...], goal: tuple[int, ...]) -> list[tuple[int, ...]] | None:
    steps = [s for s in itertools.product((-1, 0, 1), repeat=3) if any(s)]
    far = np.array(goal)
    queue, cost, came = [(0.0, start)], {start: 0.0}, {start: start}
    while queue:
        _, at = heapq.heappop(queue)
        if at == goal:
            path = [at]
            while path[-1] != start:
                path.append(came[path[-1]])
            return path[::-1]
        for step in steps:
            to = (at[0] + step[0], at[1] + step[1], at[2] + step[2])
            if not all(0 <= c < n for c, n in zip(to, free.shape, strict=True)) or not (free[to] or to == goal):
                continue
            total = cost[at] + float(np.sqrt(abs(step[0]) + abs(step[1]) + abs(step[2])))
            if total < cost.get(to, 1e18):
                cost[to], came[to] = total, at
                heapq.heappush(queue, (total + float(np.linalg.norm(far - to)), to))
    return None


def _shortcut(task: Task, line: list[Vector]) -> list[Vector]:
    """As few of the points as see each other, from the first on the farthest each time."""
    out, at = [line[0]], 0
    while at < len(line) - 1:
        for to in range(len(line) - 1, at, -1):
            n = max(2, int(np.linalg.norm(line[to] - line[at]) / 10.0))
            between = line[at] + np.linspace(0.0, 1.0, n)[:, None] * (line[to] - line[at])
            if to == at + 1 or spares(np.ascontiguousarray(between), task.around).min() > 0.0:
                break
        out.append(line[to])
        at = to
    return out
