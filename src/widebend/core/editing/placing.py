"""Placing hardware: at a place, on a port, nudged, turned, snapped, joined up; what stands locked is left alone."""

from __future__ import annotations

import math

import numpy as np

from ...facts import Metal
from ..errors import EditError
from ..laying import PlacedPort, joins, system_of
from ..records import Design, Item, MovesWith, Part, Placed, Run, Tap, Tube
from ..records.hardware import Surface
from ..space import Pose, Vector, unit
from ..units import Length
from .mirroring import mirrored_placed
from .standing import moved_along, placed_at, standing


def add_part(design: Design, item: Item, name: str, placed: Placed | None) -> tuple[Design, str]:
    """The design with a new part; its id."""
    taken = {p.id for p in design.parts}
    part_id = next(f"{item.kind}-{n}" for n in range(1, 1000) if f"{item.kind}-{n}" not in taken)
    part = Part(id=part_id, name=name or item.name or item.kind, item=item, placed=placed)
    return design.replace(parts=(*design.parts, part)).validated(), part_id


def on_port(design: Design, item: Item, port_name: str) -> Placed:
    """Where an item stands when its inlet meets a port, reference to reference. Raises EditError."""
    target = _port(design, port_name)
    inlet = next((p for p in item.ports if p.role != "out"), None)
    if inlet is None:
        raise EditError("that has no inlet to set onto a port")
    # the inlet looks against the gas: its outward direction meets the target's, its reference the target's own
    return standing(item, inlet, Pose(target.pose.point, -target.pose.flow, target.pose.reference))


def _port(design: Design, name: str) -> PlacedPort:
    found = next((p for p in system_of(design).ports if p.name == name), None)
    if found is None:
        raise EditError("that port has no place yet", "onto")
    return found


def put_at(design: Design, part_id: str, placed: Placed) -> Design:
    """A part at a place of its own, whether it had one or not. Raises EditError for one that is locked."""
    return _placed(design, _unlocked_part(design, part_id), placed)


def moved_part(design: Design, part_id: str, by: Vector) -> Design:
    """A part moved by (3,) [mm]. Raises EditError for one that is locked or carried."""
    part, placed = _free_part(design, part_id)
    point = tuple(Length(round(float(c + d), 6)) for c, d in zip(placed.point, by, strict=True))
    return _placed(design, part, placed.replace(point=point))


def turned_part(design: Design, part_id: str, *, heading: float = 0.0, slope: float = 0.0, roll: float = 0.0) -> Design:
    """A part turned about its origin: heading to the right, slope up, roll clockwise seen against the flow [deg]."""
    part, placed = _free_part(design, part_id)
    at = placed.pose()
    right = np.cross([0.0, 0.0, 1.0], at.flow)
    level = unit(right) if np.linalg.norm(right) > 1e-6 else at.across
    flow, up = at.flow, at.side(roll)
    for axis, deg in ((level, -slope), (np.array([0.0, 0.0, 1.0]), heading)):
        flow, up = _about(axis, deg, flow), _about(axis, deg, up)
    return _placed(design, part, placed_at(at.point, flow, up))


def _about(axis: Vector, deg: float, way: Vector) -> Vector:
    """Rodrigues' turn of a direction about a unit axis."""
    t = math.radians(deg)
    turned = way * math.cos(t) + np.cross(axis, way) * math.sin(t) + axis * float(axis @ way) * (1 - math.cos(t))
    return np.asarray(turned)


def levelled(design: Design, part_id: str) -> Design:
    """A part made level, its heading kept. Raises EditError for one that stands plumb."""
    part, placed = _free_part(design, part_id)
    at = placed.pose()
    if abs(at.flow[2]) > 0.985:
        raise EditError("it stands plumb: turn it first")
    return _placed(design, part, placed_at(at.point, (at.flow[0], at.flow[1], 0.0), (0, 0, 1)))


