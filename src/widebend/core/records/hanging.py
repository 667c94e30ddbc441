"""Records of hanging: hangers, and the rubbers in them."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from ..units import Length
from .base import Id, Name, NotNegative, Point, Positive, Record

Stiffness = Annotated[float, Field(gt=0, le=1e6, allow_inf_nan=False)]
Force = Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)]
RubberShape = Literal["two holes", "ring", "bobbin"]
HangWay = Literal["rubber", "bobbin pulled", "bobbin pressed", "bobbin sheared", "solid"]
Hold = Literal["rod", "old rod", "cradle", "strap"]
HangSchool = Literal[
    "as it comes",
    "two rubbers a point",
    "rods pulled one way",
    "rods pulled apart",
    "one tilted rod",
    "bobbins",
    "solid",
]
BracketKind = Literal["flat bar", "tube"]


class Rubber(Record):
    """A rubber: two pins through it, a ring, or a bobbin with a plate at each end.

    `long_mm` is from pin to pin, or the bobbin's rubber from plate to plate; `wide_mm` the bobbin's diameter. Stiffness
    N/mm along (pulled) and across, where it is known; a pull test is the load [N] and how far it stretched. `most_n`
    and `least_n` are what it should carry.
    """

    name: Name
    shape: RubberShape = "two holes"
    long_mm: Positive
    wide_mm: Positive
    hardness: Annotated[float, Field(ge=30, le=80)] | None = None
    along_n_mm: Stiffness | None = None
    across_n_mm: Stiffness | None = None
    pull_n: Force | None = None
    stretch_mm: Positive | None = None
    least_n: Force = 5.0
    most_n: Force = 100.0
    limit_c: Annotated[float, Field(ge=50, le=400)] = 120.0

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.pull_n is None) != (self.stretch_mm is None):
            raise ValueError("a pull test is a load and how far it stretched: both, or neither")
        if self.least_n >= self.most_n:
            raise ValueError(f"it carries at least {self.least_n:g} N, so at most more than that")
        return self


class Hanger(Record):
    """A place on a pipe (run, piece, how far along) or on a part (its id, a place in its own frame) that hangs from a
    point of the vehicle: bracket, rubber, rod.

    `pin_mm` is where the rubber's upper pin stands from the hang point, `rubbers` how many hang side by side.
    """

    id: Id
    run: Id | None = None
    piece: Id | None = None
    along_mm: NotNegative = Length(0.0)
    part: Id | None = None
    at: Point = (Length(0.0), Length(0.0), Length(0.0))
    hang_point: Id | None = None
    way: HangWay = "rubber"
    rubber: Rubber | None = Field(None, description="none: a usual one")
    rubbers: Annotated[int, Field(ge=1, le=2)] = 1
    pin_mm: Point = (Length(0.0), Length(0.0), Length(0.0))
    pre_mm: Point = Field(
        (Length(0.0), Length(0.0), Length(0.0)),
        description="how far its rod's eye is pulled to be hooked in, before anything hangs on it: back, right, up",
    )
    rod_mm: Positive = Length(10.0)
    hook_ahead: bool = Field(False, description="the rod's hook looks against the flow")
    rod_left: bool = Field(False, description="the rod is rolled round the pipe's left side, looking along the flow")
    slope_deg: Annotated[float, Field(ge=0, le=30)] = Field(
        5.0, description="how far the rod's pin rises toward its hook: load drives the rubber to the stop bend"
    )
    hold: Hold = Field("rod", description="by what it holds the pipe: a rod welded on, the vehicle's old one, a clamp")
    bracket: BracketKind = "flat bar"
    also_run: Id | None = Field(None, description="another run that hangs on it too, by a bar across")
    also_piece: Id | None = None
    also_along_mm: NotNegative = Length(0.0)

    @model_validator(mode="after")
    def _somewhere(self) -> Self:
        if (self.part is None) == (self.run is None or self.piece is None):
            raise ValueError("a hanger sits on a piece of a run, or on a part")
        if (self.also_run is None) != (self.also_piece is None) or (self.also_run and self.part):
            raise ValueError("two pipes on one hanger: a piece of a run each")
        return self
