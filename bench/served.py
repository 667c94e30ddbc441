"""The program with the demo shop in a database of its own, for benches that ask for pages."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from flask import Flask


@contextmanager
def served_demo() -> Iterator[Flask]:
    """The application as it is served, its kernels compiled."""
    from widebend.demo import fill
    from widebend.launch.postgres import FAST_TESTS, Cluster
    from widebend.store.database import migrate
    from widebend.web import create_app, warm_up

    folder = Path(tempfile.mkdtemp(prefix="wb-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "pg", preferred_port=55_900, settings=FAST_TESTS)
    cluster.start()
    try:
        migrate(cluster.url)
        app = create_app(cluster.url, secret="for the bench only", testing=True)
        app.config["DATABASE_URL"] = cluster.url
        app.config["PROPAGATE_EXCEPTIONS"] = False
        app.config["TESTING"] = False  # a page waits for a way no longer than it does when it is served
        warm_up()
        database = app.extensions["database"]
        database.open()
        with database.transaction() as connection:
            fill(connection)
        yield app
        database.close()
    finally:
        cluster.stop()
