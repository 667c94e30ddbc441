"""Open jobs as the board shows them: what each waits for, what is promised, hours left."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Any, get_args

from ..core.errors import EditError
from ..core.records import Wait
from .database import Connection, queries

WAITS: tuple[Wait, ...] = get_args(Wait)


@dataclass(frozen=True)
class BoardJob:
    """A job on the board; hours planned and taken, 0 where nothing is planned yet."""

    id: int
    title: str
    vehicle: str
    customer: str
    promised_on: date | None
    waits_on: Wait
    waits_until: date | None
    waits_for: str
    bay_id: int | None
    bay: str | None
    planned: float
    taken: float
    step: str | None
    words: str | None
    figure: str | None


def jobs_on_board(connection: Connection) -> list[BoardJob]:
    """Every open job, those promised soonest first."""
    return [
        BoardJob(**{**row, "planned": float(row["planned"]), "taken": float(row["taken"])})
        for row in queries.board(connection)
    ]


def promise(
    connection: Connection,
    job_id: int,
    promised_on: date | None,
    waits_on: str,
    waits_until: date | None,
    waits_for: str,
) -> None:
    """Say what is promised and what a job waits for. Raises EditError."""
    if waits_on not in WAITS:
        raise EditError(f"one of {', '.join(w for w in WAITS if w)}, or nothing", "waits_on")
    if len(waits_for) > 200:
        raise EditError("at most 200 letters", "waits_for")
    queries.promise(
        connection,
        job_id=job_id,
        promised_on=promised_on,
        waits_on=waits_on,
        waits_until=waits_until,
        waits_for=waits_for.strip(),
    )


def listed(connection: Connection, what: str) -> list[dict[str, Any]]:
    """Every job, or every customer, as rows of a table."""
    return list(queries.list_of_jobs(connection) if what == "jobs" else queries.list_of_customers(connection))


def hours_today(connection: Connection) -> list[tuple[str, float]]:
    """Hours of each person today."""
    return [(row["who"], float(row["minutes"]) / 60.0) for row in queries.hours_today(connection)]
