"""Obstacles: the things of a survey as solids, in every position of their group."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import InputError
from ..geometry import motion_of, moved_solids, rotation_from_rpy, solid_rows
from ..records import Box, Extrusion, HalfSpace, LowLine, MeshShape, Rules, Shape, Survey, Thing, Window
from ..space import TriangleMesh, Vector, biggest_round, pose, unit
from .motion import positions
from .sweeps import Sweeps, sweeps_between

LOW_LINES = {"low-line": "low line", "lowered-line": "low line when lowered"}
View = Literal["now", "coming", "everything"]
# which states are used: as it stands; with what is on order; with what is missing or was taken off as well
VIEWS: dict[str, tuple[str, ...]] = {
    "now": ("as found",),
    "coming": ("as found", "on order"),
    "everything": ("as found", "on order", "missing", "removed for now"),
}
HEAT_RULES = {
    "fuel line": "fuel_line_gap_mm",
    "fuel tank": "fuel_tank_gap_mm",
    "brake hose": "brake_hose_gap_mm",
    "wiring": "wiring_gap_mm",
    "rubber boot": "rubber_boot_gap_mm",
    "plastic": "plastic_gap_mm",
}
MOVING_RULES = {
    "engine": "engine_gap_mm",
    "rear-axle": "axle_gap_mm",
    "front-axle": "axle_gap_mm",
    "driveline": "driveline_gap_mm",
    "steering": "steering_gap_mm",
}


@dataclass(frozen=True)
class PlacedMesh:
    """A mesh set down: a point p of its own frame is at turn p + shift."""

    mesh: TriangleMesh
    turn: Vector
    shift: Vector


@dataclass(frozen=True)
class Travel:
    """A thing's shape and travel: its solids (k, WIDTH) or mesh as they were measured, the names of its group's
    positions, and the ways between them.
    """

    solids: Vector
    mesh: PlacedMesh | None
    states: tuple[str, ...]
    sweeps: Sweeps


@dataclass(frozen=True)
class Obstacle:
    """One thing in one named position of its group: convex solids (k, WIDTH) or a mesh; `travel` where its group has
    other positions too.
    """

    thing: Thing
    state: str
    solids: Vector
    needed_mm: float
    mesh: PlacedMesh | None = None
    travel: Travel | None = None

    @property
    def plus_minus_mm(self) -> float:
        return float(self.thing.plus_minus_mm)

    @property
    def is_low_line(self) -> bool:
        return self.thing.id in LOW_LINES


def gap_rule(thing: Thing) -> str:
    """Which of the shop's rules gives a thing's needed gap: heat first, then what it is or moves with."""
    if thing.nature == "heat-shy":
        return HEAT_RULES.get(thing.heat_shy_what, "heat_shy_gap_mm")
    if thing.nature == "soft":
        return "soft_gap_mm"
    return "hard_gap_mm" if thing.moves_with == "body" else MOVING_RULES.get(thing.moves_with, "moving_gap_mm")


def needed_gap(thing: Thing, rules: Rules) -> float:
    """The gap a thing wants [mm]: its own value, or the shop's rule for what it is and what it moves with."""
    return float(getattr(rules, gap_rule(thing)) if thing.needed_gap_mm is None else thing.needed_gap_mm)


def obstacles(survey: Survey, rules: Rules, view: View = "coming") -> list[Obstacle]:
    """Every thing used in a view, in every position of its group, and the low lines last."""
    moved = {group.id: [_Moved(s.name, *motion_of(s)) for s in positions(group, survey)] for group in survey.groups}
    ways = {group: sweeps_between([(to.turn, to.shift) for to in at]) for group, at in moved.items() if len(at) > 1}
    out: list[Obstacle] = []
    for thing in survey.things:
        if thing.state in VIEWS[view]:
            at, way = moved.get(thing.moves_with, AT_REST), ways.get(thing.moves_with)
            out += _in_positions(thing, at, way, needed_gap(thing, rules), survey)
    return out + [_low_line(i, line, rules) for i, line in zip(LOW_LINES, _lines(survey), strict=True) if line]


def _lines(survey: Survey) -> Sequence[LowLine | None]:
    return survey.low_line, survey.lowered_line


