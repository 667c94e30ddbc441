"""Cards: finished systems kept for the next vehicle, found by words, wheelbase or how alike they run."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import EditError, MissingError
from .customers import LEAST_ALIKE
from .database import Connection, queries

MOST = 60


@dataclass(frozen=True)
class Card:
    """A card as it was kept: its design with its survey, minutes taken of each step, where its pipe runs."""

    id: int
    name: str
    vehicle: str
    engine: str
    wheelbase_mm: int | None
    words: str
    watch: str
    content: Mapping[str, Any]
    minutes: Mapping[str, float]
    shape: Sequence[float]
    job_id: int | None
    made_at: datetime


def add(
    connection: Connection,
    job_id: int,
    vehicle: str,
    said: Mapping[str, str],
    wheelbase_mm: int | None,
    content: Mapping[str, Any],
    minutes: Mapping[str, float],
    shape: Sequence[float],
) -> int:
    """Keep a card; its number. Raises EditError."""
    for key, most in (("name", 120), ("engine", 80), ("words", 1000), ("watch", 1000)):
        if len(said.get(key, "")) > most:
            raise EditError(f"at most {most} letters", key)
    if not said.get("name", "").strip():
        raise EditError("what is the card called?", "name")
    values = {key: said.get(key, "").strip() for key in ("name", "engine", "words", "watch")}
    return int(
        queries.add_card(
            connection,
            vehicle=vehicle,
            wheelbase_mm=wheelbase_mm,
            content=Jsonb(dict(content)),
            minutes=Jsonb(dict(minutes)),
            shape=list(shape),
            job_id=job_id,
            **values,
        )
    )


def find(connection: Connection, words: str, wheelbase_mm: int | None) -> list[dict[str, Any]]:
    """Cards by words and wheelbase (to 100 mm); the newest where neither is asked for."""
    queries.alike(connection, least=LEAST_ALIKE)
    return [
        dict(row)
        for row in queries.cards(connection, words=" ".join(words.split())[:80], wheelbase=wheelbase_mm, most=MOST)
    ]


def get(connection: Connection, card_id: int) -> Card:
    """One card. Raises MissingError."""
    row = queries.card(connection, card_id=card_id)
    if row is None:
        raise MissingError("there is no such card")
    return Card(**row)


def drop(connection: Connection, card_id: int) -> None:
    queries.drop_card(connection, card_id=card_id)
