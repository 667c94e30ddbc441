"""A tick on the creeper card: a piece of a run, how it came out, and the shape that was cut."""

from __future__ import annotations

from typing import Any
from uuid import UUID

from .database import Connection, queries


def of_run(connection: Connection, design_id: int, run_id: str) -> dict[str, dict[str, Any]]:
    """The ticks of a run by piece."""
    return {m["piece_id"]: m for m in queries.card_marks(connection, document_id=design_id, run_id=run_id)}


def keep(
    connection: Connection,
    design_id: int,
    run_id: str,
    piece_id: str,
    outcome: str,
    shape: str,
    note: str = "",
    seconds: int = 0,
) -> None:
    where = {"document_id": design_id, "run_id": run_id, "piece_id": piece_id}
    queries.set_card_mark(connection, **where, outcome=outcome, note=note, shape=shape, seconds=seconds)


def take_back(connection: Connection, design_id: int, run_id: str, piece_id: str) -> None:
    queries.clear_card_mark(connection, document_id=design_id, run_id=run_id, piece_id=piece_id)


def is_new(connection: Connection, stroke: UUID) -> bool:
    """Whether a stroke comes for the first time: what was made without a connection may be sent twice."""
    return bool(queries.keep_stroke(connection, stroke=stroke))


def steps(connection: Connection, design_id: int, run_id: str) -> dict[str, dict[str, str]]:
    """Steps done at the bench by piece, each with the shape it was done on."""
    found: dict[str, dict[str, str]] = {}
    for row in queries.card_steps(connection, document_id=design_id, run_id=run_id):
        found.setdefault(row["piece_id"], {})[row["step"]] = row["shape"]
    return found


def set_step(
    connection: Connection, design_id: int, run_id: str, piece_id: str, step: str, shape: str, *, done: bool
) -> None:
    """A step at the bench is done, or not after all."""
    where = {"document_id": design_id, "run_id": run_id, "piece_id": piece_id, "step": step}
    if done:
        queries.set_card_step(connection, **where, shape=shape)
    else:
        queries.clear_card_step(connection, **where)


def keep_photo(connection: Connection, design_id: int, run_id: str, piece_id: str, sha256: str) -> None:
    """A picture belongs to a piece."""
    queries.keep_card_photo(connection, document_id=design_id, run_id=run_id, piece_id=piece_id, sha256=sha256)


def photos(connection: Connection, design_id: int, run_id: str, piece_id: str) -> list[str]:
    """The pictures of a piece by their hash."""
    return [
        r["sha256"] for r in queries.card_photos(connection, document_id=design_id, run_id=run_id, piece_id=piece_id)
    ]
