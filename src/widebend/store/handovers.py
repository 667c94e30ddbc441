"""Hand-overs: checks, sound before and after, words; invoices, numbered without a gap; what was paid; the months."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError
from ..core.quoting import earned_an_hour
from .database import Connection, queries

MOST_PAID = 10**9  # minor units


@dataclass(frozen=True)
class HandOver:
    """A hand-over's record: sound [dB(A)], how it was measured, words; checks as (who, when) by their key."""

    sound_before: float | None
    sound_after: float | None
    sound_how: str
    words: str
    checks: Mapping[str, tuple[str, datetime]]


@dataclass(frozen=True)
class Invoice:
    """An invoice as it was made."""

    number: int
    content: Mapping[str, Any]
    who: str
    made_at: datetime


def get(connection: Connection, job_id: int) -> HandOver:
    row = queries.handover(connection, job_id=job_id) or {}
    checks = {one["what"]: (one["who"], one["made_at"]) for one in queries.handover_checks(connection, job_id=job_id)}
    return HandOver(
        row.get("sound_before"), row.get("sound_after"), row.get("sound_how", ""), row.get("words", ""), checks
    )


def say(connection: Connection, job_id: int, before: float | None, after: float | None, how: str, words: str) -> None:
    """Keep how it sounded and what is said. Raises EditError."""
    for key, text, most in (("sound_how", how, 200), ("words", words, 4000)):
        if len(text) > most:
            raise EditError(f"at most {most} letters", key)
    queries.set_handover(
        connection, job_id=job_id, sound_before=before, sound_after=after, sound_how=how.strip(), words=words.strip()
    )


def check(connection: Connection, job_id: int, what: str, who: str, *, done: bool) -> None:
    """A check was made, or was not. Raises EditError without a name."""
    if not who:
        raise EditError("who looked?", "who")
    if done:
        queries.check_handover(connection, job_id=job_id, what=what, who=who)
    else:
        queries.uncheck_handover(connection, job_id=job_id, what=what)


def add_invoice(
    connection: Connection, job_id: int, content: Mapping[str, Any], who: str, made_at: datetime | None = None
) -> int:
    """The next invoice, of now or, for books that are taken over, of an earlier time; its number. Raises EditError
    if the job has one.
    """
    queries.lock_invoices(connection)  # of two who make it at once the second sees the first's
    made = invoices(connection, job_id)
    if made:
        raise EditError(f"invoice {made[0].number} of this job is made already")
    return int(queries.add_invoice(connection, job_id=job_id, content=Jsonb(dict(content)), who=who, made_at=made_at))


def invoices(connection: Connection, job_id: int) -> list[Invoice]:
    """A job's invoices, the newest first."""
    return [Invoice(**row) for row in queries.invoices_of(connection, job_id=job_id)]


def pay(connection: Connection, job_id: int, amount: int, words: str, who: str) -> None:
    """Keep what was paid in minor units, less than nothing where it was given back. Raises EditError."""
    if not amount or abs(amount) > MOST_PAID:
        raise EditError("an amount like 120.00; given back, -120.00", "amount")
    if len(words) > 120:
        raise EditError("at most 120 letters", "paid_words")
    if not who:
        raise EditError("who took it?", "who")
    queries.add_payment(connection, job_id=job_id, amount=amount, words=words.strip(), who=who)


def payments(connection: Connection, job_id: int) -> list[dict[str, Any]]:
    """Return the payments on a job, the oldest first."""
    return [dict(row) for row in queries.payments_of(connection, job_id=job_id)]


@dataclass(frozen=True)
class Month:
    """A month of the shop: what was invoiced and its metal and parts at our cost, in minor units; hours worked;
    mistakes, with the hours and money they cost; minutes planned and taken of each step of the jobs that ended in it.
    """

    name: str
    invoices: int
    net: int
    material: int
    hours: float
    billed_h: float
    mistakes: int
    lost_h: float
    cost: int
    steps: Mapping[str, tuple[float, float]]

    @property
    def an_hour(self) -> float | None:
        """Return the earnings an hour worked, in minor units; None where too little was clocked to say."""
        return earned_an_hour(self.net, self.material, self.hours, self.billed_h) if self.invoices else None


def months(connection: Connection, most: int = 12) -> list[Month]:
    """The last months in which anything was done, the newest first."""
    steps: dict[str, dict[str, tuple[float, float]]] = {}
    for row in queries.month_steps(connection):
        steps.setdefault(row["month"], {})[row["step"]] = (float(row["planned"]), float(row["taken"]))
    return [
        Month(
            row["month"],
            int(row["invoices"]),
            int(row["net"]),
            int(row["material"]),
            float(row["minutes"]) / 60.0,
            float(row["billed_h"]),
            int(row["mistakes"]),
            float(row["lost"]) / 60.0,
            int(row["cost"]),
            steps.get(row["month"], {}),
        )
        for row in queries.months(connection, most=most)
    ]
