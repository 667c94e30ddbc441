"""Taking a reading: several are asked for, what is dropped or absurd is left out, the middle one counts."""

from __future__ import annotations

import contextlib
import math
import re
import socket
import statistics
from dataclasses import dataclass
from typing import Literal

from ..core.errors import InputError

Kind = Literal["angle", "distance", "sound"]
Instrument = Literal["angle", "distance", "sound", "bender", "phone"]
Address = tuple[str, int]

ASKED, LEAST_GOOD = 7, 3
WAIT_S = 0.35  # a tool that says nothing for this long has dropped the reading
NAMES: dict[Kind, str] = {"angle": "angle finder", "distance": "laser meter", "sound": "sound meter"}
# what a tool can read at all: an angle finder goes round once; a laser meter sees from its own end to across a hall; a
# sound meter from a quiet room to where it hurts
RANGE = {"angle": (-180.0, 180.0), "distance": (20.0, 60_000.0), "sound": (25.0, 140.0)}
# the least doubt a reading is given: the tools' own resolution, common practice
RESOLUTION = {"angle": 0.1, "distance": 1.0, "sound": 0.5}
OUTLIER = 6.0  # a reading this many typical deviations from the middle one is a slip of the tool
_LINE = re.compile(r"^(ANGLE|DISTANCE|SOUND)\s+([+-]?\d+(?:\.\d+)?)\s+(deg|mm|m|in|dB)$")
_UNITS: dict[Kind, tuple[str, ...]] = {"angle": ("deg",), "distance": ("mm", "m", "in"), "sound": ("dB",)}
_TO_MM = {"mm": 1.0, "m": 1000.0, "in": 25.4}


@dataclass(frozen=True)
class Tool:
    """Where a tool answers, and whether it is a stand-in that ships with the program."""

    address: Address
    stand_in: bool = False


@dataclass(frozen=True)
class Reading:
    """A tool's reading: value and doubt (deg, mm or dB), how many readings counted, were dropped, were absurd."""

    kind: Kind
    value: float
    plus_minus: float
    good: int
    dropped: int
    absurd: int
    stand_in: bool = False

    @property
    def taken_with(self) -> str:
        """The tool; a stand-in is called one wherever its reading goes."""
        name = NAMES[self.kind]
        return f"stand-in {name}" if self.stand_in else name

    @property
    def words(self) -> str:
        """How it was taken, to be kept with the value."""
        left = [f"{n} {what}" for n, what in ((self.dropped, "dropped"), (self.absurd, "absurd")) if n]
        return f"{self.taken_with}, middle of {self.good}" + (f" ({' and '.join(left)} left out)" if left else "")


def take(at: Tool, kind: Kind) -> Reading:
    """A reading in degrees, mm or dB. Raises InputError, in the trade's words, when the tool gives none to trust."""
    tool = NAMES[kind]
    values: list[float] = []
    dropped = 0
    try:
        with socket.create_connection(at.address, timeout=1.0) as line:
            line.settimeout(WAIT_S)
            for _ in range(ASKED):
                value = _one(line, kind)
                if value is None:
                    dropped += 1
                    if dropped == ASKED - LEAST_GOOD + 1 and not values:
                        break
                else:
                    values.append(value)
    except OSError as exc:
        raise InputError(f"the {tool} does not answer: is it on and near? Type the reading instead") from exc
    good = _sensible(values, kind)
    if len(good) < LEAST_GOOD:
        raise InputError(
            f"the {tool} gave {len(good)} readings to trust out of {ASKED}: hold it still, clean the face, "
            "try again, or type what it shows"
        )
    middle = statistics.median(good)
    spread = 2 * statistics.pstdev(good)
    return Reading(
        kind, middle, max(spread, RESOLUTION[kind]), len(good), dropped, len(values) - len(good), at.stand_in
    )


def _one(line: socket.socket, kind: Kind) -> float | None:
    """One reading as the tool sent it, NaN for a line that is no reading, None when nothing came."""
    line.sendall(b"READ\n")
    heard = b""
    with contextlib.suppress(TimeoutError):
        while not heard.endswith(b"\n") and len(heard) < 200:
            chunk = line.recv(200)
            if not chunk:
                break
            heard += chunk
    if not heard:
        return None
    match = _LINE.match(heard.decode("ascii", "replace").strip())
    if not match or match[1] != kind.upper() or match[3] not in _UNITS[kind]:
        return math.nan
    return float(match[2]) * _TO_MM.get(match[3], 1.0)


def _sensible(values: list[float], kind: Kind) -> list[float]:
    low, high = RANGE[kind]
    possible = [v for v in values if math.isfinite(v) and low <= v <= high]
    if len(possible) < LEAST_GOOD:
        return possible
    middle = statistics.median(possible)
    typical = max(statistics.median([abs(v - middle) for v in possible]), RESOLUTION[kind])
    return [v for v in possible if abs(v - middle) <= OUTLIER * typical]
