"""The shop's own shelf of hardware."""

from __future__ import annotations

from psycopg.types.json import Jsonb

from ..core.hardware import Stocked
from .database import Connection, queries


def items(connection: Connection) -> dict[int, Stocked]:
    """Everything on the shelf, by number, in order of names."""
    rows = queries.shelf_items(connection)
    return {int(row["id"]): Stocked.model_validate(row["content"]) for row in rows}


def keep(connection: Connection, stocked: Stocked) -> None:
    """Put one on the shelf; one of the same name is replaced."""
    queries.keep_shelf_item(connection, name=stocked.name, content=Jsonb(stocked.model_dump(mode="json")))


def drop(connection: Connection, item_id: int) -> None:
    queries.drop_shelf_item(connection, id=item_id)
