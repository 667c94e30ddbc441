"""The survey: things, how they move, the low line, where one can hang from."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self

import numpy as np
from pydantic import Field, PrivateAttr, model_validator

from ..space import arm_turn_deg, unit
from ..units import Length
from .base import MOST_ITEMS, Degrees, Direction, Id, Name, NotNegative, Point, Record, unique_ids
from .shapes import Outline, Shape, whole_outline

if TYPE_CHECKING:
    from ..space import TriangleMesh

Nature = Literal["hard", "heat-shy", "soft"]
State = Literal["as found", "on order", "missing", "removed for now"]
HeatShy = Literal["", "fuel line", "fuel tank", "brake hose", "wiring", "rubber boot", "plastic", "other"]


class Thing(Record):
    """Something under the vehicle that the pipe has to keep away from."""

    id: Id
    name: Name
    nature: Nature = "hard"
    heat_shy_what: HeatShy = ""
    moves_with: Id = "body"
    state: State = "as found"
    shape: Shape
    needed_gap_mm: NotNegative | None = Field(None, description="own value; none means by the shop's rule")
    plus_minus_mm: NotNegative = Length(0.0)
    how_measured: Name = ""
    shielded: bool = Field(False, description="a bright sheet stands between it and the pipe")


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


class Pivot(Record):
    """An arm's pivot: a point of its axis, the axis, and the wheel centre (hub) as surveyed."""

    about: Point
    axis: Direction
    hub: Point


class AxleTravel(Record):
    """How far a wheel centre goes below and above ride; straight up and down, or on arms about a pivot."""

    kind: Literal["axle"] = "axle"
    droop_mm: NotNegative
    bump_mm: NotNegative
    pivot: Pivot | None = None


class Rock(Record):
    """Engine or gearbox rocking on its mounts: the same angle each way about an axis."""

    kind: Literal["rock"] = "rock"
    about: Point
    axis: Direction
    deg: Annotated[float, Field(gt=0, le=30, allow_inf_nan=False)]


class ShaftSweep(Record):
    """A propshaft: it turns about its front joint as its rear joint goes with an axle's group."""

    kind: Literal["shaft"] = "shaft"
    front: Point
    rear: Point
    follows: Id


class Steer(Record):
    """Steering, lock to lock: a turn each way about an axis, or a slide to each side."""

    kind: Literal["steer"] = "steer"
    about: Point = (Length(0.0), Length(0.0), Length(0.0))
    axis: Direction = (0.0, 0.0, 1.0)
    turn_deg: Annotated[float, Field(ge=0, le=80, allow_inf_nan=False)] = 0.0
    side_mm: NotNegative = Length(0.0)


Motion = Annotated[AxleTravel | Rock | ShaftSweep | Steer, Field(discriminator="kind")]


class Group(Record):
    """Things that move together; `body` is implied and never moves.

    With a `motion` the positions follow from it and from where the group stood when it was measured; without one they
    are listed.
    """

    id: Id
    name: Name = ""
    motion: Motion | None = None
    measured_at: Literal["droop", "ride", "bump"] = "ride"
    states: Annotated[tuple[GroupState, ...], Field(max_length=12)] = ()

    @model_validator(mode="after")
    def _moves(self) -> Self:
        if self.motion is None and not self.states:
            raise ValueError(f"{self.name or self.id} has no travel: say how it moves, or list its positions")
        if isinstance(self.motion, AxleTravel) and self.motion.pivot:
            self._arm_reaches(self.motion, self.motion.pivot)
        return self

    def _arm_reaches(self, travel: AxleTravel, pivot: Pivot) -> None:
        heights = {"droop": -float(travel.droop_mm), "ride": 0.0, "bump": float(travel.bump_mm)}
        arm = np.asarray(pivot.hub, dtype=float) - np.asarray(pivot.about, dtype=float)
        for height in heights.values():
            arm_turn_deg(arm, unit(pivot.axis), height - heights[self.measured_at])


class Window(Record):
    """An opening a run must pass: its middle, the way through it, up in its plane, and its outline there.

    With `through` it is cut out of that thing, whose other outline it must lie inside.
    """

    id: Id
    name: Name
    center: Point
    axis: Direction = (1.0, 0.0, 0.0)
    reference: Direction = (0.0, 0.0, 1.0)
    outline: Outline
    thickness_mm: NotNegative = Length(0.0)
    through: Id | None = None
    needed_gap_mm: NotNegative | None = None
    plus_minus_mm: NotNegative = Length(0.0)

    @model_validator(mode="after")
    def _is_an_opening(self) -> Self:
        whole_outline(self.outline, self.axis, self.reference)
        return self


HangKind = Literal["existing rubber", "spare bolt hole", "earth-strap point", "rail to clamp", "stud", "frame tab"]
Holds = Literal["", "suspension", "steering", "brakes", "gearbox", "other"]


class HangPoint(Record):
    """Something on the body the system can hang from; welding to the body is avoided."""

    id: Id
    name: Name
    point: Point
    kind: HangKind = "existing rubber"
    thread: Name = ""
    holds: Holds = Field("", description="what else that bolt holds")
    old_rod_mm: NotNegative = Field(
        Length(0.0), description="how far its old rod reaches from the rubber's eye; 0: none"
    )
    condition: Name = ""
    plus_minus_mm: NotNegative = Length(0.0)
    how_measured: Name = ""


