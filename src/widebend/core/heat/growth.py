"""How hot each piece's own metal gets, for how far it grows."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..gas import skins_of
from ..laying import NO_RISES, ROOM_C, Rises, System, grown
from ..records import Design
from ..space import Vector
from .covers import covered


def rises_of(design: Design, system: System) -> Rises:
    """How much hotter than the room each piece and part gets at full power [K]; empty where the engine does not say
    enough: then the shop's one mean counts.
    """
    engine = design.settings.engine
    if engine is None or (engine.power_kw is None and engine.litres is None):
        return NO_RISES
    try:
        walls = skins_of(design, system, "full", covered(design))
    except InputError:
        return NO_RISES
    return {key: max(0.0, wall - ROOM_C) for key, wall in walls.items()}


def wanted_rises(design: Design, system: System) -> Rises:
    """The same where the job wants growth by each piece's own heat; empty where the shop's one mean counts."""
    return rises_of(design, system) if design.settings.growth == "by piece" else NO_RISES


@dataclass(frozen=True)
class Gone:
    """How far something has gone when the system is hot [mm, vehicle frame], and how hot it is [C]."""

    name: str
    is_flex: bool
    shift_mm: Vector
    skin_c: float


def gone(design: Design, system: System) -> list[Gone]:
    """Where each flex, each other part and each run's end has gone at full power, from where the system is held. A flex
    takes up what it has gone where the pipe behind it is held.
    """
    rises = rises_of(design, system)
    pieces, parts = grown(design, system, float(design.settings.rules.hot_rise_k), rises)
    mean = float(design.settings.rules.hot_rise_k)
    found = []
    for part, at in system.parts:
        body = parts.get(part.id)
        if body is not None:
            name = part.name or part.item.kind
            found.append(Gone(name, part.item.kind == "flex", body.goes(at.point), rises.get(part.id, mean) + ROOM_C))
    for run in system.runs:
        body = pieces.get((run.run.id, run.pieces[-1].index)) if run.pieces else None
        if body is not None and not run.run.aim:
            name, key = f"end of {run.run.name or run.run.id}", (run.run.id, run.pieces[-1].index)
            found.append(Gone(name, False, body.goes(run.end.point), rises.get(key, mean) + ROOM_C))
    return sorted(found, key=lambda g: (not g.is_flex, -float(np.linalg.norm(g.shift_mm))))
