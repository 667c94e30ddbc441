"""Stand-ins for an angle finder, a laser and a sound meter: they read what their panel was set to, as badly as asked.

`python -m widebend.instruments.stand_in '{"angle": 4001, …}'` serves them, a simulated bender and a simulated phone on
those ports of loopback, and ends with its standard input.
Beside READ a stand-in knows SET (value, noise, drop, absurd) and SHOW, which a real tool has no need of.
"""

from __future__ import annotations

import contextlib
import json
import random
import socket
import socketserver
import sys
import threading
from dataclasses import asdict, dataclass, replace
from typing import Any

from ..core.errors import InputError
from .simulated_bender import SimulatedBender
from .stand_in_phone import StandInPhone
from .taking import Address, Kind


@dataclass(frozen=True)
class Panel:
    """The settings of a stand-in: value and noise in deg, mm or dB, and how often (0 to 1) it drops or errs wildly."""

    value: float
    noise: float
    drop: float = 0.1
    absurd: float = 0.1


START = {"angle": Panel(-6.5, 0.1), "distance": Panel(1240.0, 0.8), "sound": Panel(91.0, 0.5)}


class StandIn(socketserver.ThreadingTCPServer):
    """One simulated tool."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, kind: Kind, port: int = 0, seed: int | None = None) -> None:
        self.kind = kind
        self.panel = START[kind]
        self.chance = random.Random(seed)  # noqa: S311 - it plays a tool, it guards nothing
        super().__init__(("127.0.0.1", port), _Talk)

    @property
    def address(self) -> Address:
        return self.server_address[0], int(self.server_address[1])  # type: ignore[return-value]

    def answer(self, asked: str) -> str | None:
        """Return the reply to one line; None is silence."""
        if asked == "READ":
            return self._reading()
        if asked == "SHOW":
            return json.dumps(asdict(self.panel))
        if asked.startswith("SET "):
            try:
                self.panel = replace(self.panel, **{k: float(v) for k, v in json.loads(asked[4:]).items()})
            except (ValueError, TypeError, AttributeError):
                return "ERROR not a setting"
            return "OK"
        return "ERROR not known"

    def _reading(self) -> str | None:
        if self.chance.random() < self.panel.drop:
            return None
        value = self.panel.value + self.chance.gauss(0.0, self.panel.noise)
        if self.chance.random() < self.panel.absurd:
            value = self.chance.choice((8888.0, -value + 50.0, 0.0, value * 10))
        if self.kind == "sound":
            return f"SOUND {value:.1f} dB"
        return f"ANGLE {value:.2f} deg" if self.kind == "angle" else f"DISTANCE {value / 1000:.4f} m"


class _Talk(socketserver.StreamRequestHandler):
    server: StandIn

    def handle(self) -> None:
        with contextlib.suppress(OSError):
            for line in self.rfile:
                said = self.server.answer(line.decode("ascii", "replace").strip())
                if said is not None:
                    self.wfile.write(said.encode() + b"\n")


def panel_of(address: Address) -> Panel | None:
    """Return the settings of a stand-in; None when there is none at this address, or it is a real tool."""
    try:
        return Panel(**json.loads(_ask(address, "SHOW")))
    except (OSError, ValueError, TypeError):
        return None


def set_panel(address: Address, values: dict[str, Any]) -> None:
    """Set what a stand-in reads. Raises InputError when it cannot be."""
    try:
        said = _ask(address, "SET " + json.dumps(values))
    except OSError as exc:
        raise InputError("the stand-in does not answer: it is begun again in a few seconds") from exc
    if said != "OK":
        raise InputError("this tool cannot be set: it is not a stand-in")


def _ask(address: Address, words: str) -> str:
    with socket.create_connection(address, timeout=1.0) as line:
        line.sendall(words.encode() + b"\n")
        return line.makefile().readline().strip()


def main() -> None:
    """Serve all stand-ins, each on the port that is said for it, until standard input ends."""
    ports = json.loads(sys.argv[1])
    tools: list[StandIn | SimulatedBender | StandInPhone] = [
        StandIn("angle", ports["angle"]),
        StandIn("distance", ports["distance"]),
        StandIn("sound", ports["sound"]),
        SimulatedBender(ports["bender"]),
        StandInPhone(ports["phone"]),
    ]
    for tool in tools:
        threading.Thread(target=tool.serve_forever, daemon=True).start()
    with contextlib.suppress(KeyboardInterrupt):
        sys.stdin.read()


if __name__ == "__main__":
    main()