def squared(design: Design, part_id: str) -> Design:
    """A part square to the rail: along the vehicle or across it, whichever is nearer; its slope kept."""
    part, placed = _free_part(design, part_id)
    at = placed.pose()
    flat = math.hypot(at.flow[0], at.flow[1])
    if flat < 0.17:
        raise EditError("it stands plumb: turn it first")
    along = abs(at.flow[0]) >= abs(at.flow[1])
    x, y = (math.copysign(flat, at.flow[0]), 0.0) if along else (0.0, math.copysign(flat, at.flow[1]))
    return _placed(design, part, placed_at(at.point, (x, y, at.flow[2])))


def as_high_as(design: Design, part_id: str, other_id: str) -> Design:
    """A part raised or lowered until its origin is as high as another's. Raises EditError."""
    (_, placed), other = _free_part(design, part_id), design.part(other_id)
    if other is None or other.placed is None:
        raise EditError("that part has no place of its own to go by", "as_high")
    return moved_part(design, part_id, np.array([0.0, 0.0, float(other.placed.point[2] - placed.point[2])]))


def snapped_part(design: Design, part_id: str, to: str) -> tuple[Design, str]:
    """A part set to something: "centre", "left-rail", "right-rail", "hang:ID", "port:PART.PORT" or "mirror:PART".

    Sideways onto a line; under a hang point; in line with a port, facing it, as far off as it is; or where the mirror
    image of another part is. Gives the words for it too. Raises EditError.
    """
    part, placed = _free_part(design, part_id)
    kind, _, name = to.partition(":")
    lines = {"centre": (0.0, "the centre line")}
    if design.survey.rails:
        rails = design.survey.rails
        lines |= {
            "left-rail": (float(rails.left_y_mm), "the left rail"),
            "right-rail": (float(rails.right_y_mm), "the right rail"),
        }
    if kind in lines:
        y, words = lines[kind]
        return moved_part(design, part_id, np.array([0.0, y - float(placed.point[1]), 0.0])), f"on {words}"
    if kind == "hang":
        point = next((h for h in design.survey.hang_points if h.id == name), None)
        if point is None:
            raise EditError("that hang point is no longer on the vehicle", "to")
        off = np.asarray(point.point, dtype=float) - np.asarray(placed.point, dtype=float)
        return moved_part(design, part_id, off * [1.0, 1.0, 0.0]), f"under the {point.name}"
    if kind == "port":
        return _in_line(design, part, placed, name), "in line with that port"
    other = design.part(name)
    if kind != "mirror" or other is None or other.placed is None:
        raise EditError("choose what to set it to", "to")
    return _placed(design, part, mirrored_placed(other.placed, 0.0)), f"opposite the {other.name or other.item.kind}"


def _in_line(design: Design, part: Part, placed: Placed, port_name: str) -> Design:
    target = _port(design, port_name)
    facing = on_port(design, part.item, port_name)
    off = np.asarray(placed.point, dtype=float) - np.asarray(facing.point, dtype=float)
    ahead = max(0.0, float(off @ target.pose.flow))
    point = np.asarray(facing.point, dtype=float) + ahead * target.pose.flow
    return _placed(design, part, placed_at(point, facing.axis, facing.reference))


def made_of(
    design: Design,
    part_id: str,
    *,
    metal: Metal | None,
    surface: Surface,
    wall_mm: float | None,
    mass_kg: float | None,
    kept: bool = False,
) -> Design:
    """A part with what it is made of, and whether it is `kept`. Raises EditError for one that is gone."""
    wall = None if wall_mm is None else Length(wall_mm)
    item = _known(design, part_id).item
    update = {"metal": metal, "surface": surface, "wall_mm": wall, "mass_kg": mass_kg}
    return _changed(design, part_id, item=item.replace(**update), kept=kept).validated()


def moved_with(design: Design, part_id: str, moves: MovesWith) -> Design:
    """A part with what it moves with. Raises EditError for one that is gone."""
    return _changed(design, part_id, moves=moves)


def locked_part(design: Design, part_id: str, *, locked: bool) -> Design:
    """A part locked where it stands, or free again."""
    return _changed(design, part_id, locked=locked)


def _known(design: Design, part_id: str) -> Part:
    part = design.part(part_id)
    if part is None:
        raise EditError("that part is no longer here")
    return part


