"""What the bench ticked on the creeper card: a piece of a run, how it came out, and the shape that was cut."""

from __future__ import annotations

from typing import Any

from .database import Connection, queries


def of_run(connection: Connection, design_id: int, run_id: str) -> dict[str, dict[str, Any]]:
    """The ticks of a run by piece."""
    return {m["piece_id"]: m for m in queries.card_marks(connection, document_id=design_id, run_id=run_id)}


def keep(
    connection: Connection, design_id: int, run_id: str, piece_id: str, outcome: str, shape: str, note: str = ""
) -> None:
    where = {"document_id": design_id, "run_id": run_id, "piece_id": piece_id}
    queries.set_card_mark(connection, **where, outcome=outcome, note=note, shape=shape)


def take_back(connection: Connection, design_id: int, run_id: str, piece_id: str) -> None:
    queries.clear_card_mark(connection, document_id=design_id, run_id=run_id, piece_id=piece_id)
