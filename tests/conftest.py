"""A real PostgreSQL for the tests: one cluster a run, a database a test from a migrated template."""

from __future__ import annotations

import itertools
import os
import shutil
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from widebend.launch.postgres import FAST_TESTS, Cluster, find_binaries, reachable_by_server
from widebend.store.database import Database, migrate

_numbers = itertools.count()


@pytest.fixture(scope="session")
def cluster() -> Iterator[Cluster]:
    """A throw-away cluster; one a test worker, so that workers never wait for each other."""
    if find_binaries() is None:
        pytest.fail("PostgreSQL is not installed: ./widebend test installs it")
    folder = Path(tempfile.mkdtemp(prefix="wb-"))
    folder.chmod(0o755)
    assert reachable_by_server(folder / "pg")
    worker = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0")[2:])
    made = Cluster(folder / "pg", preferred_port=55_200 + 40 * worker, settings=FAST_TESTS)
    made.start()
    try:
        yield made
    finally:
        made.stop()
        shutil.rmtree(folder, ignore_errors=True)


@pytest.fixture(scope="session")
def template(cluster: Cluster) -> str:
    """A migrated database with the demo shop, to be cloned."""
    from widebend.demo import fill

    migrate(cluster.url)
    database = Database(cluster.url, most=1)
    database.open()
    with database.transaction() as connection:
        fill(connection)
    database.close()
    return cluster.url


@pytest.fixture
def database_url(template: str, cluster: Cluster) -> Iterator[str]:
    """A database of this test's own."""
    name = f"test_{next(_numbers)}"
    base, source = template.rsplit("/", 1)
    with psycopg.connect(f"{cluster.server_url}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name} TEMPLATE {source} OWNER shop".encode())
    yield f"{base}/{name}"
    with psycopg.connect(f"{cluster.server_url}/postgres", autocommit=True) as admin:
        admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


@pytest.fixture
def database(database_url: str) -> Iterator[Database]:
    opened = Database(database_url, most=3)
    opened.open()
    yield opened
    opened.close()
