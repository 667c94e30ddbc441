"""The worker beside the server: a process of its own that does what is on the queue; one that dies is begun again."""

from __future__ import annotations

import os
import pwd
import subprocess
import sys
import threading

from .keeper import after_people, killed_first
from .plain_user import as_user

AGAIN_S = 2.0  # before a dead worker is begun again: one that cannot begin at all does not keep the machine busy


class Worker:
    """A worker for a database; it ends with its standard input, so also when we are killed."""

    def __init__(self, url: str, user: pwd.struct_passwd | None = None) -> None:
        self.url, self.user = url, user
        self.stopping = threading.Event()
        self.process = self._begun()
        self.watch = threading.Thread(target=self._keep, daemon=True)
        self.watch.start()

    def stop(self) -> None:
        """End it; what it was doing is taken up again by the next worker."""
        self.stopping.set()
        self._end()
        self.watch.join(AGAIN_S + 5.0)
        self._end()  # one begun at the last moment

    def _begun(self) -> subprocess.Popen[bytes]:
        begun = subprocess.Popen(
            [sys.executable, "-m", "widebend.work", "--with-mother"], stdin=subprocess.PIPE, stdout=subprocess.DEVNULL,
            env={**os.environ, "WIDEBEND_DATABASE_URL": self.url}, **as_user(self.user),
        )  # fmt: skip
        killed_first(begun.pid)
        after_people(begun.pid)
        return begun

    def _keep(self) -> None:
        while not self.stopping.is_set():
            self._wait()
            if not self.stopping.wait(AGAIN_S):
                self.process = self._begun()

    def _wait(self, most_s: float | None = None) -> None:
        """Until it has ended; its pipe is closed then."""
        self.process.wait(most_s)
        self._close()

    def _close(self) -> None:
        assert self.process.stdin is not None  # a pipe was asked for
        self.process.stdin.close()

    def _end(self) -> None:
        self._close()
        self._wait(5.0)
