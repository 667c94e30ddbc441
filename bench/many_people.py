"""Fifty people at twenty jobs at once on the program as it is started, by an existing load tool."""

from __future__ import annotations

import os
import re
import subprocess
import sys

import requests

from bench.pages import hidden
from bench.started import ROOT, started

PEOPLE, JOBS, SECONDS, PORT = 50, 20, 150, 8747
TWIN = 104  # the demo's job that is copied


def bench_people() -> None:
    """What locust measures of fifty people at twenty jobs, beside bare pages; that no change of theirs was lost."""
    with started(PORT, "wb-people-") as program:
        jobs = ",".join(_copied(program.host) for _ in range(JOBS))
        env = os.environ | {"WIDEBEND_LOAD_HOST": program.host, "WIDEBEND_LOAD_JOBS": jobs}
        subprocess.run(
            [
                sys.executable,
                "-m",
                "locust",
                "-f",
                "bench/people_at_work.py",
                "--headless",
                "--only-summary",
                "--users",
                str(PEOPLE),
                "--spawn-rate",
                "1",
                "--run-time",
                f"{SECONDS}s",
                "--reset-stats",
                "--stop-timeout",
                "20",
                "--loglevel",
                "WARNING",
                "--host",
                program.host,
            ],
            cwd=ROOT,
            env=env,
            check=True,
        )


def _copied(host: str) -> str:
    """A job of its own that is like the demo's twin system: carried out of the shop and taken in again."""
    with requests.Session() as session:
        page = session.get(f"{host}/take-in", timeout=30).text
        bundle = session.get(f"{host}/jobs/{TWIN}/bundle.zip", timeout=30).content
        answer = session.post(
            f"{host}/take-in",
            data={"csrf_token": hidden(page, "csrf_token")},
            files={"bundle": ("job.zip", bundle)},
            timeout=60,
        )
    found = re.search(r"/jobs/(\d+)/", answer.url)
    assert found, answer.text[:300]
    return found[1]
