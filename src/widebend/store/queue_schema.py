"""The queue's own tables: made with a new database, brought up to date when the queue's package is."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import psycopg
from procrastinate.schema import SchemaManager

FIRST_KEPT = "03.04.00_50_post_add_retry_failed_job_procedure"  # what databases hold that do not say it


def queue_migrations() -> list[tuple[str, str]]:
    """The package's own steps from one schema to the next as (name, SQL), in order."""
    folder = Path(SchemaManager.get_migrations_path())
    return [(path.stem, path.read_text()) for path in sorted(folder.glob("*.sql"))]


def migrate_queue(connection: psycopg.Connection[Any]) -> list[str]:
    """Make the queue's tables, or take them to what this package works with; the steps that were run."""
    steps = queue_migrations()
    newest = steps[-1][0]
    connection.execute("CREATE TABLE IF NOT EXISTS queue_schema (step text NOT NULL)")
    if connection.execute("SELECT to_regclass('procrastinate_jobs')").fetchone() == (None,):
        connection.execute(SchemaManager.get_schema().encode())
        connection.execute("DELETE FROM queue_schema")
        connection.execute("INSERT INTO queue_schema VALUES (%s)", [newest])
        return []
    kept = connection.execute("SELECT step FROM queue_schema").fetchone()
    behind = [(name, sql) for name, sql in steps if name > (kept[0] if kept else FIRST_KEPT)]
    for _name, sql in behind:
        connection.execute(sql.encode())
    connection.execute("DELETE FROM queue_schema")
    connection.execute("INSERT INTO queue_schema VALUES (%s)", [max(newest, kept[0] if kept else newest)])
    return [name for name, _sql in behind]
