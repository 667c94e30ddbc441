"""Gaps between the tubes and bodies of a system and the things around it, whatever shape a thing has.

A thing is one or more convex solids, or a mesh; its gap is the least over them. A point inside several touching parts
of one thing is given the depth to leave the nearest part: never more than the true depth, and always minus.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..geometry import WIDTH, clearance, mesh_gap, moved, straight_row
from ..laying import Obstacle, PartBody, PlacedMesh, Position, Stacked, farthest
from ..space import Vector
from .gaps_over_travel import ByThing, by_thing


@dataclass(frozen=True)
class Around:
    """Things packed for the kernel: all convex solids in one table, each with the thing it belongs to.

    `needed` (n,) is the gap each thing wants with its doubt added [mm].
    """

    obstacles: tuple[Obstacle, ...]
    rows: Vector
    owner: Vector
    needed: Vector

    @cached_property
    def meshed(self) -> NDArray[np.intp]:
        """Which of the things are triangles."""
        return np.flatnonzero([o.mesh is not None for o in self.obstacles])

    @cached_property
    def by_thing(self) -> ByThing:
        """The same as the things they are, each once with how it travels."""
        return by_thing(self.obstacles)

    def only(self, which: NDArray[np.intp]) -> Around:
        """Some of the things, by their index."""
        place = np.full(len(self.obstacles), -1)
        place[which] = np.arange(len(which))
        rows = place[self.owner] >= 0
        some = tuple(self.obstacles[j] for j in which)
        return Around(some, self.rows[rows], place[self.owner[rows]], self.needed[which])


def packed(obstacles: Sequence[Obstacle]) -> Around:
    """Pack things once; many tubes can then be asked about them."""
    counts = [len(o.solids) for o in obstacles]
    rows = np.concatenate([o.solids for o in obstacles]) if obstacles else np.zeros((0, WIDTH))
    needed = np.array([o.needed_mm + o.plus_minus_mm for o in obstacles], dtype=float)
    return Around(tuple(obstacles), rows, np.repeat(np.arange(len(obstacles)), counts), needed)


def bare(things: Around) -> Around:
    """The things themselves, with no gap wanted."""
    return Around(things.obstacles, things.rows, things.owner, np.zeros(len(things.obstacles)))


def both(these: Around, those: Around) -> Around:
    """Two sets of packed things as one."""
    return Around(
        these.obstacles + those.obstacles,
        np.concatenate([these.rows, those.rows]),
        np.concatenate([these.owner, those.owner + len(these.obstacles)]),
        np.concatenate([these.needed, those.needed]),
    )


def tube_gaps(segments: Vector, around: Around, extra_mm: float) -> tuple[Vector, Vector]:
    """Gap of each segment (n, 14) of one chain to each thing (m): gaps (m, n) and where along the segment (m, n) [mm].

    What is not nearer than a thing's needed gap and `extra_mm` is given that much, and -1 along.
    """
    m, n = len(around.obstacles), len(segments)
    culls = around.needed + extra_mm
    if not n:
        return np.zeros((m, 0)), np.zeros((m, 0))
    each, along = clearance.least_gaps(segments, around.rows, around.owner, culls)
    for j, obstacle in enumerate(around.obstacles):
        if obstacle.mesh is not None:
            each[j], along[j] = _to_mesh(segments, obstacle.mesh, float(culls[j]))
    return each, along


def _to_mesh(segments: Vector, placed: PlacedMesh, cull: float) -> tuple[Vector, Vector]:
    mesh, own = placed.mesh, segments.copy()
    own[:, 3:6] = (segments[:, 3:6] - placed.shift) @ placed.turn
    own[:, 6:9], own[:, 9:12] = segments[:, 6:9] @ placed.turn, segments[:, 9:12] @ placed.turn
    return mesh_gap.mesh_gaps(own, mesh.rows, mesh.low, mesh.high, mesh.closed, cull)  # type: ignore[no-any-return]


def worst_margin(segments: Vector, around: Around, extra_mm: float) -> tuple[float, int]:
    """The least of gap less needed less doubt over a chain [mm], and which thing; `extra_mm`, -1 when none is near."""
    if not len(segments) or not around.obstacles:
        return extra_mm, -1
    gaps, along = tube_gaps(segments, around, extra_mm)
    # what is far was given its needed gap and `extra_mm`, and that less its needed gap rounds to less than `extra_mm`
    margins = np.where(along >= 0.0, gaps, np.inf).min(axis=1) - around.needed
    j = int(margins.argmin())
    return (float(margins[j]), j) if margins[j] < extra_mm else (extra_mm, -1)


def part_gap(body: PartBody, obstacle: Obstacle, cull: float) -> float:
    """Gap of a part's body to a thing [mm], exact below `cull`."""
    args = body.half_u, body.half_v
    gaps = [float(clearance.swept_gap(body.segment, *args, body.u, body.v, row, cull)) for row in obstacle.solids]
    if obstacle.mesh is not None:
        gaps.append(_body_to_mesh(body, obstacle.mesh, cull))
    return min(gaps, default=cull)


