"""The refit card: what is done when a finished system goes in, and what was moved to get in."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from .database import Connection, queries


@dataclass(frozen=True)
class RefitTick:
    """A step that is done: what was read, by whom, when."""

    reading: str
    who: str
    made_at: datetime


@dataclass(frozen=True)
class MovedPart:
    """A part of the vehicle that was moved to get in."""

    id: int
    name: str
    who: str


def ticks_of(connection: Connection, design_id: int) -> dict[str, RefitTick]:
    """The steps of a design's card that are done."""
    return {
        row["step"]: RefitTick(row["reading"], row["who"], row["made_at"])
        for row in queries.refit_ticks(connection, document_id=design_id)
    }


def tick(connection: Connection, design_id: int, step: str, reading: str, who: str, *, done: bool) -> None:
    """A step is done, or not after all."""
    if done:
        queries.set_refit_tick(connection, document_id=design_id, step=step, reading=reading, who=who)
    else:
        queries.clear_refit_tick(connection, document_id=design_id, step=step)


def moved_parts(connection: Connection, design_id: int) -> list[MovedPart]:
    """Return the parts moved to get in, in the order they were written down."""
    return [
        MovedPart(row["id"], row["name"], row["who"]) for row in queries.moved_parts(connection, document_id=design_id)
    ]


def add_moved(connection: Connection, design_id: int, name: str, who: str) -> None:
    """Something was moved; written down once."""
    queries.add_moved_part(connection, document_id=design_id, name=name, who=who)


def forget_moved(connection: Connection, design_id: int, part_id: int) -> None:
    """It was not moved after all."""
    queries.forget_moved_part(connection, document_id=design_id, id=part_id)
