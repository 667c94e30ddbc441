"""Runs: the pipe from a start toward an aim, piece by piece, and what is fixed to it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from ...facts import JointKind, Material
from ..units import Length
from .base import MOST_ITEMS, Degrees, Id, Name, NotNegative, Point, PortName, Positive, Record, unique_ids
from .hardware import Placed


class Tube(Record):
    od_mm: Positive
    wall_mm: Positive
    material: Material = "304"

    @model_validator(mode="after")
    def _wall_fits(self) -> Self:
        if self.wall_mm >= self.od_mm / 2:
            raise ValueError(f"a wall of {self.wall_mm:g} mm does not fit a tube of {self.od_mm:g} mm")
        return self


class Offset(Record):
    """How a piece's inlet really stands against the outlet ahead of it: shifted along the flow, the reference and
    across [mm], then turned about the reference, the new across and the new flow [deg]. A face trimmed askew turns it.
    """

    shift_mm: tuple[Length, Length, Length] = (Length(0.0), Length(0.0), Length(0.0))
    turn_deg: tuple[Degrees, Degrees, Degrees] = (0.0, 0.0, 0.0)


class _Piece(Record):
    id: Id
    locked: bool = False
    tube: Tube | None = None
    offset: Offset | None = None


class Straight(_Piece):
    """A straight, slip overlap not counted."""

    kind: Literal["leg"] = "leg"
    length_mm: NotNegative


class Bend(_Piece):
    kind: Literal["bend"] = "bend"
    angle_deg: Annotated[float, Field(gt=0, le=180)]
    clr_mm: Positive
    roll_deg: Degrees = 0.0


class Mitre(_Piece):
    """One cut joint that turns the pipe at a point."""

    kind: Literal["mitre"] = "mitre"
    turn_deg: Annotated[float, Field(gt=0, le=90)]
    roll_deg: Degrees = 0.0

    @property
    def cut_deg(self) -> float:
        """How far off square both faces are cut."""
        return self.turn_deg / 2


class SegmentedBend(_Piece):
    """A bend of mitred slices on a centre-line radius: `slices` whole wedges, each turning the same."""

    kind: Literal["pie"] = "pie"
    slices: Annotated[int, Field(ge=1, le=60)]
    turn_each_deg: Annotated[float, Field(gt=0, le=45)]
    clr_mm: Positive
    roll_deg: Degrees = 0.0
    roll_each_deg: Degrees = 0.0

    @property
    def turn_deg(self) -> float:
        """Return the angle of all slices together [deg]."""
        return self.slices * self.turn_each_deg


class InLine(_Piece):
    """A part carried by the run, entered at one port and left at another."""

    kind: Literal["part"] = "part"
    part: Id
    enter: Id = "in"
    leave: Id = "out"
    roll_deg: Degrees = 0.0


Piece = Annotated[Straight | Bend | Mitre | SegmentedBend | InLine, Field(discriminator="kind")]


class Joint(Record):
    """How two pieces meet, when it is not a plain butt weld. `after` is a piece id, or "start" for the run's start."""

    after: Id
    kind: JointKind
    overlap_mm: NotNegative = Length(0.0)

    @model_validator(mode="before")
    @classmethod
    def _as_it_was(cls, given: Any) -> Any:
        """Read a joint that a program before 0.13 kept, with an angle that nothing used."""
        if not isinstance(given, dict):
            return given
        return {key: value for key, value in given.items() if key != "turns_reference_deg"}


class Tap(Record):
    """A run that starts on the side of another."""

    run: Id
    piece: Id
    along_mm: NotNegative
    roll_deg: Degrees
    angle_deg: Annotated[float, Field(gt=0, le=90)] = 45.0


class Run(Record):
    """Pipe from a start (a port, or a tap on another run) toward an aim (a port)."""

    id: Id
    name: Name = ""
    start: PortName | Tap
    aim: PortName | None = None
    tube: Tube
    pieces: Annotated[tuple[Piece, ...], Field(max_length=MOST_ITEMS)] = ()
    joints: Annotated[tuple[Joint, ...], Field(max_length=MOST_ITEMS)] = ()
    capped: bool = Field(False, description="it ends in a cap: a closed branch that takes out a tone")
    twin_of: Id | None = Field(None, description="the run this one is the mirror image of")
    twin_line_mm: Length = Length(0.0)
    twin_linked: bool = Field(True, description="it follows the other; otherwise it may differ, and that is said")

    @model_validator(mode="after")
    def _ids(self) -> Self:
        unique_ids("piece", [p.id for p in self.pieces])
        known = {p.id for p in self.pieces} | {"start"}
        for joint in self.joints:
            if joint.after not in known:
                raise ValueError(f"a joint stands after “{joint.after}”, which is not a piece of this run")
        return self


class Attachment(Record):
    """Something fixed to a run: sensor boss, cutout tap, hanger rod, witness mark.

    `stands_mm` is the room it needs standing off the pipe: the sensor, its plug, and the spanner over it.
    """

    id: Id
    kind: Literal["boss", "tap", "h-stub", "hanger", "witness"]
    name: Name = ""
    run: Id
    piece: Id
    along_mm: NotNegative
    roll_deg: Degrees = 0.0
    stands_mm: NotNegative = Length(0.0)
    watches: Literal["", "ahead of the cat", "behind the cat", "wideband"] = ""


CoverKind = Literal["wrap", "double skin", "coating"]


class Cover(Record):
    """A cover: over pieces of a run, from one to another, or over a part."""

    id: Id
    kind: CoverKind
    run: Id | None = None
    first: Id | None = Field(None, description="the first piece that it covers; none: from the run's start")
    last: Id | None = Field(None, description="the last; none: to its end")
    part: Id | None = None
    thick_mm: Positive | None = Field(None, description="none: usual")


FitKind = Literal[
    "angle finder", "heading", "height", "left rail", "right rail", "tape", "clock", "back", "right", "up", "gap"
]


class Measured(Record):
    """One measure taken at a fitted piece's end, of what hangs on the finish at its front end [mm or deg], its ± (two
    deviations), and where a tape goes to. A gap is what is open ahead of it, rim to rim.
    """

    kind: FitKind
    value: Annotated[float, Field(ge=-20_000, le=20_000, allow_inf_nan=False)]
    plus_minus: Annotated[float, Field(gt=0, le=200)]
    to: Point | None = None
    mark: Name = Field("", description="what a tape goes to")
    clock_deg: Degrees = Field(0.0, description="where round the pipe a gap was measured, on the vehicle")
    by: Name = ""
    when: Name = ""


class Fitted(Record):
    """A piece that is on the vehicle: as it was drawn when it went on, and what was measured there. The run's own piece
    stands as it was found.
    """

    run: Id
    piece: Id
    planned: Piece
    state: Literal["tacked", "welded"] = "tacked"
    measured: Annotated[tuple[Measured, ...], Field(max_length=24)] = ()
    by: Name = ""
    when: Name = ""
    note: Annotated[str, Field(max_length=400)] = ""
    photo: Annotated[str, Field(max_length=64, pattern=r"^[0-9a-f]*$")] = ""
    finish: Placed | None = Field(
        None, description="where a run that aims for nothing ended when its first piece went on"
    )
