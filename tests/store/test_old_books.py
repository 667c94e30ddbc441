"""Books as each older program left them, with its demo shop in them: brought up, opened, every job looked at.

`books/NNNN.sql.xz` is what the program wrote whose newest migration was NNNN, by PostgreSQL's own dump; photographs and
the queue left out. Where two migrations came with one program there is one file.
"""

from __future__ import annotations

import lzma
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from bs4 import BeautifulSoup

from widebend.launch.postgres import Cluster
from widebend.store.database import migrate, migrations, waiting
from widebend.web import create_app

BOOKS = sorted((Path(__file__).parent / "books").glob("*.sql.xz"))


@pytest.fixture
def old(cluster: Cluster, request: pytest.FixtureRequest) -> Iterator[str]:
    """A database as it was then."""
    name = f"old_{request.param.name[:4]}"
    with psycopg.connect(f"{cluster.server_url}/postgres", autocommit=True) as admin:
        admin.execute(f"DROP DATABASE IF EXISTS {name}".encode())
        admin.execute(f"CREATE DATABASE {name} OWNER shop".encode())
    url = f"{cluster.url.rsplit('/', 1)[0]}/{name}"
    with psycopg.connect(url) as connection:
        connection.execute(lzma.decompress(request.param.read_bytes()))
    yield url


@pytest.mark.parametrize("old", BOOKS, indirect=True, ids=[b.name[:4] for b in BOOKS])
def test_books_of_an_older_program_are_brought_up_and_open(old: str) -> None:
    newest = [n for n, _ in migrations()][-1]
    wanted = waiting(old)
    assert migrate(old) == wanted
    assert not wanted or wanted[-1] == newest
    app = create_app(old, secret="for tests only", testing=True)
    app.extensions["database"].open()
    try:
        visitor = app.test_client()
        floor = visitor.get("/")
        assert floor.status_code == 200
        links = {a["href"].split("/")[2] for a in BeautifulSoup(floor.data, "html.parser").select("a[href^='/jobs/']")}
        numbers = sorted(int(n) for n in links if n.isdecimal())
        assert numbers
        for job in numbers[:3]:
            for step in ("underbody", "layout", "route", "cut", "hang", "layout/bore"):
                assert visitor.get(f"/jobs/{job}/{step}").status_code == 200, f"{job}/{step}"
    finally:
        app.extensions["database"].close()


def test_there_are_books_of_most_programs() -> None:
    assert len(BOOKS) >= 24
