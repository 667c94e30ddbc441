"""The engine: how much gas it gives, how hot, how often it beats, and what road speed it turns at."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..units import Length
from .base import Positive, Record

Fuel = Literal["petrol", "diesel", "E85"]
Aspiration = Literal["natural", "turbo", "supercharged"]
Firing = Literal["even", "each bank uneven"]
Celsius = Annotated[float, Field(ge=0, le=1200, allow_inf_nan=False)]


class Gearbox(Record):
    """The drive train: ratios from first gear on, final drive, and the tyre's rolling
    circumference.
    """

    ratios: Annotated[tuple[Annotated[float, Field(gt=0.2, le=20)], ...], Field(min_length=1, max_length=12)]
    final: Annotated[float, Field(gt=0.5, le=15)] = 1.0
    rolling_mm: Positive = Length(1950.0)


class Engine(Record):
    """The engine. Power or displacement says how much gas it gives; what is not given is usual."""

    cylinders: Annotated[int, Field(ge=1, le=16)] = 4
    strokes: Literal[2, 4] = 4
    firing: Firing = Field("even", description="each bank uneven: a cross-plane V8, whose banks each fire by halves")
    idle_rpm: Annotated[float, Field(ge=200, le=3000)] = 800.0
    cruise_rpm: Annotated[float, Field(ge=500, le=12_000)] = 2400.0
    rated_rpm: Annotated[float, Field(ge=1000, le=20_000)] = 6000.0
    power_kw: Annotated[float, Field(ge=1, le=2500)] | None = None
    litres: Annotated[float, Field(ge=0.04, le=30)] | None = None
    fuel: Fuel = "petrol"
    aspiration: Aspiration = "natural"
    full_lambda: Annotated[float, Field(ge=0.6, le=4)] | None = Field(None, description="air over what the fuel needs")
    idle_c: Celsius | None = Field(None, description="the gas where the system starts")
    cruise_c: Celsius | None = None
    full_c: Celsius | None = None
    gearbox: Gearbox | None = None

    def fires_hz(self, rpm: float) -> float:
        """How often it fires [Hz]: each cylinder once in two turns, or once in one.

        >>> Engine(cylinders=4, strokes=4).fires_hz(900.0), Engine(cylinders=2, strokes=2).fires_hz(900.0)
        (30.0, 30.0)
        """
        return rpm / 60.0 * self.cylinders / (self.strokes / 2)
