"""Where measuring tools answer: the shop's own by their address, otherwise the stand-ins, run beside the server."""

from __future__ import annotations

import json
import os
import pwd
import subprocess
import sys

from ..instruments.taking import Instrument, Tool
from .plain_user import as_user

VARIABLES: dict[Instrument, str] = {
    "angle": "WIDEBEND_ANGLE_FINDER", "distance": "WIDEBEND_LASER_METER",
    "sound": "WIDEBEND_SOUND_METER", "bender": "WIDEBEND_BENDER",
}  # fmt: skip


class MeasuringTools:
    """The stand-ins as a process of their own; it ends with its standard input, so also when we are killed."""

    def __init__(self, user: pwd.struct_passwd | None = None) -> None:
        command = [sys.executable, "-m", "widebend.instruments.stand_in"]
        self.process = subprocess.Popen(  # noqa: S603 - our own module, nothing from outside
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, **as_user(user)
        )

    def tools(self) -> dict[Instrument, Tool]:
        """Where each tool answers: as the environment says (host:port), or its stand-in."""
        assert self.process.stdout is not None  # a pipe was asked for
        ports: dict[Instrument, int] = json.loads(self.process.stdout.readline() or "{}")
        found = {kind: Tool(("127.0.0.1", port), stand_in=True) for kind, port in ports.items()}
        for kind, variable in VARIABLES.items():
            host, _, port = os.environ.get(variable, "").rpartition(":")
            if host and port.isdigit():
                found[kind] = Tool((host, int(port)))
        return found

    def stop(self) -> None:
        """End the stand-ins."""
        assert self.process.stdin is not None  # a pipe was asked for
        self.process.stdin.close()
        self.process.wait(5)
