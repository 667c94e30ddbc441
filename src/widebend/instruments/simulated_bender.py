"""A simulated bender: it is fed a card, line by line, bends with its own springback and noise, and is measured.

It knows nothing of what the card was made for. Lines: `NEW {"od_mm", "clr_mm", "length_mm"}`, `FEED mark_mm`,
`TURN deg`, `BEND deg`, `MEASURE`; and, having no hands, `SET {"share", "back_deg", "noise_deg", "growth"}`.
"""

from __future__ import annotations

import contextlib
import json
import math
import random
import socketserver
from dataclasses import asdict, dataclass, replace

from .taking import Address

LEAST_CLR_MM, MOST_DEG = 5.0, 200.0


@dataclass(frozen=True)
class Metal:
    """How its tube springs back: got = share x set - back, off by noise (one standard deviation); the radius over the
    die's, 0 where the middle line keeps its length.
    """

    share: float = 0.975
    back_deg: float = 0.6
    noise_deg: float = 0.1
    growth: float = 0.0


class SimulatedBender(socketserver.ThreadingTCPServer):
    """One simulated bender; each connection is a tube in it."""

    allow_reuse_address = True
    daemon_threads = True
    kind = "bender"

    def __init__(self, port: int = 0, seed: int | None = None) -> None:
        self.metal = Metal()
        self.chance = random.Random(seed)  # noqa: S311 - it plays a bender, it guards nothing
        super().__init__(("127.0.0.1", port), _Talk)

    @property
    def address(self) -> Address:
        return self.server_address[0], int(self.server_address[1])  # type: ignore[return-value]

    def spring(self, set_deg: float, clr_mm: float) -> tuple[float, float]:
        """Angle and radius of a bend when it is let go."""
        got = self.metal.share * set_deg - self.metal.back_deg + self.chance.gauss(0.0, self.metal.noise_deg)
        got = max(got, 0.01)
        return got, clr_mm * (self.metal.growth or set_deg / got)


class _Tube:
    """A tube being bent: from the front, straights and bends so far."""

    def __init__(self, clr_mm: float, length_mm: float) -> None:
        self.clr_mm, self.length_mm = clr_mm, length_mm
        self.at_mm, self.fed_mm, self.turn_deg = 0.0, 0.0, 0.0
        self.rows: list[dict[str, float]] = []

    def feed(self, mark_mm: float) -> str:
        if mark_mm < self.at_mm - 0.01 or mark_mm > self.length_mm:
            return "ERROR no tube is there: the mark is behind what is bent, or past its end"
        self.fed_mm = mark_mm
        return "OK"

    def bend(self, bender: SimulatedBender, set_deg: float) -> str:
        if not 0 < set_deg <= MOST_DEG:
            return f"ERROR it bends up to {MOST_DEG:g} deg"
        got, clr = bender.spring(set_deg, self.clr_mm)
        self.rows.append(
            {"distance_mm": self.fed_mm - self.at_mm, "rotation_deg": self.turn_deg, "angle_deg": got, "clr_mm": clr}
        )
        self.at_mm, self.turn_deg = self.fed_mm + math.radians(got) * clr, 0.0
        return "OK"

    def measured(self) -> str:
        return json.dumps({"rows": self.rows, "last_mm": self.length_mm - self.at_mm})


class _Talk(socketserver.StreamRequestHandler):
    server: SimulatedBender

    def handle(self) -> None:
        tube: _Tube | None = None
        with contextlib.suppress(OSError):
            for raw in self.rfile:
                word, _, rest = raw.decode("ascii", "replace").strip().partition(" ")
                try:
                    if word == "NEW":
                        given = json.loads(rest)
                        tube = _Tube(max(LEAST_CLR_MM, float(given["clr_mm"])), float(given["length_mm"]))
                        said = "OK"
                    else:
                        said = self._said(word, rest, tube)
                except (ValueError, TypeError, KeyError):
                    said = "ERROR not understood"
                self.wfile.write(said.encode() + b"\n")

    def _said(self, word: str, rest: str, tube: _Tube | None) -> str:
        if word == "SET":
            self.server.metal = replace(self.server.metal, **{k: float(v) for k, v in json.loads(rest).items()})
            return "OK"
        if word == "SHOW":
            return json.dumps(asdict(self.server.metal))
        if tube is None:
            return "ERROR no tube is in the bender"
        if word == "FEED":
            return tube.feed(float(rest))
        if word == "TURN":
            tube.turn_deg += float(rest)
            return "OK"
        if word == "BEND":
            return tube.bend(self.server, float(rest))
        return tube.measured() if word == "MEASURE" else "ERROR not known"
