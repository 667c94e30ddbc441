"""A place of a part as a record."""

from __future__ import annotations

from collections.abc import Sequence

from ..records import Placed
from ..space import Vector, unit
from ..units import Length

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
