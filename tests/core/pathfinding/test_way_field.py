"""The grid of the way search against the solids themselves: no thing is missed, none is said nearer than it may be."""

from __future__ import annotations

import numpy as np
import pytest
from bench.route_scenes import own_scenes, random_scene

from widebend.core.geometry import signed_distance
from widebend.core.geometry.mesh_gap import point_depths
from widebend.core.pathfinding import Task
from widebend.core.pathfinding.field import NEAR_MM
from widebend.core.pathfinding.graph import SHARES, by_shares, spares


def _exactly(task: Task, points: np.ndarray) -> np.ndarray:
    grad = np.empty(3)
    solids = [
        [signed_distance(row, *p, grad) - keep for row, keep in zip(task.rows, task.keep, strict=False)] for p in points
    ]
    out = np.array(solids).min(axis=1)
    for scan, keep in zip(task.scans, task.keep[len(task.rows) :], strict=True):
        local = np.ascontiguousarray((points - scan.shift) @ scan.turn)
        mesh = scan.mesh
        out = np.minimum(out, point_depths(local, mesh.rows, mesh.low, mesh.high, mesh.closed) - keep)
    return out


@pytest.mark.parametrize("seed", [3, 7, 50])
def test_exact_near_what_is_needed_and_never_far_wrong(seed: int) -> None:
    """Distances are 1-Lipschitz: between middles of cells they are known to half a diagonal (geometry, no source)."""
    task = random_scene(seed).task()
    low, high = task.room
    points = np.random.default_rng(seed).uniform(low, high, (1500, 3))
    said, true = spares(points, task.around), _exactly(task, points)
    near = np.abs(said) < NEAR_MM - 1e-9
    assert near.sum() > 100
    assert np.abs(said - true)[near].max() < 1e-9
    assert np.abs(said - true).max() <= NEAR_MM + 1e-9


def test_a_scan_is_met_as_exactly_as_a_solid() -> None:
    task = next(s for s in own_scenes() if s.name == "o7_scan").task()
    low, high = task.room
    points = np.random.default_rng(1).uniform(low, high, (400, 3))
    said, true = spares(points, task.around), _exactly(task, points)
    assert np.abs(said - true)[np.abs(said) < NEAR_MM - 1e-9].max() < 1e-6
    assert np.abs(said - true).max() <= NEAR_MM + 1e-6


def test_outside_the_room_there_is_none() -> None:
    task = random_scene(3).task()
    low, high = task.room
    outside = np.array([low - 100.0, high + 500.0, [low[0] - 1000.0, *low[1:]]])
    assert (spares(outside, task.around) < 0.0).all()


def test_narrow_places_do_not_take_the_room_of_every_other_corner_point() -> None:
    """However many there are of the first kind, each kind has its share of what is kept."""
    kinds = [np.full((n, 3), float(k)) for k, n in enumerate((900, 60, 60, 60))]
    kept = by_shares(kinds, SHARES)[:100, 0]
    for kind, share in enumerate(SHARES):
        assert abs((kept == kind).sum() - 100 * share) <= 2
