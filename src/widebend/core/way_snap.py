"""A way with every angle from the shop's set: the rolls and straights take up what the angles no longer can.

With n bends and all angles fixed, 2n - 4 values are free. The rolls of the first n - 2 bends are tried near the way's
own; the last but one direction then lies on two cones; the straights follow from three linear equations, as near to the
way's own as they can be. Every candidate meets the end exactly; the search is over what is left.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from .closing import LEAST_ANGLE_DEG
from .frame import Vector
from .set_angles import middle_directions
from .way_search import Task, Way, judged

SPREAD_DEG, ROUNDS = (75.0, 25.0, 8.0, 3.0), 20
MOST_MIXES = 14
ALLOWED_MM = -0.2  # the search keeps a quarter of a millimetre more than is needed


def snapped(task: Task, way: Way, angles: Sequence[float]) -> Way | None:
    """The cheapest way near this one with angles from the set, or None where none keeps clear.

    Same input, same answer: the tries are drawn with a fixed seed.
    """
    usable = [a for a in angles if LEAST_ANGLE_DEG <= a <= task.most_deg]
    if way.bends < 2 or not usable:
        return None
    directions, turns = _directions(task, way)
    legs = _legs_of(way, turns)
    best: Way | None = None
    for mix in _mixes(turns, usable):
        found = _try_mix(task, way, directions, legs, np.array(mix))
        if found is not None and (best is None or found.cost < best.cost):
            best = found
    return best


def _directions(task: Task, way: Way) -> tuple[Vector, Vector]:
    """The directions of a way's straights (n + 1, 3), the ends' own axes first and last, and its turns [deg]."""
    ways = np.diff(way.points, axis=0)
    ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-9)[:, None]
    ways[0], ways[-1] = task.start.flow, task.end.flow
    cosines = np.clip(np.einsum("ij,ij->i", ways[:-1], ways[1:]), -1.0, 1.0)
    return ways, np.degrees(np.arccos(cosines))


def _legs_of(way: Way, turns: Vector) -> Vector:
    tangents = np.concatenate([[0.0], way.radii * np.tan(np.radians(turns) / 2), [0.0]])
    return np.asarray(np.linalg.norm(np.diff(way.points, axis=0), axis=1) - tangents[:-1] - tangents[1:])


def _mixes(turns: Vector, usable: Sequence[float]) -> list[tuple[float, ...]]:
    """Angles of the set for each bend, those that are nearest to the way's own all in all first."""
    near = [sorted(usable, key=lambda a: abs(a - turn))[:3] for turn in turns]
    mixes = sorted(itertools.product(*near), key=lambda m: float(np.abs(np.array(m) - turns).sum()))
    return mixes[:MOST_MIXES]


def _try_mix(task: Task, way: Way, directions: Vector, legs: Vector, mix: Vector) -> Way | None:
    free = way.bends - 2
    rng = np.random.default_rng(11)
    best: Way | None = None
    at, at_cost = np.zeros(free), math.inf
    for spread in SPREAD_DEG if free else (0.0,):
        for lot in [np.zeros(free), *rng.normal(0.0, spread, (ROUNDS if free else 0, free))]:
            for points in _lines(task, way, directions, legs, mix, at + lot):
                tried = judged(task, points, way.radii)
                if tried.cost < at_cost:
                    at_cost, moved = tried.cost, at + lot
                if tried.spare_mm >= ALLOWED_MM and (best is None or tried.cost < best.cost):
                    best = tried
        if at_cost < math.inf:
            at = moved
    return best


def _lines(task: Task, way: Way, directions: Vector, legs: Vector, mix: Vector, rolls: Vector) -> Iterator[Vector]:
    """Lines with these angles and the first rolls turned by `rolls` [deg] from the way's own."""
    ways = [directions[0]]
    for i, roll in enumerate(rolls):
        ways.append(_turned(ways[-1], directions[i + 1], float(mix[i]), float(roll)))
    ahead = task.end.point - task.start.point
    for last in middle_directions(ways[-1], task.end.flow, float(mix[-2]), float(mix[-1]), ahead):
        whole = np.array([*ways, last, task.end.flow])
        tangents = way.radii * np.tan(np.radians(mix) / 2)
        wanted = ahead - ((whole[:-1] + whole[1:]) * tangents[:, None]).sum(axis=0)
        short = wanted - whole.T @ legs
        fix, *_ = np.linalg.lstsq(whole.T, short, rcond=None)
        made = legs + fix
        need = np.full(len(made), float(task.ways.shortest_mm))
        need[[0, -1]] = 0.0
        if np.linalg.norm(whole.T @ made - wanted) > 1e-7 or (made < need - 1e-9).any():
            continue
        steps = made[:-1] + np.concatenate([[0.0], tangents[:-1]]) + tangents
        corners = task.start.point + np.cumsum(steps[:, None] * whole[:-1], axis=0)
        yield np.concatenate([task.start.point[None], corners, task.end.point[None]])


def _turned(before: Vector, toward: Vector, deg: float, roll: float) -> Vector:
    """A direction at `deg` from `before`, toward another, turned about `before` by `roll` [deg]."""
    side = toward - float(toward @ before) * before
    size = float(np.linalg.norm(side))
    side = (
        side / size if size > 1e-9 else np.cross(before, [0.0, 0.0, 1.0] if abs(before[2]) < 0.9 else [0.0, 1.0, 0.0])
    )
    t, r = math.radians(deg), math.radians(roll)
    rolled = math.cos(r) * side + math.sin(r) * np.cross(before, side)
    return np.asarray(math.cos(t) * before + math.sin(t) * rolled)
