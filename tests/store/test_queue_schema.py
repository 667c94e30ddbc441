"""The queue's own tables follow its package: a database made with an older one is brought up to date."""

from __future__ import annotations

import psycopg

from widebend.store import queue_schema
from widebend.store.queue_schema import migrate_queue, queue_migrations


def test_a_new_database_stands_at_the_newest_step_and_stays_there(database_url: str) -> None:
    with psycopg.connect(database_url) as connection:
        kept = connection.execute("SELECT step FROM queue_schema").fetchone()
        assert kept == (queue_migrations()[-1][0],)
        assert migrate_queue(connection) == []


def test_an_older_one_gets_each_later_step_once(database_url: str, monkeypatch) -> None:
    newer = [*queue_migrations(), ("99.00.00_01_pre_more", "ALTER TABLE procrastinate_jobs ADD COLUMN more integer")]
    monkeypatch.setattr(queue_schema, "queue_migrations", lambda: newer)
    with psycopg.connect(database_url) as connection:
        assert migrate_queue(connection) == ["99.00.00_01_pre_more"]
        connection.execute("SELECT more FROM procrastinate_jobs")
        assert migrate_queue(connection) == []


def test_one_that_does_not_say_is_taken_for_the_first_that_was_shipped(database_url: str) -> None:
    with psycopg.connect(database_url) as connection:
        connection.execute("DROP TABLE queue_schema")
        assert migrate_queue(connection) == [name for name, _ in queue_migrations() if name > queue_schema.FIRST_KEPT]
