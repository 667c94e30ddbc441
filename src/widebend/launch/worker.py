"""The worker beside the server: a process of its own that does what is on the queue."""

from __future__ import annotations

import os
import subprocess
import sys


class Worker:
    """A worker for a database; it ends with its standard input, so also when we are killed."""

    def __init__(self, url: str) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "widebend.work", "--with-mother"], stdin=subprocess.PIPE, stdout=subprocess.DEVNULL,
            env={**os.environ, "WIDEBEND_DATABASE_URL": url},
        )  # fmt: skip

    def stop(self) -> None:
        """End it; what it was doing is taken up again by the next worker."""
        assert self.process.stdin is not None  # a pipe was asked for
        self.process.stdin.close()
        self.process.wait(5)
