"""The shapes a thing under the vehicle can have."""

from __future__ import annotations

from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from ..frame import unit
from ..units import Length
from .base import Degrees, Direction, Point, Positive, Record


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

    @model_validator(mode="after")
    def _has_direction(self) -> Self:
        unit(self.n)
        return self


Shape = Annotated[Box | Cylinder | Capsule | Sphere | HalfSpace, Field(discriminator="type")]
