"""What stands on a part's outlets goes where the part goes: a muffler moved takes its tip along."""

from __future__ import annotations

import numpy as np

from ..laying import system_of
from ..records import Design, Part, Placed
from ..space import Vector
from .places import placed_at


def moved_with(design: Design, part: Part, placed: Placed) -> Design:
    """The design with a part at another place, and with it what is set on it port to port, unless locked."""
    moved = {part.id: part.model_copy(update={"placed": placed})}
    if part.placed is not None:
        was, now = part.placed.pose(), placed.pose()
        turn = now.matrix()[:, :3] @ was.matrix()[:, :3].T
        for behind in _set_on(design, part.id):
            assert behind.placed is not None  # what has no place stands on nothing
            moved[behind.id] = behind.model_copy(update={"placed": _carried(behind.placed, was.point, now.point, turn)})
    return design.model_copy(update={"parts": tuple(moved.get(p.id, p) for p in design.parts)}).validated()


def _set_on(design: Design, part_id: str) -> list[Part]:
    """The free parts that stand on a part's outlets, and on theirs."""
    onward: dict[str, list[Part]] = {}
    for a, b in system_of(design).faces:
        ahead, behind = (a, b) if a.port.role != "in" else (b, a)
        if behind.part.placed is not None and not behind.part.locked:
            onward.setdefault(ahead.part.id, []).append(behind.part)
    found: dict[str, Part] = {}
    open_ends = [part_id]
    while open_ends:
        for part in onward.get(open_ends.pop(), []):
            if part.id not in found and part.id != part_id:
                found[part.id] = part
                open_ends.append(part.id)
    return list(found.values())


def _carried(placed: Placed, was: Vector, now: Vector, turn: Vector) -> Placed:
    point = now + turn @ (np.asarray(placed.point, dtype=float) - was)
    if np.allclose(turn, np.eye(3), atol=1e-12):
        return placed.model_copy(update={"point": placed_at(point, placed.axis).point})
    pose = placed.pose()
    return placed_at(point, turn @ pose.flow, turn @ pose.reference)
