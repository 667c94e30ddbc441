"""The shop's equipment: its benders with their dies, its saw, its rod and plate, its welding, its tables and lift."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ...facts import Process
from ..units import Length
from .base import MOST_ITEMS, Id, Name, NotNegative, Positive, Record
from .hanging import Rubber
from .sound import SoundLimit

Turn = Annotated[float, Field(gt=0, le=200)]


class TestBend(Record):
    """One bend the shop made to learn its die: what was set, what came out, and the radius measured, if it was."""

    __test__ = False  # for the test runner: it is not a test

    set_deg: Turn
    got_deg: Turn
    clr_mm: Positive | None = None


class Die(Record):
    """A die of a bender. `grip_mm` is the straight that must lie in the clamp ahead of a bend; `between_mm` the least
    straight between two bends; `lost_bore` the share of the bore's area that a pressed bend loses, 0 for a
    mandrel's.
    """

    od_mm: Positive
    clr_mm: Positive
    grip_mm: NotNegative
    between_mm: NotNegative
    lost_bore: Annotated[float, Field(ge=0, le=0.6)] = 0.0
    tests: Annotated[tuple[TestBend, ...], Field(max_length=60)] = ()


class Bender(Record):
    """A bender: how far it turns, the longest tube it takes, and what a part may hit while it is bent: the floor under
    the die's plane, and its own bed behind the die, so wide and so far under that plane.
    """

    id: Id
    name: Name
    most_deg: Turn = 180.0
    longest_mm: Positive = Length(6000.0)
    height_mm: Positive = Length(900.0)
    bed_wide_mm: NotNegative = Length(400.0)
    bed_under_mm: NotNegative = Length(80.0)
    dies: Annotated[tuple[Die, ...], Field(max_length=MOST_ITEMS)] = ()


class Equipment(Record):
    """The shop's equipment. None or nothing where it was not said: then nothing is limited by it."""

    saw_across_mm: Positive | None = Field(None, description="the largest tube the saw takes square")
    saw_mitre_deg: Annotated[float, Field(ge=0, le=70)] | None = Field(None, description="how far off square it cuts")
    rod_mm: NotNegative | None = Field(None, description="the thickest rod it bends")
    plate_mm: NotNegative | None = Field(None, description="the thickest plate it bends")
    processes: Annotated[tuple[Process, ...], Field(max_length=4)] = ()
    table_mm: Positive | None = Field(None, description="the longest section that lies on the table")
    lift_mm: Positive | None = Field(None, description="room under the vehicle when it is up on the lift or on stands")
    benders: Annotated[tuple[Bender, ...], Field(max_length=12)] = ()
    rubbers: Annotated[tuple[Rubber, ...], Field(max_length=40)] = ()
    sound_limits: Annotated[tuple[SoundLimit, ...], Field(max_length=40)] = ()
