"""Long searches as they stand in the database."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

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


def search(connection: Connection, search_id: int) -> Search:
    """One search. Raises MissingError."""
    row = queries.search(connection, id=search_id)
    if row is None:
        raise MissingError("There is no such search")
    return Search(**{k: row[k] for k in Search.__dataclass_fields__})
