"""Where a design may be driven, what it does with the parts that clean the gas, and what of it is swapped."""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from .base import MOST_ITEMS, Id, Name, Point, Record, unique_ids

EmissionKind = Literal["catalyst", "particulate filter", "sensor", "gas recirculation"]
Fate = Literal["stays in place", "moved", "bypassed", "removed", "found removed"]
ClassRule = Literal["catalysts stay", "catalysts stay in place", "silencer stays"]


class EmissionPart(Record):
    """A part that cleans the gas or watches it, as the vehicle had it, and what becomes of it."""

    id: Id
    what: EmissionKind
    name: Name = ""
    fate: Fate = "stays in place"
    part: Id | None = Field(None, description="the part of this design that it is")
    at: Point | None = Field(None, description="where it sat: its inlet")
    noted: Name = Field("", description="who found or decided it, and when")


class Use(Record):
    """The customer's written word about where it will be driven, and who has seen the caution."""

    written: Annotated[str, Field(max_length=600)] = ""
    acknowledged_by: Name = ""
    acknowledged_on: Name = ""
    class_rules: Annotated[tuple[ClassRule, ...], Field(max_length=8)] = ()
    emissions: Annotated[tuple[EmissionPart, ...], Field(max_length=24)] = ()

    @model_validator(mode="after")
    def _ids(self) -> Self:
        unique_ids("emissions part", [e.id for e in self.emissions])
        return self


class Configuration(Record):
    """One way the system is driven: what of it is left off (parts and runs by id)."""

    id: Id
    name: Name
    without: Annotated[tuple[Id, ...], Field(max_length=MOST_ITEMS)] = ()
