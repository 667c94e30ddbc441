"""The shop's shelf: what is there, and every booking of it with who and when."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from psycopg.types.json import Jsonb

from ..core.errors import EditError, MissingError
from ..core.records import Kit, StockItem
from .database import Connection, queries

Move = Literal["take", "return", "receive"]
MOST_AT_ONCE = 10_000
MOST_LINES = 60


@dataclass(frozen=True)
class OnShelf:
    """An item with how many there are and its last booking in words' parts."""

    id: int
    item: StockItem
    counted: int
    who: str = ""
    why: str = ""
    change: int = 0
    moved_at: datetime | None = None

    @property
    def is_low(self) -> bool:
        return self.counted <= self.item.low and not self.item.is_offcut

    @property
    def is_used_up(self) -> bool:
        """Whether it is an offcut that is gone: nobody orders one again."""
        return self.item.is_offcut and not self.counted


@dataclass(frozen=True)
class Line:
    """A line of the shelf's book."""

    item: StockItem
    change: int
    counted: int
    why: str
    who: str
    job_id: int | None
    made_at: datetime


def shelf(connection: Connection) -> list[OnShelf]:
    """Everything that is kept."""
    return [
        OnShelf(
            int(row["id"]),
            StockItem.model_validate(row["content"]),
            int(row["counted"]),
            row["who"] or "",
            row["why"] or "",
            int(row["change"] or 0),
            row["moved_at"],
        )
        for row in queries.stock_items(connection)
    ]


def book(connection: Connection) -> list[Line]:
    """The newest lines of the shelf's book."""
    return [
        Line(
            StockItem.model_validate(row["content"]),
            int(row["change"]),
            int(row["counted"]),
            row["why"],
            row["who"],
            row["job_id"],
            row["made_at"],
        )
        for row in queries.stock_moves(connection, most=MOST_LINES)
    ]


def add(connection: Connection, item: StockItem, counted: int, who: str) -> int:
    """Put a new item on the shelf, this many of it; its number."""
    item_id = int(queries.add_stock_item(connection, content=Jsonb(item.model_dump(mode="json")), counted=counted))
    _book(connection, item_id, counted, counted, "first", who, None)
    return item_id


def put_right(connection: Connection, item_id: int, item: StockItem, who: str) -> None:
    """Say better what an item is: its count stays, its book says who. Raises MissingError."""
    row = queries.stock_item(connection, id=item_id)
    if row is None:
        raise MissingError("That item is no longer on the shelf")
    queries.change_stock_item(connection, id=item_id, content=Jsonb(item.model_dump(mode="json")))
    _book(connection, item_id, 0, int(row["counted"]), "put right", who, None)


def kits(connection: Connection) -> list[tuple[int, Kit]]:
    """Kits that suppliers offer, by their number."""
    return [(int(row["id"]), Kit.model_validate(row["content"])) for row in queries.kits(connection)]


def add_kit(connection: Connection, kit: Kit) -> None:
    queries.add_kit(connection, content=Jsonb(kit.model_dump(mode="json")))


def drop_kit(connection: Connection, kit_id: int) -> None:
    queries.drop_kit(connection, id=kit_id)


def drop(connection: Connection, item_id: int) -> None:
    """Take off the list what was entered and never booked since: a slip of the pen. Raises EditError for any other."""
    if not queries.drop_stock_item(connection, id=item_id):
        raise EditError("it has been booked since it was entered, and its book is kept: say that 0 were counted")


def drop_untouched(connection: Connection, who: str) -> None:
    """Take off the list what one hand put there and no other ever booked."""
    queries.drop_untouched_stock(connection, who=who)


def move(connection: Connection, item_id: int, why: Move, number: int, who: str, job_id: int | None = None) -> int:
    """Take this many, bring them back, or receive a delivery; how many there are now.

    Raises EditError where there are not this many, saying who took the last ones, and MissingError for no such item.
    """
    if not 1 <= number <= MOST_AT_ONCE:
        raise EditError(f"from 1 to {MOST_AT_ONCE} at once", "number")
    by = -number if why == "take" else number
    counted = queries.move_stock(connection, id=item_id, change=by)
    if counted is None:
        raise EditError(_not_so_many(connection, item_id, number), "number")
    _book(connection, item_id, by, int(counted), why, who, job_id)
    return int(counted)


def recount(connection: Connection, item_id: int, counted: int, who: str) -> int:
    """Set the count of an item; how many more (or fewer) that is than was thought. Raises MissingError."""
    if not 0 <= counted <= MOST_AT_ONCE:
        raise EditError(f"from 0 to {MOST_AT_ONCE}", "number")
    before = queries.recount_stock(connection, id=item_id, counted=counted)
    if before is None:
        raise MissingError("That item is no longer on the shelf")
    off = counted - int(before["was"])
    _book(connection, item_id, off, counted, "count", who, None)
    return off


def _not_so_many(connection: Connection, item_id: int, number: int) -> str:
    row = queries.stock_item(connection, id=item_id)
    if row is None:
        raise MissingError("That item is no longer on the shelf")
    there = f"there {'is' if row['counted'] == 1 else 'are'} {row['counted'] or 'none'}, not {number}"
    if not row["taken_at"]:
        return there
    for_job = f" for job {row['job_id']}" if row["job_id"] else ""
    return f"{there}: {row['who']} took of it at {row['taken_at'].astimezone():%H:%M}{for_job}"


def _book(connection: Connection, item_id: int, by: int, counted: int, why: str, who: str, job_id: int | None) -> None:
    queries.book_stock_move(connection, item_id=item_id, change=by, counted=counted, why=why, who=who, job_id=job_id)