OldPartKind = Literal["flange", "v-band half", "tip", "hanger", "sensor boss", "rubber", "other"]


class OldPart(Record):
    """A part found on the vehicle that is worth reusing, and where it sits."""

    id: Id
    name: Name
    kind: OldPartKind = "other"
    condition: Name = ""
    point: Point | None = None
    plus_minus_mm: NotNegative = Length(0.0)
    how_measured: Name = ""


class MarkPoint(Record):
    """A mark taped from: a point of the vehicle whose place is known, and how."""

    id: Id
    name: Name
    point: Point
    plus_minus_mm: NotNegative = Length(2.0)
    how_measured: Name = ""


class LowLine(Record):
    """The line nothing may hang below; n points to the free side."""

    n: Direction = (0.0, 0.0, 1.0)
    d: Length
    through: Annotated[tuple[Point, ...], Field(max_length=12)] = ()


class Rails(Record):
    """Inner edges of the frame rails (or sills) as Y, and the heights of their underside at two places, at ride."""

    left_y_mm: Length
    right_y_mm: Length
    front_at_mm: Length = Length(500.0)
    rear_at_mm: Length = Length(2500.0)
    front_height_mm: Length | None = None
    rear_height_mm: Length | None = None

    @model_validator(mode="after")
    def _apart(self) -> Self:
        if self.left_y_mm >= self.right_y_mm:
            raise ValueError("the right rail must lie to the right of the left one (left of centre is minus)")
        if self.rear_at_mm - self.front_at_mm < 100:
            raise ValueError("the two places on the rail must be at least 100 mm apart")
        return self


class Stance(Record):
    """How the vehicle stood when it was measured: by angle finder on the rail, and two heights to its underside."""

    on: Literal["lift", "wheels"] = "wheels"
    suspension: Literal["droop", "ride"] = "ride"
    rail_pitch_deg: Degrees | None = None
    rail_roll_deg: Degrees = 0.0
    front_rail_now_mm: Length | None = None
    rear_rail_now_mm: Length | None = None


class Photo(Record):
    """A picture kept under the hash of its content; `of` is the id of what it shows, or empty for the whole."""

    sha256: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    of: Annotated[str, Field(max_length=40)] = ""
    caption: Name = ""


class Survey(Record):
    """The survey of a vehicle's underside."""

    things: Annotated[tuple[Thing, ...], Field(max_length=MOST_ITEMS)] = ()
    groups: Annotated[tuple[Group, ...], Field(max_length=40)] = ()
    windows: Annotated[tuple[Window, ...], Field(max_length=40)] = ()
    low_line: LowLine | None = None
    lowered_line: LowLine | None = Field(None, description="the second line of a vehicle that lowers itself")
    marks: Annotated[tuple[MarkPoint, ...], Field(max_length=MOST_ITEMS)] = ()
    hang_points: Annotated[tuple[HangPoint, ...], Field(max_length=MOST_ITEMS)] = ()
    old_parts: Annotated[tuple[OldPart, ...], Field(max_length=MOST_ITEMS)] = ()
    rails: Rails | None = None
    stance: Stance = Stance()
    photos: Annotated[tuple[Photo, ...], Field(max_length=MOST_ITEMS)] = ()
    ticked: Annotated[tuple[Id, ...], Field(max_length=40)] = Field((), description="check-list items seen to")

    _meshes: dict[str, Any] = PrivateAttr(default_factory=dict)

    @model_validator(mode="after")
    def _ids(self) -> Self:
        unique_ids("thing", [t.id for t in self.things])
        unique_ids("group", [g.id for g in self.groups])
        unique_ids("mark", [m.id for m in self.marks])
        unique_ids("window", [w.id for w in self.windows])
        unique_ids("hang point", [h.id for h in self.hang_points])
        unique_ids("old part", [o.id for o in self.old_parts])
        known = {g.id for g in self.groups} | {"body"}
        for thing in self.things:
            if thing.moves_with not in known:
                raise ValueError(f"{thing.name} moves with “{thing.moves_with}”, which is not a group of this survey")
        things = {t.id for t in self.things}
        for window in self.windows:
            if window.through is not None and window.through not in things:
                raise ValueError(f"the window {window.name} goes through “{window.through}”, which is not a thing here")
        return self

    def with_meshes(self, meshes: Mapping[str, TriangleMesh]) -> Self:
        """This survey holding the triangles its shapes name, by hash: checks are then made on what it holds alone."""
        held = self.model_copy()
        held._meshes = dict(meshes)
        return held

    def mesh(self, sha256: str) -> TriangleMesh | None:
        """The triangles of one of its shapes; None when they were not put in."""
        return self._meshes.get(sha256)

    def __eq__(self, other: object) -> bool:
        # what it says is what it is; triangles are only what its hashes stand for
        return isinstance(other, Survey) and self.__dict__ == other.__dict__

    __hash__ = None  # type: ignore[assignment]

    def group(self, group_id: str) -> Group | None:
        return next((g for g in self.groups if g.id == group_id), None)

    def thing(self, thing_id: str) -> Thing | None:
        return next((t for t in self.things if t.id == thing_id), None)
