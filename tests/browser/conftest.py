"""The real program in a real browser: gunicorn on a free port, Debian's chromium."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest
from playwright.sync_api import Browser, Page, expect, sync_playwright

from widebend.launch.postgres import Cluster, free_port

expect.set_options(timeout=15_000)  # of the answer, with another test worker beside it
ROOT = Path(__file__).resolve().parents[2]
QUIET = [
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--enable-unsafe-swiftshader",
]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    path = shutil.which("chromium")
    if not path:
        pytest.fail("chromium is not installed: ./widebend test installs it")
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=path, args=QUIET)
        yield opened
        opened.close()


class Snapshot:
    """What a database holds, kept beside it: it is set back between tests while the server goes on using it."""

    def __init__(self, url: str) -> None:
        self.url = url
        with psycopg.connect(url, autocommit=True) as admin:
            found = admin.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'").fetchall()
            # the server's own worker stays written down
            self.tables = [str(row[0]) for row in found if row[0] != "procrastinate_workers"]
            admin.execute("CREATE SCHEMA kept")
            for table in self.tables:
                admin.execute(f"CREATE TABLE kept.{table} AS TABLE public.{table}".encode())
            query = "SELECT sequencename, start_value, last_value FROM pg_sequences WHERE schemaname = 'public'"
            self.sequences = admin.execute(query).fetchall()

    def put_back(self) -> None:
        with psycopg.connect(self.url) as admin:
            admin.execute("SET session_replication_role = replica")
            admin.execute(f"TRUNCATE {', '.join(f'public.{table}' for table in self.tables)}".encode())
            for table in self.tables:
                admin.execute(f"INSERT INTO public.{table} OVERRIDING SYSTEM VALUE TABLE kept.{table}".encode())
            for name, start, last in self.sequences:
                admin.execute("SELECT setval(%s, %s, %s)", (f"public.{name}", last or start, last is not None))


@pytest.fixture(scope="session")
def served(template: str, cluster: Cluster, tmp_path_factory: pytest.TempPathFactory) -> Iterator[tuple[str, Snapshot]]:
    """The program as ./widebend start serves it, once a test worker, and what its database held at first."""
    base, source = template.rsplit("/", 1)
    with psycopg.connect(f"{cluster.server_url}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE served TEMPLATE {source} OWNER shop".encode())
    # each test worker looks from a place of its own, or two could find the same port free
    port = free_port(18_640 + 100 * int(os.environ.get("PYTEST_XDIST_WORKER", "gw0")[2:]))
    home = tmp_path_factory.mktemp("home")
    # a backup of today is there: one made between two tests would hold the tables that are put back
    (home / "backups").mkdir()
    (home / "backups" / "shop-0.widebend").touch()
    env = {**os.environ, "WIDEBEND_DATABASE_URL": f"{base}/served", "WIDEBEND_HOME": str(home)}
    log = (home / "server.log").open("w")
    command = [sys.executable, "-m", "widebend.launch", "start", "--port", str(port)]
    program = subprocess.Popen(command, env=env, stdout=log, stderr=subprocess.STDOUT, cwd=ROOT)
    url = f"http://127.0.0.1:{port}"
    try:
        _wait_for(url, program, home / "server.log")
        yield url, Snapshot(f"{cluster.server_url}/served")
    finally:
        program.terminate()
        program.wait(20)
        log.close()


@pytest.fixture
def address(served: tuple[str, Snapshot]) -> str:
    """Where the program answers, with its database as it was at first."""
    url, snapshot = served
    snapshot.put_back()
    return url


def _wait_for(url: str, served: subprocess.Popen[bytes], log: Path) -> None:
    for _ in range(4000):  # where nothing was compiled yet it compiles all kernels first, beside other tests
        if served.poll() is not None:
            break
        try:
            urllib.request.urlopen(url + "/rules", timeout=2).close()
            return
        except OSError:
            time.sleep(0.2)
    pytest.fail(f"the server did not start:\n{log.read_text()[-2000:]}")


@pytest.fixture
def page(browser: Browser, address: str) -> Iterator[Page]:
    """A page at desktop size that fails its test on any script error or refused resource."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=address)
    opened = context.new_page()
    wrong: list[str] = []
    opened.on("pageerror", lambda error: wrong.append(str(error)))
    opened.on("console", lambda m: wrong.append(m.text) if "Content Security Policy" in m.text else None)
    opened.set_default_timeout(15_000)
    yield opened
    context.close()
    assert not wrong
