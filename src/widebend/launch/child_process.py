"""A process of ours beside the server: begun again where it dies, and ended with us, however we end."""

from __future__ import annotations

import logging
import os
import pwd
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Mapping, Sequence
from contextlib import suppress

from .plain_user import as_user

AGAIN_S, MOST_S = 2.0, 30.0  # before a dead one is begun again; one that fails at once each time waits ever longer
QUICK_S = 5.0  # one that ran for longer did begin
ENDS_S = 3.0  # before one that was asked to end is told, and one that was told is killed


class Beside:
    """A module of ours run as a process; it ends with its standard input, so also when we are killed."""

    def __init__(
        self,
        module: str,
        words: Sequence[str] = (),
        user: pwd.struct_passwd | None = None,
        environment: Mapping[str, str] | None = None,
    ) -> None:
        self.command = [sys.executable, "-m", module, *words]
        self.user, self.environment = user, environment or {}
        self.stopping = threading.Event()
        self.process = self._begun()
        self.watch = threading.Thread(target=self._keep, daemon=True)
        self.watch.start()

    def stop(self) -> None:
        """End it, and begin no other."""
        self.stopping.set()
        self._end()
        self.watch.join(AGAIN_S + 5.0)
        self._end()  # one begun at the last moment

    def _begun(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen(  # noqa: S603 - our own module, nothing from outside
            self.command,
            stdin=subprocess.PIPE,
            stdout=subprocess.DEVNULL,
            env={**os.environ, **self.environment},
            **as_user(self.user),
        )

    def _keep(self) -> None:
        pause = AGAIN_S
        while not self.stopping.is_set():
            begun = time.monotonic()
            self._wait()
            killed = self.process.returncode < 0  # from outside: no fault of its own
            pause = AGAIN_S if killed or time.monotonic() - begun > QUICK_S else pause
            if self.stopping.wait(pause):
                return
            words = "%s ended (%d): starting it again after %.0f s"
            logging.getLogger("widebend").warning(words, self.command[2], self.process.returncode, pause)
            pause = min(MOST_S, 2 * pause)
            self._begin_again()

    def _begin_again(self) -> None:
        """Begin another; where the machine has no room for one just now, later."""
        while not self.stopping.is_set():
            try:
                self.process = self._begun()
            except OSError as exc:
                logging.getLogger("widebend").error("%s cannot be started: %s", self.command[2], exc)
                self.stopping.wait(MOST_S)
            else:
                return

    def _wait(self, most_s: float | None = None) -> None:
        """Until it has ended; its pipe is closed then."""
        self.process.wait(most_s)
        self._close()

    def _close(self) -> None:
        assert self.process.stdin is not None  # a pipe was asked for
        self.process.stdin.close()

    def _end(self) -> None:
        """Ask it to end, by its pipe; tell it, where it does not listen yet; kill it, where it does not end."""
        self._close()
        for told in (None, signal.SIGTERM, signal.SIGKILL):
            if told:
                self.process.send_signal(told)
            with suppress(subprocess.TimeoutExpired):
                self._wait(ENDS_S)
                return
