"""The program as a shop starts it, in a home of its own, and its processes: for benches that do things to it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

import psutil

ROOT = Path(__file__).resolve().parent.parent
FORKED = "widebend.launch"


@dataclass(frozen=True)
class Started:
    """A program that was started: where it answers and where it keeps its things."""

    host: str
    home: Path
    mother: subprocess.Popen[str]

    def one(self, kind: str) -> psutil.Process | None:
        """A process by what it does: keeper, server, answering, worker, database, connection; None when none lives."""
        try:
            return next(iter(self._all(kind)), None)
        except (psutil.NoSuchProcess, OSError, ValueError):
            return None

    def _all(self, kind: str) -> list[psutil.Process]:
        keeper = psutil.Process(self.mother.pid)
        under = [p for p in keeper.children() if p.status() != psutil.STATUS_ZOMBIE]
        if kind == "keeper":
            return [keeper]
        if kind == "worker":
            return [p for p in under if "widebend.work" in p.cmdline()]
        servers = [p for p in under if FORKED in p.cmdline()]
        if kind in ("server", "answering"):
            return servers if kind == "server" else [p for s in servers for p in s.children()]
        postmaster = psutil.Process(self.postmaster())
        busy = [p for p in postmaster.children() if "postgres: shop" in " ".join(p.cmdline())]
        return [postmaster] if kind == "database" else busy

    def postmaster(self) -> int:
        """The database's first process."""
        return int((self.home / "postgres" / "data" / "postmaster.pid").read_text().split("\n", 1)[0])

    def stop(self) -> None:
        """End it as a person would."""
        command = [sys.executable, "-m", "widebend.launch", "stop"]
        subprocess.run(command, cwd=ROOT, env=environment(self.home), check=False, stdout=subprocess.DEVNULL)


def begun(home: Path, port: int) -> Started:
    """Start the program and wait until it says that it is ready; what it prints goes to a file of its home."""
    said = home / f"said-{time.monotonic_ns()}"
    with said.open("w") as out:
        mother = subprocess.Popen(
            [sys.executable, "-m", "widebend.launch", "start", "--port", str(port)],
            cwd=ROOT,
            env=environment(home),
            stdout=out,
            stderr=out,
            text=True,
        )
    while "is ready" not in said.read_text():
        if mother.poll() is not None:
            sys.exit(f"the program did not start: {said.read_text()}")
        time.sleep(0.02)
    return Started(f"http://127.0.0.1:{json.loads((home / 'serving').read_text())['port']}", home, mother)


def environment(home: Path) -> dict[str, str]:
    """The environment of a program that keeps its things in `home`."""
    return os.environ | {"WIDEBEND_HOME": str(home), "PYTHONDONTWRITEBYTECODE": ""}  # as where a shop starts it


def new_home(prefix: str) -> Path:
    """A folder for a program's things, which the users that serve can enter."""
    home = Path(tempfile.mkdtemp(prefix=prefix))
    home.chmod(0o755)
    return home


@contextmanager
def started(port: int, prefix: str) -> Iterator[Started]:
    """The program with the demo shop in a home of its own; stopped at the end."""
    program = begun(new_home(prefix), port)
    try:
        yield program
    finally:
        program.stop()
