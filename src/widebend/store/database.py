"""The pool, the migrations and the named queries."""

from __future__ import annotations

import re
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import aiosql
import psycopg
from psycopg.rows import dict_row
from psycopg_pool import ConnectionPool

from ..core.errors import NewerBooksError
from .queue_schema import migrate_queue
from .zone import shop_zone

HERE = Path(__file__).parent
MIGRATION_LOCK = 7_281_994  # any number, the same for every process that migrates this database

# a database that is begun again takes seconds; the pool's own tries lie ever further apart
AGAIN_S, PATIENCE_S = 0.1, 6.0

Connection = psycopg.Connection[dict[str, Any]]
queries = aiosql.from_path(HERE / "queries", "psycopg", mandatory_parameters=False)


class RetryingConnection(psycopg.Connection[dict[str, Any]]):
    """A connection that is made as soon as the database is back."""

    @classmethod
    def connect(cls, conninfo: str = "", **how: Any) -> RetryingConnection:  # type: ignore[override]
        """Connect, trying again for a while. Raises OperationalError."""
        until = time.monotonic() + PATIENCE_S
        while True:
            try:
                return super().connect(conninfo, **how)  # type: ignore[return-value]
            except psycopg.OperationalError:
                if time.monotonic() > until:
                    raise
                time.sleep(AGAIN_S)


# nobody waits longer for a record that somebody else holds, nor for one statement: a page says so and is asked again
TIMEOUTS = "-c lock_timeout=15s -c statement_timeout=60s"


class Database:
    """A small pool of connections; one per process, opened after forking."""

    def __init__(self, url: str, most: int = 6) -> None:
        self.pool: ConnectionPool[Connection] = ConnectionPool(
            url,
            connection_class=RetryingConnection,
            min_size=1,
            max_size=most,
            open=False,
            kwargs={"row_factory": dict_row, "options": f"-c TimeZone={shop_zone()} {TIMEOUTS}"},
            timeout=10.0,
            check=ConnectionPool.check_connection,  # one that died with the database is not handed out
        )

    def open(self) -> None:
        self.pool.open(wait=True, timeout=15.0)

    def close(self) -> None:
        self.pool.close()

    @contextmanager
    def transaction(self) -> Iterator[Connection]:
        """A connection whose work is committed as one, or not at all."""
        with self.pool.connection() as connection, connection.transaction():
            yield connection


def migrations() -> list[tuple[int, str]]:
    """Every migration as (number, SQL), in order."""
    found = []
    for path in sorted((HERE / "migrations").glob("*.sql")):
        match = re.match(r"(\d{4})_", path.name)
        if match:
            found.append((int(match[1]), path.read_text()))
    return found


def is_ours(connection: psycopg.Connection[Any]) -> bool:
    """Whether a database holds our tables only, or nothing at all."""
    tables = {
        row[0]
        for row in connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")
        if not str(row[0]).startswith("procrastinate_")
    }
    made = {name for _, sql in migrations() for name in re.findall(r"CREATE TABLE (\w+)", sql)}
    return not tables or {"migrations", "revisions", "shop"} <= tables <= made | {"migrations", "queue_schema"}


def is_anothers(url: str) -> bool:
    """Whether a database has tables, and none of ours."""
    with psycopg.connect(url) as connection:
        tables = {row[0] for row in connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'")}
    return bool(tables) and not {"migrations", "revisions"} <= tables


def waiting(url: str) -> list[int]:
    """The migrations that books with something in them still want; none for empty ones. Raises NewerBooksError."""
    with psycopg.connect(url) as connection:
        row = connection.execute("SELECT to_regclass('public.migrations')").fetchone()
        if row is None or row[0] is None:
            return []
        done = {int(one[0]) for one in connection.execute("SELECT number FROM migrations")}
    _known(done)
    return [number for number, _ in migrations() if number not in done] if done else []


def _known(done: set[int]) -> None:
    ours = max(number for number, _ in migrations())
    if done and max(done) > ours:
        raise NewerBooksError(max(done), ours)


def migrate(url: str) -> list[int]:
    """Bring a database up to date; the numbers that were run. Safe when several processes start at once. Raises
    NewerBooksError, and touches nothing, where a newer program was here.
    """
    ran = []
    with psycopg.connect(url) as connection:
        connection.execute("SELECT pg_advisory_xact_lock(%s)", [MIGRATION_LOCK])
        connection.execute(
            "CREATE TABLE IF NOT EXISTS migrations (number integer PRIMARY KEY, ran_at timestamptz DEFAULT now())"
        )
        done = {row[0] for row in connection.execute("SELECT number FROM migrations")}
        _known(done)
        for number, sql in migrations():
            if number not in done:
                connection.execute(sql.encode())
                connection.execute("INSERT INTO migrations (number) VALUES (%s)", [number])
                ran.append(number)
        migrate_queue(connection)
    return ran
