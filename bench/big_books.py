"""A shop of many years: 30,000 customers, 50,000 jobs, 200,000 revisions; how long its pages take."""

from __future__ import annotations

import json
import random
import statistics
import time
from collections.abc import Callable

import psycopg

from bench.served import served_demo
from widebend.demo.systems import twin_x
from widebend.store.jobs import dump

CUSTOMERS, JOBS, REVISIONS, OPEN = 30_000, 50_000, 200_000, 60
SYLLABLES = ("ba", "den", "fo", "gri", "hal", "ker", "lo", "mi", "nor", "pel", "qui", "ros", "sta", "tor", "ul", "ven")
KINDS = ("van, rear-drive", "coupe, V engine", "hatchback, 1.8 turbo", "pickup, ladder frame", "estate", "saloon")
TITLES = (
    "cat-back 63.5",
    "downpipe 76.2",
    "muffler swap",
    "side exits",
    "X-pipe",
    "whole system",
    "flex and front pipe",
)
TRIES = 60


def _name(rng: random.Random) -> str:
    return " ".join("".join(rng.choice(SYLLABLES) for _ in range(rng.randint(2, 3))).capitalize() for _ in range(2))


def fill_books(url: str, rng: random.Random) -> None:
    """Everything by COPY: the demo's own rows stay in front."""
    design = json.dumps(dump(twin_x()))
    with psycopg.connect(url) as connection, connection.cursor() as cursor:
        with cursor.copy("COPY customers (name, phone) FROM STDIN") as rows:
            for _ in range(CUSTOMERS):
                rows.write_row((_name(rng), f"555 {rng.randint(0, 9_999_999):07d}"))
        ids = [row[0] for row in cursor.execute("SELECT id FROM customers ORDER BY id")]
        with cursor.copy("COPY vehicles (customer_id, kind, plate) FROM STDIN") as rows:
            for k in range(CUSTOMERS):
                rows.write_row((ids[k], rng.choice(KINDS), f"{chr(65 + k % 26)}{chr(65 + k // 26 % 26)} {k}"))
        vehicles = [row[0] for row in cursor.execute("SELECT id FROM vehicles ORDER BY id")]
        with cursor.copy("COPY jobs (vehicle_id, title, state, made_at) FROM STDIN") as rows:
            for k in range(JOBS):
                state = "open" if k < OPEN else "done"
                rows.write_row((rng.choice(vehicles), rng.choice(TITLES), state, f"20{10 + k * 16 // JOBS:02d}-03-04"))
        cursor.execute(
            "INSERT INTO documents (kind, job_id) SELECT 'design', j.id FROM jobs j "
            "WHERE NOT EXISTS (SELECT 1 FROM documents d WHERE d.job_id = j.id)"
        )
        cursor.execute(
            "INSERT INTO documents (kind, vehicle_id) SELECT 'survey', v.id FROM vehicles v "
            "WHERE NOT EXISTS (SELECT 1 FROM documents d WHERE d.vehicle_id = v.id)"
        )
        cursor.execute(
            "INSERT INTO revisions (document_id, number, content, why) SELECT d.id, 1, '{}', 'new survey' "
            "FROM documents d WHERE d.kind = 'survey' AND NOT EXISTS (SELECT 1 FROM revisions r "
            "WHERE r.document_id = d.id)"
        )
        each = REVISIONS // JOBS
        cursor.execute(
            "INSERT INTO revisions (document_id, number, content, why, back) SELECT d.id, n, %s, 'an edit', "
            "nullif(n - 1, 0) FROM documents d, generate_series(1, %s) n WHERE d.kind = 'design' AND NOT "
            "EXISTS (SELECT 1 FROM revisions r WHERE r.document_id = d.id)",
            (design, each),
        )
        connection.commit()
        connection.autocommit = True
        cursor.execute("VACUUM ANALYZE")


def _p95(tries: list[float]) -> str:
    ranked = sorted(tries)
    return f"median {statistics.median(ranked):7.1f} ms   p95 {ranked[int(0.95 * len(ranked))]:7.1f} ms"


def bench_books() -> None:
    """Search, board, floor and a job's page of a shop with 30,000 customers, 50,000 jobs and 200,000 revisions."""
    rng = random.Random(2)
    with served_demo() as app:
        url = app.config["DATABASE_URL"]
        begun = time.perf_counter()
        fill_books(url, rng)
        with psycopg.connect(url) as connection:
            names = [row[0] for row in connection.execute("SELECT name FROM customers ORDER BY id DESC LIMIT 4000")]
            numbers = [row[0] for row in connection.execute("SELECT id FROM jobs WHERE state = 'done'")]
            counts = [
                connection.execute(f"SELECT count(*) FROM {t}").fetchone()[0]  # type: ignore[index]
                for t in ("customers", "jobs", "revisions")
            ]
        print(f"{counts[0]} customers, {counts[1]} jobs, {counts[2]} revisions ({time.perf_counter() - begun:.0f} s)")
        client = app.test_client()

        def timed(words: str, ask: Callable[[], str]) -> None:
            client.get(ask())
            tries = []
            for _ in range(TRIES):
                at = ask()
                begun = time.perf_counter()
                answer = client.get(at)
                tries.append((time.perf_counter() - begun) * 1000)
                assert answer.status_code in (200, 303), at
            print(f"{words:28s}{_p95(tries)}")

        def typed() -> str:
            """A name with two letters changed round, as it is typed in a hurry."""
            name = list(rng.choice(names))
            k = rng.randrange(1, len(name) - 2)
            name[k], name[k + 1] = name[k + 1], name[k]
            return "/find?q=" + "".join(name).replace(" ", "+")

        timed("find, by a mistyped name", typed)
        timed("find, by a phone's end", lambda: f"/find?q={rng.randint(0, 99999):05d}")
        timed("board", lambda: "/board")
        timed("shop floor", lambda: "/")
        timed("a job's intake", lambda: f"/jobs/{rng.choice(numbers)}/intake")
        timed("a job's hours", lambda: f"/jobs/{rng.choice(numbers)}/hours")