def _body_to_mesh(body: PartBody, placed: PlacedMesh, cull: float) -> float:
    if body.half_u < 1e-9 and body.half_v < 1e-9:
        return float(_to_mesh(body.segment[None], placed, cull)[0].min())
    mesh, turn = placed.mesh, placed.turn
    seg = straight_row((body.start - placed.shift) @ turn, body.flow @ turn, body.length_mm, body.radius_mm, 3)
    middle = (body.middle - placed.shift) @ turn
    if mesh.closed and mesh_gap.is_inside(mesh.rows, mesh.low, mesh.high, middle):
        depth, _ = mesh_gap.nearest(mesh.rows, mesh.low, mesh.high, *middle)
        return float(-depth - body.radius_mm)
    args = (body.half_u, body.half_v, body.u @ turn, body.v @ turn, mesh.rows, mesh.low, mesh.high, cull)
    return float(mesh_gap.body_gap(seg, *args))


def distances(points: Vector, obstacle: Obstacle) -> Vector:
    """Signed distance of points (n, 3) to a thing: (n,) [mm], minus inside; far when its shape is not known."""
    return point_gaps(points, packed([obstacle]))[:, 0]


def point_gaps(points: Vector, around: Around) -> Vector:
    """Signed distance of points (n, 3) to each thing (m): (n, m) [mm], minus inside; far where a shape is not known."""
    each = clearance.least_distances(points, around.rows, around.owner, len(around.obstacles))
    for j, obstacle in enumerate(around.obstacles):
        if obstacle.mesh is not None:
            mesh, turn = obstacle.mesh.mesh, obstacle.mesh.turn
            own = np.ascontiguousarray((points - obstacle.mesh.shift) @ turn)
            each[:, j] = mesh_gap.point_depths(own, mesh.rows, mesh.low, mesh.high, mesh.closed)
    return each  # type: ignore[no-any-return]


def nearest_margins(points: Vector, radius: Vector, around: Around, needed: Vector) -> tuple[Vector, Vector]:
    """Least of signed distance less radius less needed at centre-line points (n, 3): (margins (n,), which thing (n,)).

    For drawing a slice: no end discs.
    """
    each = point_gaps(points, around) - radius[:, None] - needed[None, :]
    which = each.argmin(axis=1)
    return each[np.arange(len(points)), which], which


def worst_margins(
    points: Vector, radius: Vector, around: Around, positions: tuple[Position, ...], ceiling_mm: float
) -> Vector:
    """Least of signed distance less radius less needed at centre-line points (n, 3) over all positions, at rest first:
    (n,) [mm]. Positions other than rest are tried against what they can bring under `ceiling_mm`. For drawing a ribbon.
    """
    each = point_gaps(points, around) - radius[:, None] - around.needed[None, :]
    least, others = each.min(axis=1), positions[1:]
    if not others:
        return np.asarray(least)
    brought = moved.least_margins_moved(
        points,
        radius,
        *Stacked.of(others).arrays,
        around.rows,
        around.owner,
        around.needed,
        each.min(axis=0),
        ceiling_mm,
    )
    least = np.where(brought < ceiling_mm, np.minimum(least, brought), least)
    meshes = around.only(around.meshed)
    for position in others if len(around.meshed) else ():
        reach = farthest(points, np.zeros(len(points)), position)
        near = meshes.only(np.flatnonzero(each[:, around.meshed].min(axis=0) - reach < ceiling_mm))
        if near.obstacles:
            margins, _ = nearest_margins(position.points(points), radius * position.scale, near, near.needed)
            least = np.minimum(least, margins)
    return np.asarray(least)
