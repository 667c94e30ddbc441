"""Hours: planned when the work was agreed on, clocked while it is done; and what was noted on the way."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Literal, get_args

from ..core.errors import EditError
from ..core.quoting import STEPS, PastJob
from ..core.records import WorkStep
from .database import Connection, queries

LogKind = Literal["note", "measure", "mistake"]
LOG_KINDS: tuple[LogKind, ...] = get_args(LogKind)
CAUSES = ("bent over", "ordered short", "no access", "wrong part", "as planned did not fit", "other")


@dataclass(frozen=True)
class Clock:
    """One stretch of work at a step; its minutes so far where it still runs."""

    id: int
    step: str
    who: str
    started_at: datetime
    ended_at: datetime | None
    minutes: float


def plan(connection: Connection, job_id: int, minutes: Mapping[str, float]) -> None:
    """Keep what the steps of a job are estimated to take."""
    for step, much in minutes.items():
        queries.plan_minutes(connection, job_id=job_id, step=step, minutes=much)


def planned(connection: Connection, job_id: int) -> dict[str, float]:
    """Minutes of each step as they were planned; nothing before the work was agreed on."""
    return {row["step"]: float(row["minutes"]) for row in queries.planned_minutes(connection, job_id=job_id)}


def past(connection: Connection, but: int = 0) -> list[PastJob]:
    """Every job that was handed over, with the steps that were both planned and clocked; without the job `but`, whose
    own clocks do not change what it costs.
    """
    said: dict[int, dict[WorkStep, float]] = {}
    took: dict[int, dict[WorkStep, float]] = {}
    for row in queries.past_minutes(connection, but=but):
        if row["step"] in STEPS:
            said.setdefault(row["job_id"], {})[row["step"]] = float(row["planned"])
            took.setdefault(row["job_id"], {})[row["step"]] = float(row["taken"])
    return [PastJob(said[job], took[job]) for job in said]


def running(connection: Connection, who: str) -> dict[str, Any] | None:
    """Return a person's running clock: job, step, since when."""
    return dict(row) if (row := queries.running_clock(connection, who=who)) else None


def all_running(connection: Connection) -> list[dict[str, Any]]:
    """Everybody who works at something now."""
    return [dict(row) for row in queries.running_clocks(connection)]


FORGOTTEN_H = 5.0  # nobody works longer at one step without a break: common practice, no source


def is_forgotten(clock: Mapping[str, Any], now: datetime) -> bool:
    """Whether a running clock was most likely forgotten."""
    return bool(now - clock["started_at"] > timedelta(hours=FORGOTTEN_H))


def start(connection: Connection, job_id: int, step: str, who: str) -> None:
    """Begin a step: what the same person worked at before ends. Raises EditError for a step there is none of, and while
    a forgotten clock of theirs runs: how long that took is asked first.
    """
    if step not in STEPS:
        raise EditError(f"one of {', '.join(STEPS)}", "step")
    if not who.strip():
        raise EditError("who works at it?", "who")
    mine = running(connection, who)
    if mine and is_forgotten(mine, datetime.now(UTC)):
        raise EditError(
            f"{who}'s clock at {mine['step']}, job {mine['job_id']}, has run since {mine['started_at']:%d %b %H:%M}: "
            "first say how long that took",
            "ran",
        )
    queries.stop_clock(connection, who=who, ended_at=None)
    queries.start_clock(connection, job_id=job_id, step=step, who=who)


def stop(connection: Connection, who: str, at: datetime | None = None) -> None:
    """End what a person works at, now or, for a forgotten clock, at an earlier time."""
    queries.stop_clock(connection, who=who, ended_at=at)


def clocks(connection: Connection, job_id: int) -> list[Clock]:
    """Every clock of a job, the newest first."""
    return [
        Clock(**{**row, "minutes": float(row["minutes"])}) for row in queries.clocks_of_job(connection, job_id=job_id)
    ]


def correct_clock(connection: Connection, job_id: int, clock_id: int, minutes: float) -> None:
    """Correct how long an ended clock ran. Raises EditError."""
    if not 0 < minutes <= 24 * 60:
        raise EditError("minutes, from 1 to a day's", "ran")
    queries.correct_clock(connection, job_id=job_id, clock_id=clock_id, minutes=minutes)


def drop_clock(connection: Connection, job_id: int, clock_id: int) -> None:
    queries.drop_clock(connection, job_id=job_id, clock_id=clock_id)


def note(
    connection: Connection,
    job_id: int,
    kind: LogKind,
    words: str,
    who: str,
    *,
    cause: str = "",
    minutes: int = 0,
    cost: int = 0,
    sha256: str | None = None,
    made_at: datetime | None = None,
) -> None:
    """Note something on a job, now or, for books that are taken over, earlier; with a picture by its hash; a mistake
    with its cause, and what it cost [min, minor units]. Raises EditError.
    """
    if not words.strip():
        raise EditError("what happened?", "words")
    if kind == "mistake" and cause not in CAUSES:
        raise EditError(f"why: one of {', '.join(CAUSES)}", "cause")
    queries.add_log(
        connection,
        job_id=job_id,
        kind=kind,
        words=words.strip(),
        who=who,
        minutes=minutes,
        cost=cost,
        sha256=sha256,
        made_at=made_at,
        cause=cause if kind == "mistake" else "",
    )


def log(connection: Connection, job_id: int) -> list[dict[str, Any]]:
    """Return the notes on a job, the newest first."""
    return [dict(row) for row in queries.log_of_job(connection, job_id=job_id)]


def mistakes(connection: Connection, months: int) -> list[dict[str, Any]]:
    """Mistakes of the last months by cause, the dearest first."""
    return [dict(row) for row in queries.mistakes_since(connection, months=months)]
