"""A card sent to a bender, line by line, and the pipe that it says came out."""

from __future__ import annotations

import json
import socket
from collections.abc import Iterator

from ..core.bending import Bent, Card, Row
from ..core.errors import InputError
from .taking import Tool

WAIT_S = 5.0


def bend(at: Tool, card: Card) -> Bent:
    """Bend a card and measure it; the ends added for the clamp are cut off. Raises InputError in the trade's words."""
    try:
        with socket.create_connection(at.address, timeout=1.0) as line:
            line.settimeout(WAIT_S)
            heard = line.makefile("r", encoding="ascii", errors="replace")
            answer = ""
            for words in _program(card):
                line.sendall(words.encode() + b"\n")
                answer = heard.readline().strip()
                if not answer or answer.startswith("ERROR"):
                    raise InputError(
                        f"the bender stopped at “{words}”: {answer.removeprefix('ERROR').strip() or 'silence'}"
                    )
    except OSError as exc:
        raise InputError("the bender does not answer: is it on, and its program loaded?") from exc
    return _measured(answer, card)


def _program(card: Card) -> Iterator[str]:
    yield "NEW " + json.dumps({"od_mm": card.tube.od_mm, "clr_mm": card.die.clr_mm, "length_mm": card.cut_mm})
    for one in card.lines:
        yield f"FEED {one.mark_mm:.4f}"
        yield f"TURN {one.rotation_deg:.4f}"
        yield f"BEND {one.set_deg:.4f}"
    yield "MEASURE"


def _measured(answer: str, card: Card) -> Bent:
    try:
        found = json.loads(answer)
        rows = [Row(**{k: float(v) for k, v in row.items()}) for row in found["rows"]]
        last = float(found["last_mm"]) - card.tail_mm
    except (ValueError, TypeError, KeyError) as exc:
        raise InputError("the bender gave no measure of what it bent: measure the pipe by hand") from exc
    if len(rows) != len(card.lines):
        raise InputError(f"the bender made {len(rows)} bends of {len(card.lines)}: look at the pipe")
    rows[0] = Row(rows[0].distance_mm - card.front_mm, rows[0].rotation_deg, rows[0].angle_deg, rows[0].clr_mm)
    return Bent(tuple(rows), last)
