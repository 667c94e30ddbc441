"""Where a part stands: as a record, by one of its ports, and with it what stands on its outlets."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..laying import port_pose
from ..records import Design, Item, Part, Placed, Port
from ..space import Pose, Vector, pose, unit
from ..units import Length

FACE_MM = 0.05  # ports nearer than this stand face to face

Coordinates = Sequence[float] | Vector


def placed_at(point: Coordinates, flow: Coordinates, reference: Coordinates | None = None) -> Placed:
    """A place as a record; directions are rounded so that a level part stays level."""
    x, y, z = (Length(round(float(c), 6)) for c in point)
    way = unit(flow)
    up = None if reference is None else _direction(unit(reference))
    return Placed(point=(x, y, z), axis=_direction(way), reference=up)


def _direction(way: Vector) -> tuple[float, float, float]:
    x, y, z = (round(float(c), 12) + 0.0 for c in way)
    return x, y, z


def standing(item: Item, port: Port, want: Pose) -> Placed:
    """Where an item stands when one of its ports has the pose wanted, looking outward."""
    origin = pose((0, 0, 0), (1, 0, 0), (0, 0, 1))
    here = port_pose(Part(id="x", item=item), origin, port)
    turn = want.matrix()[:, :3] @ here.matrix()[:, :3].T
    return placed_at(want.point - turn @ here.point, turn @ [1.0, 0.0, 0.0], turn @ [0.0, 0.0, 1.0])


def moved_along(design: Design, part: Part, new: Part) -> Design:
    """The design with a part as it is `new` (elsewhere, or another item), and what stood face to face on its outlets
    moved along, one behind the other, unless locked.
    """
    changed = design.replace(parts=tuple(new if p.id == part.id else p for p in design.parts))
    if not part.placed or not new.placed:
        return changed
    for port in (p for p in part.item.ports if p.role == "out"):
        there = new.port(port.id)
        old = port_pose(part, part.placed.pose(), port)
        for other in changed.parts:
            inlet = next((p for p in other.item.ports if p.role == "in"), None)
            if other.id == new.id or not other.placed or inlet is None or other.locked or there is None:
                continue
            at = port_pose(other, other.placed.pose(), inlet)
            if float(np.linalg.norm(at.point - old.point)) > FACE_MM or float(at.flow @ old.flow) > -0.999:
                continue
            now = port_pose(new, new.placed.pose(), there)
            turn = now.matrix()[:, :3] @ old.matrix()[:, :3].T
            meets = Pose(now.point, -now.flow, turn @ at.reference)
            moved = other.replace(placed=standing(other.item, inlet, meets))
            changed = moved_along(changed, other, moved)
    return changed
