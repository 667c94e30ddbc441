"""Sound readings: readings of a sound meter, and the limits that a shop holds to, by place."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from .base import Id, Name, Record

SoundTest = Literal["idle", "stationary", "cruise in the cabin"]
Decibel = Annotated[float, Field(ge=20, le=150, allow_inf_nan=False)]


class SoundReading(Record):
    """One test of one system: what was on, where and at which engine speed it was heard, the readings [dB(A)], how loud
    it was around with the engine off, what took them, who and when.
    """

    id: Id
    fitted: Name = Field("", description="what was on: as it came, bare, with resonator, with muffler, with insert")
    test: SoundTest = "stationary"
    rpm: Annotated[float, Field(ge=200, le=20_000)]
    readings: Annotated[tuple[Decibel, ...], Field(min_length=1, max_length=12)]
    around_db: Decibel | None = None
    reckoned_db: Decibel | None = Field(None, description="what was reckoned for it when it was written down")
    taken_with: Name = ""
    by: Name = ""
    when: Name = ""


class SoundLimit(Record):
    """A limit that the shop holds to, entered by the shop: where, by which test, how loud [dB(A)], and where it stands
    written.
    """

    place: Annotated[Name, Field(min_length=1)]
    test: SoundTest = "stationary"
    db_a: Decibel
    written: Name = ""
