"""The shop's rates: rates, mark-up, tax, deposit, minutes of each step; money in whole minor units."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...facts import Process
from .base import Name, Record

WorkStep = Literal[
    "remove old", "cut", "face", "fit up", "tack", "weld", "purge", "hangers", "refits", "finish", "test"
]
Wait = Literal["", "part", "customer", "lift", "hands"]  # what a job waits for: nothing, it can be worked at
Minor = Annotated[int, Field(ge=0, le=10**9)]
Rate = Annotated[float, Field(ge=0, le=3)]
Minutes = Annotated[float, Field(ge=0, le=1000)]

# how a customer is charged for straight tube: what the job uses of it, or every bar that is bought for it
TubeBy = Literal["the metre", "the bar"]

# minutes for one of what a step counts: core/quoting/hours.py says what that is. Common practice, no source
USUAL_MINUTES: dict[WorkStep, float] = {
    "remove old": 45.0,
    "cut": 3.0,
    "face": 1.5,
    "fit up": 6.0,
    "tack": 2.0,
    "weld": 25.0,
    "purge": 4.0,
    "hangers": 25.0,
    "refits": 10.0,
    "finish": 3.0,
    "test": 30.0,
}


class Pricing(Record):
    """The shop's rates. A rate of 0.25 is a quarter; `each` is the price of a thing by its words, asked once, and of
    tube by the metre.
    """

    hour: Minor = 9000
    metal_markup: Rate = 0.30
    parts_markup: Rate = 0.25
    tax: Rate = 0.0
    deposit: Rate = 0.30
    day_hours: Annotated[float, Field(ge=1, le=16)] = 7.0
    valid_days: Annotated[int, Field(ge=1, le=365)] = 30
    currency: Annotated[str, Field(max_length=4)] = ""
    process: Process = "TIG"
    tube_by: TubeBy = "the metre"
    minutes: dict[WorkStep, Minutes] = Field(default_factory=lambda: dict(USUAL_MINUTES))
    each: dict[Name, Minor] = Field(default_factory=dict)
