"""The shapes a thing under the vehicle can have."""

from __future__ import annotations

from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator
from shapely import Polygon

from ..space import unit
from ..units import Length
from .base import Degrees, Direction, Point, Positive, Record

Outline = Annotated[tuple[tuple[Length, Length], ...], Field(min_length=3, max_length=120)]


class Box(Record):
    """A box by centre, edge lengths and roll, pitch, yaw about fixed axes."""

    type: Literal["box"] = "box"
    center: Point
    size: tuple[Positive, Positive, Positive]
    rpy_deg: tuple[Degrees, Degrees, Degrees] = (0.0, 0.0, 0.0)


class Cylinder(Record):
    """A flat-ended cylinder from the middle of one face to the middle of the other."""

    type: Literal["cylinder"] = "cylinder"
    a: Point
    b: Point
    radius: Positive

    @model_validator(mode="after")
    def _has_length(self) -> Self:
        if np.allclose(self.a, self.b, atol=1e-6):
            raise ValueError("both ends are at the same place: give the cylinder a length, or use a sphere")
        return self


class Capsule(Record):
    """A round-ended bar: everything within `radius` of the line from a to b."""

    type: Literal["capsule"] = "capsule"
    a: Point
    b: Point
    radius: Positive


class Sphere(Record):
    type: Literal["sphere"] = "sphere"
    center: Point
    radius: Positive


class HalfSpace(Record):
    """Everything with n . x < d is solid; n points to the free side and need not be one long."""

    type: Literal["half-space"] = "half-space"
    n: Direction
    d: Length


def whole_outline(outline: Outline, axis: Direction, reference: Direction) -> Polygon:
    """An outline as a polygon. Raises ValueError when it is none, or when its up runs along its axis."""
    if np.linalg.norm(np.cross(unit(axis), unit(reference))) < 1e-6:
        raise ValueError("the outline's up runs along its axis: give one square to it")
    whole = Polygon(outline)
    if not whole.is_valid or whole.area < 1.0:
        raise ValueError("the outline crosses itself or holds nothing: enter its corners in order, going round")
    return whole


class Extrusion(Record):
    """A flat outline moved straight along its axis.

    Outline points are (across, up): `reference` is up in the outline's plane, across = reference x axis, as a clock
    is read looking against the axis. Holes are openings right through.
    """

    type: Literal["extrusion"] = "extrusion"
    origin: Point
    axis: Direction
    reference: Direction
    depth: Positive
    outline: Outline
    holes: Annotated[tuple[Outline, ...], Field(max_length=12)] = ()

    @model_validator(mode="after")
    def _is_an_outline(self) -> Self:
        whole = whole_outline(self.outline, self.axis, self.reference)
        for i, hole in enumerate(self.holes):
            opening = Polygon(hole)
            if not opening.is_valid or not whole.contains(opening):
                raise ValueError(f"opening {i + 1} crosses itself or does not lie inside the outline")
        return self


class MeshShape(Record):
    """A scanned or printed shape: triangles kept once under the hash of their content, turned and set down here."""

    type: Literal["mesh"] = "mesh"
    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    shift: Point = (Length(0.0), Length(0.0), Length(0.0))
    rpy_deg: tuple[Degrees, Degrees, Degrees] = (0.0, 0.0, 0.0)
    low: Point = Field(description="lowest corner of the box around the triangles as kept, before it is set down")
    high: Point
    triangles: Annotated[int, Field(ge=1, le=500_000)]
    closed: bool = Field(False, description="its triangles bound an inside; otherwise only its skin counts")


Shape = Annotated[Box | Cylinder | Capsule | Sphere | HalfSpace | Extrusion | MeshShape, Field(discriminator="type")]
