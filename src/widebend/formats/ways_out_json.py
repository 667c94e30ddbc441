"""How sections come out as plain data and back: what a worker found travels through the database to the page."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..core.laying import Position
from ..core.removal import Move, WayOut
from ..core.review import Section


def way_out_data(way: WayOut, sections: Sequence[Section]) -> dict[str, Any]:
    """A way out as JSON data; its section is named by its number among all."""
    holds = (way.section.pieces, way.section.parts)
    return {
        "section": next(i for i, s in enumerate(sections) if (s.pieces, s.parts) == holds),
        "hit": list(way.hit),
        "moves": [[m.axis, m.by, m.turns] for m in way.moves],
        "places": [[p.turn.tolist(), p.shift.tolist()] for p in way.places],
    }


def read_way_out(data: dict[str, Any], sections: Sequence[Section]) -> WayOut:
    """A way out from its data."""
    moves = tuple(Move(int(axis), float(by), bool(turns)) for axis, by, turns in data["moves"])
    places = tuple(Position("", np.array(turn), np.array(shift)) for turn, shift in data["places"])
    return WayOut(sections[data["section"]], moves, places, tuple(data["hit"]))
