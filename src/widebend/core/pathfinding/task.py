"""The way search's task and its answer: a line through corner points with what it costs and keeps."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from ..closing import LEAST_ANGLE_DEG, BendOptions
from ..laying import PlacedMesh
from ..review import Around
from ..space import Pose, Vector
from .cost import way_cost
from .field import Field, field_of, scan_box, solid_boxes, spares

EXTRA_MM = 0.35  # kept over the needed gap while searching: an optimum sits exactly at its limit
USED_UP_MM = 0.15  # of which so much may be used up: the polishing walks in longer steps than the judging
JUDGED_WALK_MM = 4.0  # passing an edge at 30 mm it misses 0.07 mm of nearness
MISFITS_BELOW = 1000.0  # a way that does not fit has a spare below this, by how much it does not
FITS_MM = 0.005  # a misfit this small is rounding, not a way that does not go
ROOM = 0.1  # what the search keeps within every limit, in mm and deg: an optimum sits at them, a little past
NO_VIAS: Vector = np.zeros((0, 7))
Asked = tuple[tuple[float, float, float, float, float, float], Field, Vector, float, float]


@dataclass(frozen=True)
class Task:
    """A task: from, to, the tube, and what is in the way as solids and scans, with what to keep from each.

    `keep` (n solids, then m scans) [mm] has the tube's radius in it. `vias` (k, 7): what to come through in this order,
    each its middle, its axis (0, 0, 0 for any) and within how much of the middle [mm]. `pulse` is called between the
    steps of a search, each a fraction of a second: who waits for it may raise there to end it.
    """

    start: Pose
    end: Pose
    od_mm: float
    ways: BendOptions
    rows: Vector
    keep: Vector
    scans: tuple[PlacedMesh, ...] = ()
    most_deg: float = 90.0
    vias: Vector = field(default_factory=NO_VIAS.copy)
    seed: int = 0
    pulse: Callable[[], None] = lambda: None

    @cached_property
    def room(self) -> tuple[Vector, Vector]:
        """The lowest and highest corner of the box in which the search looks, (3,) each [mm]."""
        wide = 1.6 * max(self.ways.clr_mm) + 160.0
        points = np.concatenate([self.start.point[None], self.end.point[None], self.vias[:, :3]])
        return points.min(axis=0) - wide, points.max(axis=0) + wide

    @cached_property
    def around(self) -> Field:
        """Everything in the way as the compiled search takes it."""
        low, high = self.room
        return field_of(self.rows, self.keep, low - 40.0, high + 40.0, self.scans)

    @cached_property
    def boxes(self) -> Vector:
        """The box round each solid and scan, (n + m, 2, 3) [mm]; nan for one without end."""
        scans = np.array([scan_box(s) for s in self.scans]).reshape(-1, 2, 3)
        return np.concatenate([solid_boxes(self.rows), scans])

    @property
    def limits(self) -> tuple[float, float, float]:
        """Shortest straight [mm], largest and least turn [deg]."""
        return float(self.ways.shortest_mm), float(self.most_deg), LEAST_ANGLE_DEG

    @cached_property
    def flat_ends(self) -> tuple[float, float]:
        """How much of the first and of the last straight is not walked [mm]: an end is a flat disc, and the walk's ball
        reaches past it by the tube's radius. Where a ball there would be too near, what is beside the first radius of
        pipe is left to the exact kernels.
        """
        ends = np.array([self.start.point, self.end.point])
        near = spares(np.ascontiguousarray(ends), self.around) < 0.0
        reach = float(self.od_mm) / 2 + EXTRA_MM
        return tuple(reach if is_near else 0.0 for is_near in near)  # type: ignore[return-value]

    def asked(self, walk_mm: float, ease_mm: float = 0.0, room: float = ROOM) -> Asked:
        """Return the arguments of `way_cost`, walking in steps of at least so much, letting it be a little too near
        [mm], and keeping so much within the other limits.
        """
        shortest, most, least = self.limits
        limits = room, shortest + room, most - room, least + room, *self.flat_ends
        return limits, self.around, self.vias - room * np.eye(7)[6], walk_mm, ease_mm


@dataclass(frozen=True)
class RouteCandidate:
    """A way found: its corner points with both ends (n + 2, 3), its cost, the least it keeps over what is needed."""

    points: Vector
    radii: Vector
    cost: float
    spare_mm: float

    @property
    def bends(self) -> int:
        return len(self.points) - 2

    @cached_property
    def evenly(self) -> Vector:
        """Points along it at equal shares of its length, (40, 3)."""
        return at_equal_shares(self.points)

    @property
    def lacks_mm(self) -> float:
        """By how much it does not go: too near, or where it does not fit, by that."""
        return -self.spare_mm if self.spare_mm > -MISFITS_BELOW else -self.spare_mm - MISFITS_BELOW


def task_of(
    start: Pose,
    end: Pose,
    od_mm: float,
    ways: BendOptions,
    around: Around,
    *,
    most_deg: float = 90.0,
    seed: int = 0,
    vias: Vector = NO_VIAS,
) -> Task:
    """A task among things as they stand in every position."""
    more = od_mm / 2 + EXTRA_MM
    scans = [(o.mesh, needed) for o, needed in zip(around.obstacles, around.needed, strict=True) if o.mesh is not None]
    keep = np.concatenate([around.needed[around.owner], [needed for _, needed in scans]]) + more
    return Task(
        start,
        end,
        od_mm,
        ways,
        np.ascontiguousarray(around.rows),
        keep,
        tuple(s for s, _ in scans),
        most_deg,
        vias,
        seed,
    )


def judged(task: Task, points: Vector, radii: Vector, ease_mm: float = USED_UP_MM) -> RouteCandidate:
    """A line through corner points with what it costs and keeps, being so much too near let pass [mm]; one that does
    not fit has a spare far below 0.
    """
    radii = np.ascontiguousarray(radii, dtype=float)
    asked = task.asked(JUDGED_WALK_MM, ease_mm, room=0.0)
    cost, spare, misfit = way_cost(np.ascontiguousarray(points), radii, asked, 1e18)
    return RouteCandidate(
        points, radii, float(cost), float(spare) if misfit < FITS_MM else -float(misfit) - MISFITS_BELOW
    )


def distinct(found: Sequence[RouteCandidate], apart_mm: float = 60.0) -> list[RouteCandidate]:
    """Ways that go, without near copies: each further than this from every better one somewhere along."""
    kept: list[RouteCandidate] = []
    for way in found:
        if way.spare_mm >= 0 and all(apart(way, other) > apart_mm for other in kept):
            kept.append(way)
    return kept


def at_equal_shares(points: Vector) -> Vector:
    """Points along a line (n, 3) at equal shares of its length, (40, 3)."""
    along = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    at = np.linspace(0.0, along[-1], 40)
    return np.column_stack([np.interp(at, along, points[:, k]) for k in range(3)])


def apart(a: RouteCandidate, b: RouteCandidate) -> float:
    """How far two ways are from each other where they are furthest, at the same share of their length [mm]."""
    return float(np.linalg.norm(a.evenly - b.evenly, axis=1).max())
