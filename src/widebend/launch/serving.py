"""Who serves from this checkout, and on which port: who holds a lock. The system lets it go when that process ends,
however it does.
"""

from __future__ import annotations

import fcntl
import json
import os
import socket
from dataclasses import dataclass
from pathlib import Path

from .postgres import free_port

BACKLOG = 512


@dataclass
class Serving:
    """The lock of a home folder, held by this process."""

    descriptor: int

    @classmethod
    def held_by_us(cls, home: Path) -> Serving | None:
        """Take the lock; None when another process holds it."""
        descriptor = os.open(home / "serving", os.O_RDWR | os.O_CREAT, 0o644)
        try:
            fcntl.flock(descriptor, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(descriptor)
            return None
        held = cls(descriptor)
        held.say(None)
        return held

    def say(self, port: int | None) -> None:
        """Write who holds it and where it answers, for `stop` and for a second `start`."""
        os.ftruncate(self.descriptor, 0)
        os.pwrite(self.descriptor, json.dumps({"pid": os.getpid(), "port": port}).encode(), 0)

    def end(self) -> None:
        """Let it go."""
        os.close(self.descriptor)


def _holder(home: Path) -> dict[str, int | None]:
    """Return the text of the lock's holder; nothing when nobody holds the lock, whatever the file says."""
    mine = Serving.held_by_us(home)
    if mine is not None:
        mine.end()
        return {}
    try:
        said = json.loads((home / "serving").read_text())
    except (OSError, ValueError):
        return {}
    return said if isinstance(said, dict) else {}


def serving_pid(home: Path) -> int | None:
    """The process that serves from this home."""
    return _holder(home).get("pid")


def is_zombie(home: Path) -> bool:
    """Whether the lock is held by what a killed server left behind only: its forked processes end in a moment."""
    pid = serving_pid(home)
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except (OSError, IndexError):
        return pid is not None
    return state in "ZX"


def serving_address(home: Path) -> str:
    """Where it answers, or that it is still starting."""
    port = _holder(home).get("port")
    return f"http://127.0.0.1:{port}/" if port else "an address it is about to print"


def listening(address: str, preferred: int) -> socket.socket:
    """A socket that listens on the preferred port, or on the next free one; what is asked before the server answers
    waits. Raises ServerTrouble.
    """
    while True:
        gate = socket.socket()
        gate.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            gate.bind((address, free_port(preferred)))
            gate.listen(BACKLOG)
        except OSError:  # somebody else was quicker
            gate.close()
            continue
        return gate
