"""Surfaces of a design and its survey as triangles: for the view in space, and for files other programs read.

Round things have `SIDES` flats whose corners lie on the true surface, so volumes come out a little small (0.5 % here).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from shapely import Polygon, constrained_delaunay_triangles
from shapely.geometry.polygon import orient

from ..geometry import rotation_from_rpy
from ..records import Box, Capsule, Cylinder, Extrusion, InLine, MeshShape, Mitre, Shape, Sphere, Thing
from ..space import TriangleMesh, Vector, cross, pose, unit
from .bodies import PartBody, System
from .route import LaidPiece, centre_line

SIDES = 36
ARC_STEP_DEG = 6.0
Faces = NDArray[np.int64]


@dataclass(frozen=True)
class Surface:
    """One named body: corners (n, 3) [mm, vehicle frame] and triangles (m, 3), outside seen anticlockwise.

    `kind` is "pipe", "part", "hard", "heat-shy" or "soft"; `group` what it moves with.
    """

    name: str
    kind: str
    group: str
    corners: Vector
    faces: Faces


def system_surfaces(system: System, movers: dict[tuple[str, int], str], parts: dict[str, str]) -> Iterator[Surface]:
    """Every piece of pipe and every part's bodies."""
    for run in system.runs:
        for piece in run.pieces:
            if isinstance(piece.piece, InLine | Mitre):
                continue
            corners, faces = tube_surface(piece)
            name = f"{run.run.name or run.run.id} {piece.index + 1}"
            if len(corners):
                yield Surface(name, "pipe", movers.get((run.run.id, piece.index), ""), corners, faces)
    for body in system.bodies:
        corners, faces = body_surface(body)
        yield Surface(body.part.name or body.part.item.kind, "part", parts.get(body.part.id, ""), corners, faces)


def tube_surface(piece: LaidPiece) -> tuple[Vector, Faces]:
    """A piece of pipe as a closed solid bar of its outside diameter."""
    line = centre_line(piece, ARC_STEP_DEG)
    line = line[np.insert(np.linalg.norm(np.diff(line, axis=0), axis=1) > 1e-6, 0, values=True)]
    r = float(piece.tube.od_mm) / 2
    if len(line) < 2:  # a straight of no length
        return np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64)
    ways = [piece.inlet.flow, *_middle_ways(line), piece.outlet.flow]
    up = piece.inlet.reference
    rings = []
    turns = np.linspace(0.0, 2 * np.pi, SIDES, endpoint=False)[:, None]
    for at, way in zip(line, ways, strict=True):
        up = unit(up - (up @ way) * way)
        rings.append(at + r * (np.cos(turns) * up + np.sin(turns) * cross(up, way)))
    return _closed(rings)


def _middle_ways(line: Vector) -> list[Vector]:
    return [unit(unit(b - a) + unit(c - b)) for a, b, c in zip(line, line[1:], line[2:], strict=False)]


def _closed(rings: list[Vector]) -> tuple[Vector, Faces]:
    """Rings of equally many corners skinned one to the next, capped at both ends."""
    n, faces = len(rings[0]), []
    for k in range(len(rings) - 1):
        for i in range(n):
            a, b, c, d = k * n + i, k * n + (i + 1) % n, (k + 1) * n + i, (k + 1) * n + (i + 1) % n
            faces += [(a, c, b), (b, c, d)]
    last = (len(rings) - 1) * n
    faces += [(0, i, i + 1) for i in range(1, n - 1)]
    faces += [(last, last + i + 1, last + i) for i in range(1, n - 1)]
    return _outward(np.concatenate(rings), np.array(faces, dtype=np.int64))


def _outward(corners: Vector, faces: Faces) -> tuple[Vector, Faces]:
    """Faces turned so that the volume comes out positive."""
    a, b, c = (corners[faces[:, k]] for k in range(3))
    volume = float(np.einsum("ij,ij->", a, np.cross(b, c))) / 6
    return corners, faces if volume >= 0 else faces[:, ::-1]


def body_surface(body: PartBody) -> tuple[Vector, Faces]:
    """A part's body: its rounded outline moved along."""
    turns = np.linspace(0.0, 2 * np.pi, SIDES, endpoint=False) + np.pi / SIDES
    flat = np.column_stack([np.cos(turns), np.sin(turns)])
    outline = flat * body.radius_mm + np.sign(flat) * [body.half_u, body.half_v]
    ring = body.start + outline[:, :1] * body.u + outline[:, 1:] * body.v
    return _closed([ring, ring + body.flow * body.length_mm])


