"""Long searches as they stand in the database."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from psycopg.types.json import Jsonb

from ..core.errors import MissingError
from .database import Connection, queries

WORKING = ("waiting", "working", "stopping")


@dataclass(frozen=True)
class Search:
    """A search: of which revision, what was wished, how far it is, the best so far as data."""

    id: int
    design_id: int
    revision: int
    run: str
    wish: dict[str, Any]
    state: str
    said: str
    share: float
    found: dict[str, Any] | None

    @property
    def goes_on(self) -> bool:
        return self.state in WORKING


def stop_search(connection: Connection, search_id: int) -> None:
    """Ask a search to stop; what it found so far stays."""
    queries.stop_search(connection, id=search_id)


def ways_at_once(connection: Connection, asked: bytes) -> dict[str, Any] | None:
    """Return the ways found for a question (its digest) within a page's time; None where it is not known."""
    found: dict[str, Any] | None = queries.ways_at_once(connection, asked=asked)
    return found


def keep_ways_at_once(connection: Connection, asked: bytes, found: dict[str, Any]) -> None:
    """Keep what was found for a question."""
    queries.keep_ways_at_once(connection, asked=asked, found=Jsonb(found))


def newest_for(connection: Connection, design_id: int, wish: dict[str, Any]) -> Search | None:
    """The newest search for the very same question; None where nobody asked it."""
    row = queries.newest_search(connection, design_id=design_id, wish=Jsonb(wish))
    return Search(**{k: row[k] for k in Search.__dataclass_fields__}) if row else None


def search(connection: Connection, search_id: int) -> Search:
    """One search. Raises MissingError."""
    row = queries.search(connection, id=search_id)
    if row is None:
        raise MissingError("There is no such search")
    return Search(**{k: row[k] for k in Search.__dataclass_fields__})
