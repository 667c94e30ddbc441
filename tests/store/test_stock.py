"""The shelf's book: counts that never go under nothing, also when two take the last one at once."""

import threading

import pytest
from pydantic import ValidationError

from widebend.core.errors import EditError, MissingError
from widebend.core.records import StockItem
from widebend.store import stock
from widebend.store.database import Database

BEND = {"kind": "bend", "od_mm": 63.5, "wall_mm": 1.5, "material": "304", "angle_deg": 90.0, "clr_mm": 95.25, "low": 2}


def _with_one(database: Database, counted: int) -> int:
    with database.transaction() as connection:
        return stock.add(connection, StockItem.model_validate(BEND), counted, "Ann")


def test_two_who_take_the_last_one_at_once(database: Database) -> None:
    """The second waits for the first, and is told who has it."""
    item = _with_one(database, 1)
    told: list[str] = []

    def late() -> None:
        with database.transaction() as connection:
            try:
                stock.move(connection, item, "take", 1, "Bo")
            except EditError as exc:
                told.append(str(exc))

    with database.transaction() as connection:
        assert stock.move(connection, item, "take", 1, "Ann", None) == 0
        second = threading.Thread(target=late)
        second.start()
        second.join(0.4)
        assert second.is_alive()  # it waits until the first is through
    second.join(5)
    assert "there are none, not 1: Ann took of it at" in told[0]


def test_every_booking_is_written_down(database: Database) -> None:
    item = _with_one(database, 4)
    with database.transaction() as connection:
        stock.move(connection, item, "take", 3, "Bo")
        stock.move(connection, item, "return", 1, "Bo")
        stock.move(connection, item, "receive", 10, "Cy")
        assert stock.recount(connection, item, 11, "Dee") == -1
        one = stock.shelf(connection)[-1]
        lines = [line for line in stock.book(connection) if line.item == one.item]
    assert [(line.why, line.change, line.counted, line.who) for line in lines] == [
        ("count", -1, 11, "Dee"),
        ("receive", 10, 12, "Cy"),
        ("return", 1, 2, "Bo"),
        ("take", -3, 1, "Bo"),
        ("first", 4, 4, "Ann"),
    ]
    assert (one.counted, one.is_low, one.who) == (11, False, "Dee")
    assert sum(line.change for line in lines) == one.counted


@pytest.mark.parametrize("number", [0, -2, 10_001])
def test_a_number_that_is_none_is_refused(database: Database, number: int) -> None:
    item = _with_one(database, 5)
    with database.transaction() as connection:
        with pytest.raises(EditError):
            stock.move(connection, item, "receive", number, "Ann")
        with pytest.raises(MissingError):
            stock.move(connection, 99_999, "take", 1, "Ann")
        assert stock.shelf(connection)[-1].counted == 5


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"clr_mm": None}, "a bend needs its radius"),
        ({"wall_mm": 40.0}, "a wall of 40 mm does not fit"),
        ({"clr_mm": 20.0}, "less than half the tube"),
        ({"angle_deg": 200.0}, "less than or equal to 180"),
        ({"kind": "rubber"}, "a rubber needs a name"),
    ],
)
def test_what_cannot_be_is_no_stock(change: dict, words: str) -> None:
    with pytest.raises(ValidationError, match=words):
        StockItem.model_validate(BEND | change)