def _low_line(line_id: str, line: LowLine, rules: Rules) -> Obstacle:
    shape = HalfSpace(n=line.n, d=line.d)
    thing = Thing(id=line_id, name=LOW_LINES[line_id], shape=shape)
    return Obstacle(thing, "", solid_rows(shape), float(rules.low_line_gap_mm))


@dataclass(frozen=True)
class _Moved:
    """A position of a group: x -> turn x + shift."""

    name: str
    turn: Vector
    shift: Vector


AT_REST = [_Moved("", np.eye(3), np.zeros(3))]


def _in_positions(
    thing: Thing, moved: Sequence[_Moved], ways: Sweeps | None, needed: float, survey: Survey
) -> Iterator[Obstacle]:
    shape, _ = opened(thing, survey)
    solids, mesh = solid_rows(shape), None
    known = survey.mesh(shape.sha256) if isinstance(shape, MeshShape) else None
    if isinstance(shape, MeshShape) and known is not None:
        mesh = PlacedMesh(known, rotation_from_rpy(shape.rpy_deg), np.asarray(shape.shift, dtype=float))
    travel = Travel(solids, mesh, tuple(to.name for to in moved), ways) if ways else None
    for to in moved:
        there = mesh and PlacedMesh(mesh.mesh, to.turn @ mesh.turn, to.turn @ mesh.shift + to.shift)
        yield Obstacle(thing, to.name, moved_solids(solids, to.turn, to.shift), needed, there, travel)


def opened(thing: Thing, survey: Survey) -> tuple[Shape, str]:
    """A thing's shape with its windows cut out of it, and why one could not be: then the thing stays whole."""
    shape = thing.shape
    try:
        for window in survey.windows:
            if window.through == thing.id:
                shape = _cut(shape, window)
    except InputError as exc:
        return thing.shape, str(exc)
    return shape, ""


def _cut(shape: Shape, window: Window) -> Shape:
    way = unit(window.axis)
    if isinstance(shape, Box):
        shape = _as_extrusion(shape, way)
    if not isinstance(shape, Extrusion) or abs(float(unit(shape.axis) @ way)) < 1 - 1e-6:
        raise InputError(
            f"the window {window.name} must go square through a box, or along an outline's own depth, to be cut out"
        )
    hole = tuple(_in_plane(shape, point) for point in window_corners(window))
    try:
        return Extrusion.model_validate(shape.model_dump() | {"holes": [*shape.holes, hole]})
    except ValueError as exc:
        raise InputError(f"the window {window.name} does not lie inside the thing it goes through") from exc


def window_corners(window: Window) -> Vector:
    """The corners of a window's outline in its middle plane, (n, 3)."""
    at = pose(window.center, window.axis, window.reference)
    flat = np.asarray(window.outline, dtype=float)
    return np.asarray(at.point + flat[:, :1] * at.across + flat[:, 1:] * at.reference)


def biggest_tube(window: Window, rules: Rules) -> float:
    """OD [mm] of the biggest tube that passes a window straight with its gap and the doubt of its place; 0 for none."""
    gap = rules.hard_gap_mm if window.needed_gap_mm is None else window.needed_gap_mm
    return biggest_round(window.outline, float(gap + window.plus_minus_mm))[0]


def _as_extrusion(box: Box, way: Vector) -> Extrusion | Box:
    """The same box as an outline moved along the axis nearest to `way`; a box that stands askew stays one."""
    axes = rotation_from_rpy(box.rpy_deg).T
    k = int(np.argmax(np.abs(axes @ way)))
    if abs(float(axes[k] @ way)) < 1 - 1e-6:
        return box
    axis, up = axes[k], axes[(k + 2) % 3]
    size = np.asarray(box.size, dtype=float)
    w, h = size[(k + 1) % 3] / 2, size[(k + 2) % 3] / 2
    origin = np.asarray(box.center, dtype=float) - axis * size[k] / 2
    return Extrusion.model_validate(
        {
            "origin": tuple(origin),
            "axis": tuple(axis),
            "reference": tuple(up),
            "depth": float(size[k]),
            "outline": ((-w, -h), (w, -h), (w, h), (-w, h)),
        }
    )


def _in_plane(shape: Extrusion, point: Vector) -> tuple[float, float]:
    at = pose(shape.origin, shape.axis, shape.reference)
    off = point - at.point
    return float(off @ at.across), float(off @ at.reference)
