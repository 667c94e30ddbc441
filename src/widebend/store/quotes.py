"""Quotes as they went out, the links to them, and what the shop asks for its work."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError
from ..core.records import Pricing
from .database import Connection, queries

MOST_TRIES = 20  # of links that are none, from one address in ten minutes


@dataclass(frozen=True)
class Quote:
    """A quote as it was sent, and what became of it."""

    id: int
    content: Mapping[str, Any]
    design_revision: int
    who: str
    sent_at: datetime
    expires_at: datetime
    withdrawn_at: datetime | None
    answered: Mapping[str, Any] | None
    answered_at: datetime | None
    job_id: int = 0


def pricing(connection: Connection, *, hold: bool = False) -> Pricing:
    """Return the shop's rates; held, nobody else changes it until this transaction ends."""
    row = queries.pricing_held(connection) if hold else queries.pricing(connection)
    return Pricing.model_validate(row["pricing"]) if row else Pricing()


def set_pricing(connection: Connection, asked: Pricing) -> None:
    queries.set_pricing(connection, pricing=Jsonb(asked.model_dump(mode="json")))


def job_prices(connection: Connection, job_id: int) -> dict[str, int]:
    """Return the cost of a job's parts in minor units, by their words."""
    row = queries.job_prices(connection, job_id=job_id)
    return {str(words): int(price) for words, price in row["prices"].items()} if row else {}


def set_job_prices(connection: Connection, job_id: int, prices: Mapping[str, int]) -> None:
    queries.set_job_prices(connection, job_id=job_id, prices=Jsonb(dict(prices)))


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def send(
    connection: Connection, job_id: int, content: Mapping[str, Any], revision: int, days: int, who: str
) -> tuple[int, str]:
    """Keep a quote as it goes out, in place of any that still waits for its answer: a customer has one offer to say yes
    to. Its number, and the token of its link, which is kept nowhere.
    """
    queries.withdraw_open_quotes(connection, job_id=job_id)
    token = secrets.token_urlsafe(24)
    number = queries.send_quote(
        connection,
        job_id=job_id,
        content=Jsonb(content),
        design_revision=revision,
        token_hash=_hash(token),
        who=who,
        days=days,
    )
    return int(number), token


def of_job(connection: Connection, job_id: int) -> list[Quote]:
    """A job's quotes, the newest first."""
    return [Quote(**row) for row in queries.quotes_of_job(connection, job_id=job_id)]


def agreed(connection: Connection, job_id: int) -> Quote | None:
    """The quote or change order that the customer said yes to last."""
    return max((q for q in of_job(connection, job_id) if q.answered_at), key=_answered_at, default=None)


def _answered_at(quote: Quote) -> datetime:
    assert quote.answered_at is not None  # the caller looked
    return quote.answered_at


def by_token(connection: Connection, token: str, address: str) -> Quote | None:
    """The quote behind a link; None for a link that is none any more. Raises EditError where an address tried many."""
    row = queries.quote_by_token(connection, token_hash=_hash(token))
    if row is None:
        # a link that is one opens whatever others behind the same address tried
        if int(queries.link_tries(connection, address=address)) >= MOST_TRIES:
            raise EditError("too many links were tried from here: wait ten minutes")
        queries.forget_link_tries(connection)
        queries.note_link_try(connection, address=address)
        return None
    return Quote(**row)


def answer(connection: Connection, quote_id: int, said: Mapping[str, Any]) -> bool:
    """Keep what the customer said; False where it was answered, withdrawn or has run out."""
    return queries.answer_quote(connection, quote_id=quote_id, answered=Jsonb(said)) is not None


def withdraw(connection: Connection, job_id: int, quote_id: int) -> None:
    """Take a quote back: its link opens no more."""
    queries.withdraw_quote(connection, quote_id=quote_id, job_id=job_id)
