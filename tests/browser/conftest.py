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

import pytest
from playwright.sync_api import Browser, Page, sync_playwright

from widebend.launch.postgres import free_port

ROOT = Path(__file__).resolve().parents[2]
QUIET = ["--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
         "--disable-sync", "--enable-unsafe-swiftshader"]  # fmt: skip


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    path = shutil.which("chromium")
    if not path:
        pytest.fail("chromium is not installed: ./widebend test installs it")
    with sync_playwright() as playwright:
        opened = playwright.chromium.launch(executable_path=path, args=QUIET)
        yield opened
        opened.close()


@pytest.fixture
def address(database_url: str, tmp_path: Path) -> Iterator[str]:
    """The program serving this test's own database, as ./widebend start serves it."""
    # each test worker looks from a place of its own, or two could find the same port free
    port = free_port(18_640 + 100 * int(os.environ.get("PYTEST_XDIST_WORKER", "gw0")[2:]))
    env = {**os.environ, "WIDEBEND_DATABASE_URL": database_url, "WIDEBEND_HOME": str(tmp_path)}
    log = (tmp_path / "server.log").open("w")
    command = [sys.executable, "-m", "widebend.launch", "start", "--port", str(port)]
    served = subprocess.Popen(command, env=env, stdout=log, stderr=subprocess.STDOUT, cwd=ROOT)
    url = f"http://127.0.0.1:{port}"
    try:
        _wait_for(url, served, tmp_path / "server.log")
        yield url
    finally:
        served.terminate()
        served.wait(20)
        log.close()


def _wait_for(url: str, served: subprocess.Popen[bytes], log: Path) -> None:
    for _ in range(600):
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
