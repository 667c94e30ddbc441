"""What is under the vehicle: things, how they move, the low line, where one can hang from."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ..units import Length
from .base import MOST_ITEMS, Degrees, Direction, Id, Name, NotNegative, Point, Positive, Record, unique_ids
from .shapes import Shape

Nature = Literal["hard", "heat-shy", "soft"]
State = Literal["as found", "on order", "missing", "removed for now"]


class Thing(Record):
    """Something under the vehicle that the pipe has to keep away from."""

    id: Id
    name: Name
    nature: Nature = "hard"
    heat_shy_what: Name = ""
    moves_with: Id = "body"
    state: State = "as found"
    shape: Shape
    needed_gap_mm: NotNegative | None = Field(None, description="own value; none means by the shop's rule")
    plus_minus_mm: NotNegative = Length(0.0)
    how_measured: Name = ""


class Turn(Record):
    """A turn about an axis through a point, right-handed about the axis."""

    about: Point
    axis: Direction
    deg: Degrees


class GroupState(Record):
    """One named position a group can be in, relative to how it was surveyed."""

    name: Name
    shift: Point = (Length(0.0), Length(0.0), Length(0.0))
    turn: Turn | None = None


class Group(Record):
    """Things that move together; `body` is implied and never moves."""

    id: Id
    name: Name = ""
    states: Annotated[tuple[GroupState, ...], Field(min_length=1, max_length=12)]


class Window(Record):
    """An opening a run must pass: middle, axis through it and free size."""

    id: Id
    name: Name
    center: Point
    axis: Direction
    width_mm: Positive
    height_mm: Positive


class HangPoint(Record):
    id: Id
    name: Name
    point: Point
    kind: Name = "rubber"


class OldPart(Record):
    """A part found on the vehicle that is worth reusing."""

    id: Id
    name: Name
    condition: Name = ""


class LowLine(Record):
    """The line nothing may hang below; n points to the free side."""

    n: Direction = (0.0, 0.0, 1.0)
    d: Length


class Rails(Record):
    """Inner edges of the frame rails (or sills), as Y, to tape from."""

    left_y_mm: Length
    right_y_mm: Length


class Stance(Record):
    """How the vehicle stood when it was measured."""

    on: Literal["lift", "wheels"] = "lift"
    suspension: Literal["droop", "ride"] = "droop"
    rail_pitch_deg: Degrees = 0.0
    rail_roll_deg: Degrees = 0.0


class Survey(Record):
    """What is under the vehicle."""

    things: Annotated[tuple[Thing, ...], Field(max_length=MOST_ITEMS)] = ()
    groups: Annotated[tuple[Group, ...], Field(max_length=40)] = ()
    windows: Annotated[tuple[Window, ...], Field(max_length=40)] = ()
    low_line: LowLine | None = None
    hang_points: Annotated[tuple[HangPoint, ...], Field(max_length=MOST_ITEMS)] = ()
    old_parts: Annotated[tuple[OldPart, ...], Field(max_length=MOST_ITEMS)] = ()
    rails: Rails | None = None
    stance: Stance = Stance()

    @model_validator(mode="after")
    def _ids(self) -> Self:
        unique_ids("thing", [t.id for t in self.things])
        unique_ids("group", [g.id for g in self.groups])
        known = {g.id for g in self.groups} | {"body"}
        for thing in self.things:
            if thing.moves_with not in known:
                raise ValueError(f"{thing.name} moves with “{thing.moves_with}”, which is not a group of this survey")
        return self

    def group(self, group_id: str) -> Group | None:
        return next((g for g in self.groups if g.id == group_id), None)
