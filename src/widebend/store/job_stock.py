"""Stock taken for a job, and how far what it does not give has come: ordered, here, wrong."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal, get_args

from psycopg.types.json import Jsonb

from ..core.errors import EditError
from ..core.records import StockItem
from . import stock
from .database import Connection, queries

OrderState = Literal["ordered", "here", "wrong"]
ORDER_STATES: tuple[OrderState, ...] = get_args(OrderState)


@dataclass(frozen=True)
class StockTaken:
    """Stock taken for a job: the nest as it lay then, items with their counts, the offcuts left on the shelf; which
    jobs were cut with it (`beside`), or which job took its pieces' metal with its own (`led_by`).
    """

    nest: dict[str, Any]
    items: tuple[tuple[int, int], ...]
    left: tuple[int, ...]
    who: str
    made_at: datetime
    beside: tuple[int, ...] = ()
    led_by: int | None = None


@dataclass(frozen=True)
class Order:
    """How far a line has come, who said so and when."""

    state: OrderState
    who: str
    made_at: datetime


def taken(connection: Connection, job_id: int) -> StockTaken | None:
    """Return the stock taken for a job; None where nothing was."""
    row = queries.job_nest(connection, job_id=job_id)
    return _taken(row) if row else None


def _taken(row: dict[str, Any]) -> StockTaken:
    kept = row["content"]
    items = tuple((int(i), int(n)) for i, n in kept["items"])
    return StockTaken(
        kept["nest"],
        items,
        tuple(int(i) for i in kept["left"]),
        row["who"],
        row["made_at"],
        tuple(kept.get("beside", ())),
        kept.get("led_by"),
    )


def take(
    connection: Connection,
    job_id: int,
    who: str,
    nest: dict[str, Any],
    items: Sequence[tuple[int, int]],
    left: Sequence[StockItem],
    beside: Mapping[int, dict[str, Any]] | None = None,
) -> None:
    """Take items (number, how many) for a job and put what is left of them back as offcuts, all or nothing. Jobs that
    are cut with it keep their own part of the nest.

    Raises EditError where one is gone meanwhile, saying who took it, or where the job has taken already.
    """
    for item_id, number in items:
        stock.move(connection, item_id, "take", number, who, job_id)
    offcuts = [stock.add(connection, one, 1, who) for one in left]
    others = beside or {}
    content = {"nest": nest, "items": [list(pair) for pair in items], "left": offcuts, "beside": list(others)}
    follows = {other: {"nest": part, "items": [], "left": [], "led_by": job_id} for other, part in others.items()}
    for job, kept in {job_id: content, **follows}.items():
        if not queries.keep_job_nest(connection, job_id=job, content=Jsonb(kept), who=who):
            raise EditError(f"job {job} has its bars already: put them back first")


def put_back(connection: Connection, job_id: int, who: str) -> int:
    """Bring back all that was taken for a job; the offcuts it left go again. How many things came back.

    Raises EditError where nothing was taken, where another job took it with its own, or an offcut has been taken since.
    """
    row = queries.drop_job_nest(connection, job_id=job_id)
    if row is None:
        raise EditError("nothing was taken for this job")
    was = _taken(row)
    if was.led_by and taken(connection, was.led_by):
        raise EditError(f"it was taken together with job {was.led_by}: put it back there")
    for other in was.beside:
        queries.drop_job_nest(connection, job_id=other)
    for item_id in was.left:
        try:
            stock.drop(connection, item_id)
        except EditError as exc:
            raise EditError("a rest that was left on the shelf has been taken since: bring it back first") from exc
    for item_id, number in was.items:
        stock.move(connection, item_id, "return", number, who, job_id)
    return sum(number for _, number in was.items)


def orders(connection: Connection, job_id: int) -> dict[str, Order]:
    """How far the lines of a job's parts list have come, by their words."""
    return {
        row["line"]: Order(row["state"], row["who"], row["made_at"])
        for row in queries.job_orders(connection, job_id=job_id)
    }


def order(connection: Connection, job_id: int, line: str, state: str, who: str) -> None:
    """Say how far a line has come; nothing said takes it back. Raises EditError for a state that is none."""
    if not state:
        queries.clear_job_order(connection, job_id=job_id, line=line)
    elif state in ORDER_STATES:
        queries.set_job_order(connection, job_id=job_id, line=line, state=state, who=who)
    else:
        raise EditError(f"a line is one of {', '.join(ORDER_STATES)}")