def _changed(design: Design, part_id: str, **update: object) -> Design:
    """A part with some of its fields changed. Raises EditError for one that is gone."""
    changed = _known(design, part_id).replace(**update)
    return design.replace(parts=tuple(changed if p.id == part_id else p for p in design.parts))


def without_part(design: Design, part_id: str) -> Design:
    """The design without a part. Raises EditError for one that a run starts from, aims for or carries."""
    _known(design, part_id)
    for run in design.runs:
        ends = [str(e).partition(".")[0] for e in (run.start, run.aim) if isinstance(e, str)]
        if part_id in ends or any(getattr(p, "part", None) == part_id for p in run.pieces):
            raise EditError(f"{run.name or run.id} is joined to it: take that run out first")
    return design.replace(
        parts=tuple(p for p in design.parts if p.id != part_id),
        hangers=tuple(h for h in design.hangers if h.part != part_id),
        covers=tuple(c for c in design.covers if c.part != part_id),
    ).validated()


def joined(design: Design, start: str, aim: str, tube: Tube, name: str = "") -> tuple[Design, str]:
    """The design with a new run from one port to another, with no pipe yet; the run's id. Raises EditError.

    Gas leaves by an outlet and enters by an inlet; a port takes one run.
    """
    first = _port(design, start)
    if first.name in joins(design, system_of(design)):
        raise EditError(f"the {first.part.name} has something on its {first.port.id} already", "from")
    last = joined_at(design, aim)
    if first.part.id == last.part.id:
        raise EditError("both ports are of the same part: choose another to go to", "to")
    if first.port.role == "in":
        raise EditError("gas does not leave by an inlet: choose an outlet to start from", "from")
    known = {r.id for r in design.runs}
    run_id = next(f"r{n}" for n in range(1, 1000) if f"r{n}" not in known)
    run = Run(id=run_id, name=name or f"{first.part.name} to {last.part.name}"[:80], start=start, aim=aim, tube=tube)
    return design.replace(runs=(*design.runs, run)).validated(), run_id


def joined_at(design: Design, aim: str) -> PlacedPort:
    """The port a new run goes to. Raises EditError for an outlet, or one that has something on it."""
    last = _port(design, aim)
    if last.port.role == "out":
        raise EditError("gas does not enter by an outlet: choose an inlet to go to", "to")
    if last.name in joins(design, system_of(design)):
        raise EditError(f"the {last.part.name} has something on its {last.port.id} already", "to")
    return last


def without_run(design: Design, run_id: str) -> Design:
    """The design without a run and what sat on it; parts that it carried stay in the list without a place. Raises
    EditError.
    """
    if design.run(run_id) is None:
        raise EditError("that run is no longer here")
    branch = next((r for r in design.runs if isinstance(r.start, Tap) and r.start.run == run_id), None)
    if branch is not None:
        raise EditError(f"{branch.name or branch.id} branches off this run: take that out first")
    runs = tuple(r.replace(twin_of=None) if r.twin_of == run_id else r for r in design.runs if r.id != run_id)
    return design.replace(
        covers=tuple(c for c in design.covers if c.run != run_id),
        runs=runs,
        attachments=tuple(a for a in design.attachments if a.run != run_id),
        hangers=tuple(h for h in design.hangers if h.run != run_id),
        fitted=tuple(f for f in design.fitted if f.run != run_id),
    ).validated()


def _free_part(design: Design, part_id: str) -> tuple[Part, Placed]:
    """A part that may be moved, and its place. Raises EditError."""
    part = _unlocked_part(design, part_id)
    if part.placed is None:
        raise EditError("a run carries that part: move it along the run on the Route step")
    return part, part.placed


def _unlocked_part(design: Design, part_id: str) -> Part:
    part = design.part(part_id)
    if part is None:
        raise EditError("that part is no longer here")
    if part.locked:
        raise EditError(f"{part.name or part.item.kind} is locked where it stands: unlock it first")
    return part


def _placed(design: Design, part: Part, placed: Placed) -> Design:
    return moved_along(design, part, part.replace(placed=placed)).validated()
