"""Where the shop's digital tools answer, and whether stand-ins may."""

from __future__ import annotations

from flask import current_app

from ...core.errors import InputError
from ...instruments.taking import Instrument, Tool
from ...store import jobs
from .at_hand import transaction

NAMES: dict[Instrument, str] = {
    "angle": "angle finder",
    "distance": "laser meter",
    "sound": "sound meter",
    "bender": "bender",
    "phone": "simulated phone",
}


def tool_of(kind: Instrument) -> Tool:
    """Where a tool answers. Raises InputError when there is none, or a stand-in that the shop does not let answer."""
    at = found_tool(kind)
    if at is None or (at.stand_in and not stand_ins_answer()):
        raise InputError(f"no {NAMES[kind]} is set up: type what yours shows, or set one up (the tools page says how)")
    return at


def found_tool(kind: Instrument) -> Tool | None:
    """A tool that the program was started with, or its stand-in; None without either."""
    tools: dict[Instrument, Tool] = current_app.extensions["tools"]
    return tools.get(kind)


def stand_ins_answer() -> bool:
    """Whether this shop lets stand-ins answer."""
    with transaction() as connection:
        return jobs.stand_ins_answer(connection)
