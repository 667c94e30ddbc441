"""Where measuring tools answer: the shop's own by their address, otherwise the stand-ins, run beside the server."""

from __future__ import annotations

import json
import os
import pwd
import socket
from contextlib import ExitStack
from typing import get_args

from ..instruments.taking import Instrument, Tool
from .child_process import Beside

VARIABLES: dict[Instrument, str] = {
    "angle": "WIDEBEND_ANGLE_FINDER",
    "distance": "WIDEBEND_LASER_METER",
    "sound": "WIDEBEND_SOUND_METER",
    "bender": "WIDEBEND_BENDER",
}


class MeasuringTools(Beside):
    """The stand-ins; one begun again answers where the one before did."""

    def __init__(self, user: pwd.struct_passwd | None = None) -> None:
        kinds: tuple[Instrument, ...] = get_args(Instrument)
        self.ports = dict(zip(kinds, _free_ports(len(kinds)), strict=True))
        super().__init__("widebend.instruments.stand_in", [json.dumps(self.ports)], user)

    def tools(self) -> dict[Instrument, Tool]:
        """Where each tool answers: as the environment says (host:port), or its stand-in."""
        found = {kind: Tool(("127.0.0.1", port), stand_in=True) for kind, port in self.ports.items()}
        for kind, variable in VARIABLES.items():
            host, _, port = os.environ.get(variable, "").rpartition(":")
            if host and port.isdigit():
                found[kind] = Tool((host, int(port)))
        return found


def _free_ports(count: int) -> list[int]:
    """Ports on loopback that nothing listens on, all held until each is found."""
    with ExitStack() as held:
        probes = [held.enter_context(socket.socket()) for _ in range(count)]
        for probe in probes:
            probe.bind(("127.0.0.1", 0))
        return [int(probe.getsockname()[1]) for probe in probes]
