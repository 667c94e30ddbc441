"""A stand-in for a phone's camera: asked for a photo of tags and surfaces that it is told of, it answers with a JPEG.

One line of JSON asks, "JPEG n" and n bytes answer, or "ERROR" and why. It takes one photo at a time, as a phone does.
"""

from __future__ import annotations

import contextlib
import json
import socket
import socketserver
import threading
from typing import Any

import numpy as np

from ..core.errors import InputError
from ..core.space import Vector
from ..core.tagged import Stuck, Surface, Tagged
from .simulated_phone import Phone, shoot
from .taking import Address

WIDTH, HEIGHT, EQUIVALENT_MM = 3000, 2250, 26.0
NOISE, BLUR_PX = 3.0, 0.7
WAIT_S = 60.0
MOST_ASKED = 2_000_000  # bytes of one question


class StandInPhone(socketserver.ThreadingTCPServer):
    """The simulated phone."""

    allow_reuse_address = True
    daemon_threads = True
    kind = "phone"

    def __init__(self, port: int = 0) -> None:
        self.lens = threading.Lock()
        super().__init__(("127.0.0.1", port), _Talk)

    @property
    def address(self) -> Address:
        return self.server_address[0], int(self.server_address[1])  # type: ignore[return-value]

    def answer(self, asked: bytes) -> bytes:
        """A photo of what one line asks for. Raises what a wrong question raises."""
        data = json.loads(asked)
        with self.lens:
            return shoot(
                Phone.of(EQUIVALENT_MM, WIDTH, HEIGHT, noise=NOISE, blur_px=BLUR_PX),
                np.array(data["turn"]),
                np.array(data["eye"]),
                [_stuck(*row) for row in data["tags"]],
                [Surface(np.array(corners), shade) for corners, shade in data["surfaces"]],
                np.random.default_rng(int(data["seed"])),
            )


def _stuck(number: int, turn: Any, middle: Any, scale: float, radius_mm: float, angle: float) -> Stuck:
    return Stuck(number, np.array(turn), np.array(middle), scale, radius_mm, angle)


class _Talk(socketserver.StreamRequestHandler):
    server: StandInPhone

    def handle(self) -> None:
        with contextlib.suppress(OSError):
            try:
                photo = self.server.answer(self.rfile.readline(MOST_ASKED))
            except (ValueError, KeyError, TypeError, IndexError) as exc:
                self.wfile.write(f"ERROR {type(exc).__name__}\n".encode())
                return
            self.wfile.write(f"JPEG {len(photo)}\n".encode() + photo)


def photograph(address: Address, tagged: Tagged, turn: Vector, eye: Vector, seed: int) -> bytes:
    """A photo of what carries tags, seen from `eye` (3,), the vehicle's axes turned to the lens's by `turn` (3, 3).

    Raises InputError where the phone does not answer.
    """
    tags = [[t.number, t.turn.tolist(), t.middle.tolist(), t.scale, t.radius_mm, t.angle] for t in tagged.stuck]
    asked = {
        "turn": turn.tolist(),
        "eye": eye.tolist(),
        "seed": seed,
        "tags": tags,
        "surfaces": [[one.corners.tolist(), one.shade] for one in tagged.surfaces],
    }
    try:
        with socket.create_connection(address, timeout=WAIT_S) as line, line.makefile("rb") as heard:
            line.sendall(json.dumps(asked).encode() + b"\n")
            word, _, count = heard.readline().decode().strip().partition(" ")
            photo = heard.read(int(count)) if word == "JPEG" else b""
    except (OSError, ValueError) as exc:
        raise InputError("the simulated phone does not answer: it is begun again in a few seconds") from exc
    if not photo:
        raise InputError("the simulated phone could not take that photo")
    return photo
