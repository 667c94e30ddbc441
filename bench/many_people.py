"""Twenty people at ten jobs at once on the program as it is started, by an existing load tool."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from pathlib import Path

import requests

PEOPLE, JOBS, SECONDS, PORT = 20, 10, 150, 8747
ROOT = Path(__file__).resolve().parent.parent
TWIN = 104  # the demo's job that is copied


def bench_people() -> None:
    """What locust measures of twenty people; that no change of theirs was lost."""
    host, home = f"http://127.0.0.1:{PORT}", Path(tempfile.mkdtemp(prefix="wb-people-"))
    home.chmod(0o755)
    env = os.environ | {"WIDEBEND_HOME": str(home), "WIDEBEND_LOAD_HOST": host}
    start = [sys.executable, "-m", "widebend.launch", "start", "--port", str(PORT)]
    server = subprocess.Popen(start, cwd=ROOT, env=env, stdout=subprocess.PIPE, text=True)
    try:
        assert server.stdout
        if not any("is ready" in line for line in server.stdout):
            sys.exit("the program did not start")
        env["WIDEBEND_LOAD_JOBS"] = ",".join(_copied(host) for _ in range(JOBS))
        subprocess.run(
            [sys.executable, "-m", "locust", "-f", "bench/people_at_work.py", "--headless", "--only-summary", "--users",
             str(PEOPLE), "--spawn-rate", "1", "--run-time", f"{SECONDS}s", "--reset-stats", "--loglevel", "WARNING",
             "--host", host], cwd=ROOT, env=env, check=True)  # fmt: skip
    finally:
        subprocess.run([sys.executable, "-m", "widebend.launch", "stop"], cwd=ROOT, env=env, check=False)
        server.wait(30)


def _copied(host: str) -> str:
    """A job of its own that is like the demo's twin system: carried out of the shop and taken in again."""
    with requests.Session() as session:
        page = session.get(f"{host}/take-in", timeout=30).text
        token = re.search(r'name="csrf_token" value="([^"]*)"', page)
        assert token
        bundle = session.get(f"{host}/jobs/{TWIN}/bundle.zip", timeout=30).content
        answer = session.post(f"{host}/take-in", data={"csrf_token": token[1]}, files={"bundle": ("job.zip", bundle)},
                              timeout=60)  # fmt: skip
    found = re.search(r"/jobs/(\d+)/", answer.url)
    assert found, answer.text[:300]
    return found[1]
