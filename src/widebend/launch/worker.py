"""The worker beside the server: a process of its own that does what is on the queue; what one was doing when it died
or was stopped is taken up by the next.
"""

from __future__ import annotations

import pwd
import subprocess

from .child_process import Beside
from .database_watchdog import after_people, killed_first


class Worker(Beside):
    """A worker for a database."""

    def __init__(self, url: str, user: pwd.struct_passwd | None = None) -> None:
        super().__init__("widebend.work", ["--exit-with-parent"], user, {"WIDEBEND_DATABASE_URL": url})

    def _begun(self) -> subprocess.Popen[bytes]:
        begun = super()._begun()
        killed_first(begun.pid)
        after_people(begun.pid)
        return begun