def thing_surface(thing: Thing, shape: Shape, mesh: TriangleMesh | None = None) -> Surface | None:
    """A bounded thing as it was surveyed; None for a half-space or a scan that is not here.

    `shape` is the thing's own with its windows cut out (`obstacles.opened`), `mesh` a scan's triangles.
    """
    found = _scan(shape, mesh) if isinstance(shape, MeshShape) else _shape(shape)
    if found is None or not len(found[0]):
        return None
    return Surface(thing.name, thing.nature, thing.moves_with, *found)


def _shape(shape: Shape) -> tuple[Vector, Faces] | None:
    if isinstance(shape, Box):
        half, axes = np.asarray(shape.size, dtype=float) / 2, rotation_from_rpy(shape.rpy_deg)
        flat = np.array([(-1, -1), (1, -1), (1, 1), (-1, 1)], dtype=float)
        rings = [np.column_stack([flat * half[:2], np.full(4, z)]) for z in (-half[2], half[2])]
        return _closed([np.asarray(shape.center, dtype=float) + ring @ axes.T for ring in rings])
    if isinstance(shape, Cylinder | Capsule | Sphere):
        return _round(shape)
    if isinstance(shape, Extrusion):
        return _extruded(shape)
    return None


def _round(shape: Cylinder | Capsule | Sphere) -> tuple[Vector, Faces]:
    """A flat-ended or round-ended bar, or a ball: rings along its axis."""
    a, b = (shape.center, shape.center) if isinstance(shape, Sphere) else (shape.a, shape.b)
    start, end, r = np.asarray(a, dtype=float), np.asarray(b, dtype=float), float(shape.radius)
    way = unit(end - start) if np.linalg.norm(end - start) > 1e-9 else np.array([1.0, 0.0, 0.0])
    at = pose(start, way)
    turns = np.linspace(0.0, 2 * np.pi, SIDES, endpoint=False)[:, None]
    around = np.cos(turns) * at.reference + np.sin(turns) * at.across
    if isinstance(shape, Cylinder):
        return _closed([start + r * around, end + r * around])
    tilts = np.radians(np.linspace(-89.9, 0.0, 10))
    rings = [start + r * math.sin(t) * way + r * math.cos(t) * around for t in tilts]
    back = tilts[::-1] if np.linalg.norm(end - start) > 1e-9 else tilts[-2::-1]  # a ball has one middle ring
    rings += [end + r * math.sin(-t) * way + r * math.cos(t) * around for t in back]
    return _closed(rings)


def _extruded(shape: Extrusion) -> tuple[Vector, Faces]:
    """An outline with its openings moved along: two faces and the walls of every edge."""
    at = pose(shape.origin, shape.axis, shape.reference)
    # the outline anticlockwise seen against the axis, openings clockwise: metal is on the left of every edge
    flat = orient(Polygon(shape.outline, shape.holes))
    corners, faces = list[Vector](), list[tuple[int, int, int]]()

    def add(points: Vector, depth: float) -> int:
        corners.append(at.point + points[:, :1] * at.across + points[:, 1:] * at.reference + depth * at.flow)
        return sum(len(c) for c in corners[:-1])

    for triangle in constrained_delaunay_triangles(flat).geoms:
        xy = np.array(orient(triangle).exterior.coords[:3])
        near, far = add(xy, 0.0), add(xy, float(shape.depth))
        faces += [(near, near + 2, near + 1), (far, far + 1, far + 2)]
    for ring in (flat.exterior, *flat.interiors):
        for edge in itertools.pairwise(np.array(ring.coords)):
            a, b = add(np.array(edge), 0.0), add(np.array(edge), float(shape.depth))
            faces += [(a, a + 1, b + 1), (a, b + 1, b)]
    return np.concatenate(corners), np.array(faces, dtype=np.int64)


def _scan(shape: MeshShape, mesh: TriangleMesh | None) -> tuple[Vector, Faces] | None:
    if mesh is None:
        return None
    corners = mesh.rows[:, 1:10].reshape(-1, 3) @ rotation_from_rpy(shape.rpy_deg).T + np.asarray(shape.shift)
    return np.asarray(corners), np.arange(len(corners), dtype=np.int64).reshape(-1, 3)
