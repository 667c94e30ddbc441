"""Hand-overs: checks, sound before and after, words; invoices, numbered without a gap."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError
from .database import Connection, queries


@dataclass(frozen=True)
class HandOver:
    """What was said at a hand-over: sound [dB(A)], how it was measured, words; checks as (who, when) by their key."""

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
    return HandOver(row.get("sound_before"), row.get("sound_after"), row.get("sound_how", ""), row.get("words", ""),
                    checks)  # fmt: skip


def say(
    connection: Connection, job_id: int, before: float | None, after: float | None, how: str, words: str
) -> None:  # fmt: skip
    """Keep how it sounded and what is said. Raises EditError."""
    for key, text, most in (("sound_how", how, 200), ("words", words, 4000)):
        if len(text) > most:
            raise EditError(f"at most {most} letters", key)
    queries.set_handover(connection, job_id=job_id, sound_before=before, sound_after=after, sound_how=how.strip(),
                         words=words.strip())  # fmt: skip


def check(connection: Connection, job_id: int, what: str, who: str, *, done: bool) -> None:
    """A check was made, or was not. Raises EditError without a name."""
    if not who:
        raise EditError("who looked?", "who")
    if done:
        queries.check_handover(connection, job_id=job_id, what=what[:40], who=who)
    else:
        queries.uncheck_handover(connection, job_id=job_id, what=what[:40])


def add_invoice(connection: Connection, job_id: int, content: Mapping[str, Any], who: str) -> int:
    """The next invoice; its number."""
    queries.lock_invoices(connection)
    return int(queries.add_invoice(connection, job_id=job_id, content=Jsonb(dict(content)), who=who))


def invoices(connection: Connection, job_id: int) -> list[Invoice]:
    """A job's invoices, the newest first."""
    return [Invoice(**row) for row in queries.invoices_of(connection, job_id=job_id)]
