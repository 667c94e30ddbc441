"""Somebody who looks at the shop floor while a bench does things to the program, and what the program holds."""

from __future__ import annotations

import threading
import time

import psutil
import requests

from bench.started import Started

TOO_LONG_S = 60.0


class Bystander(threading.Thread):
    """Somebody who looks at a page every half second meanwhile, and what the program takes of memory."""

    def __init__(self, program: Started) -> None:
        super().__init__(daemon=True)
        self.program, self.ended = program, threading.Event()
        self.took_s, self.mb = list[float](), list[float]()

    def run(self) -> None:
        while not self.ended.wait(0.5):
            began = time.monotonic()
            try:
                requests.get(f"{self.program.host}/", timeout=TOO_LONG_S)
            except requests.RequestException:
                self.took_s.append(TOO_LONG_S)
            self.took_s.append(time.monotonic() - began)
            self.mb.append(resident_mb(self.program))


def resident_mb(program: Started) -> float:
    """What the processes that answer hold in memory, together."""
    try:
        servers = [p for p in psutil.Process(program.mother.pid).children() if "widebend.launch" in p.cmdline()]
        return sum(p.memory_info().rss for s in servers for p in s.children()) / 1e6
    except psutil.NoSuchProcess:
        return 0.0
