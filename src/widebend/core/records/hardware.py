"""Parts: hardware with ports and bodies, placed or in line."""

from __future__ import annotations

from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from ...facts import Metal, PartKind
from ..space import Pose, pose, unit
from .base import Direction, Id, Name, NotNegative, Point, Positive, Record

Surface = Literal["bare", "coated", "rusted"]


class Port(Record):
    """An opening of a part, in the part's own frame: X along the part, Z its up, Y = Z x X."""

    id: Id
    role: Literal["in", "out", "either"] = "either"
    point: Point
    axis: Direction = Field(description="outward")
    reference: Direction
    od_mm: Positive


class Body(Record):
    """A straight body with a rounded-rectangle section and flat ends, in the part's own frame, along X unless `axis`.

    `width_mm` and `height_mm` are overall; `corner_mm` rounds the section: half the height makes an oval, half of
    both a round can. A body along another axis keeps its height as near to the part's Z as it goes.
    """

    start: Point
    length_mm: Positive
    width_mm: Positive
    height_mm: Positive
    corner_mm: NotNegative
    axis: Direction | None = None


class Slices(Record):
    """The slices of a pack: this many whole wedges, each turning the same, on a centre-line radius."""

    count: Annotated[int, Field(ge=1, le=60)]
    turn_each_deg: Annotated[float, Field(gt=0, le=45)]
    clr_mm: Positive


class Sliced(Record):
    """A crossover made here of two stock bends, sliced lengthwise and welded along `seam_mm`."""

    angle_deg: Annotated[float, Field(gt=0, le=180)]
    clr_mm: Positive
    seam_mm: Positive


class BenchLoss(Record):
    """A part's measured loss: pressure [Pa] at a flow [kg/s] of air at a temperature [C]."""

    pa: Annotated[float, Field(gt=0, le=2e5)]
    kg_s: Annotated[float, Field(gt=0, le=5)]
    air_c: Annotated[float, Field(ge=-20, le=60)] = 20.0
    by: Name = Field("", description="whose figure it is")


Inside = Literal["", "straight through", "chambered", "three passes"]


class Item(Record):
    """Catalogue data of a part, embedded so that a design file stands alone."""

    kind: PartKind
    name: Name = ""
    mass_kg: Annotated[float, Field(ge=0, le=200)] | None = None
    metal: Metal | None = Field(None, description="none: the same as the pipe it meets")
    wall_mm: Positive | None = Field(None, description="wall where it is welded; none: not known")
    surface: Surface = "bare"
    side: Literal["", "male ahead", "female ahead"] = Field("", description="which half of a V-band is ahead")
    cells: Annotated[int, Field(ge=25, le=1200)] | None = Field(None, description="a catalyst's cells per square inch")
    slices: Slices | None = Field(None, description="what a pack of slices is made of")
    sliced: Sliced | None = Field(None, description="of which bends a crossover is made here")
    inside: Inside = Field("", description="how a can is made inside; not said: straight through")
    packed: bool = Field(True, description="a straight-through can holds packing round its perforated tube")
    measured: BenchLoss | None = Field(None, description="its loss as somebody measured it")
    ports: Annotated[tuple[Port, ...], Field(min_length=1, max_length=12)]
    bodies: Annotated[tuple[Body, ...], Field(max_length=40)] = ()


class Placed(Record):
    """A pose in the vehicle: the part's X along `axis`, its Z along `reference`."""

    point: Point
    axis: Direction
    reference: Direction | None = None

    def pose(self) -> Pose:
        return pose(self.point, self.axis, self.reference)

    @model_validator(mode="after")
    def _has_direction(self) -> Self:
        if self.reference is not None and np.linalg.norm(np.cross(unit(self.axis), unit(self.reference))) < 1e-6:
            raise ValueError("the reference runs along the part: give one square to it")
        return self


MovesWith = Literal["worked out", "engine", "hung", "body"]


class Part(Record):
    """Hardware: placed by itself, or in line when a run carries it."""

    id: Id
    name: Name = ""
    item: Item
    placed: Placed | None = None
    locked: bool = False
    kept: bool = Field(False, description="there already, the customer's own: it is not bought")
    moves: MovesWith = Field(
        "worked out", description="what it moves with; worked out: ahead of the flex with the engine, behind it hung"
    )

    def port(self, port_id: str) -> Port | None:
        return next((p for p in self.item.ports if p.id == port_id), None)
