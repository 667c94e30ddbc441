"""Clashes of a part while it is bent: its front swings round the die, over the bed and above the floor.

The straight tube lies along -x behind the die, z up, the die on the +y side. While bend k is made, what was bent before
hangs on its front and turns with the clamp; where it is follows from the card alone.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..laying import lay_pieces, spaced
from ..records import Bend, Bender, Design, Tube
from ..space import Vector, pose
from .card import Card
from .rows import Row, pieces_from_rows

STEP_DEG = 5.0
EVERY_MM = 15.0


@dataclass(frozen=True)
class Clash:
    """While bend `number` is made, at some degrees of it, the part is `deep_mm` into `what`."""

    number: int
    at_deg: float
    what: str  # "the floor", "the bed", "its own tail"
    deep_mm: float


def clashes(card: Card, bender: Bender) -> list[Clash]:
    """The worst clash of each bend with each thing; nothing where the part swings free."""
    found: list[Clash] = []
    rows = [Row(line.distance_mm, line.rotation_deg, line.angle_deg, line.clr_mm) for line in card.lines]
    rows[0] = Row(rows[0].distance_mm + card.front_mm, rows[0].rotation_deg, rows[0].angle_deg, rows[0].clr_mm)
    tail = card.cut_mm
    for k, row in enumerate(rows):
        tail -= row.distance_mm + np.radians(row.angle_deg) * row.clr_mm
        worst: dict[str, Clash] = {}
        for turned in np.append(np.arange(0.0, row.angle_deg, STEP_DEG), row.angle_deg):
            points = _front(rows[:k], row, float(max(turned, 1e-3)), card.tube)
            for what, deep in _hits(points, card, bender, tail).items():
                if deep > 0 and (what not in worst or deep > worst[what].deep_mm):
                    worst[what] = Clash(k + 1, float(turned), what, deep)
        found += worst.values()
    return found


def _front(before: Sequence[Row], row: Row, turned_deg: float, tube: Tube) -> Vector:
    """The middle line (n, 3) [mm] of all that is in front of a bend turned so far, where the machine holds it."""
    so_far = [*before, Row(row.distance_mm, row.rotation_deg, turned_deg, row.clr_mm)]
    laid = lay_pieces(
        pose(np.zeros(3), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)), pieces_from_rows(so_far, 0.0), Design(), tube
    )
    last = laid[-1]
    assert isinstance(last.piece, Bend)  # the rows end with it
    end = last.outlet
    throat = end.side(last.piece.roll_deg)
    axes = np.column_stack([end.flow, throat, np.cross(end.flow, throat)])
    held = np.column_stack([(-1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, -1.0)])  # flow to the tail, throat to the die
    ahead = [spaced(piece, EVERY_MM) for piece in laid[:-1]]
    points = np.vstack(ahead) if ahead else np.zeros((0, 3))
    return np.asarray((points - end.point) @ axes @ held.T)


def _hits(points: Vector, card: Card, bender: Bender, tail_mm: float) -> dict[str, float]:
    """How deep a middle line is in the floor, the bed and the straight tail [mm]; nothing under 0 where it is not."""
    if not len(points):
        return {}
    r = float(card.tube.od_mm) / 2
    x, y, z = points.T
    deep = {"the floor": float((r - bender.height_mm - z).max())}
    into = np.minimum.reduce([-x + r, bender.bed_wide_mm / 2 + r - np.abs(y), r - bender.bed_under_mm - z])
    deep["the bed"] = float(into.max())
    beside = np.hypot(y, z)
    at_tail = (x < -2 * r) & (x > -tail_mm)
    deep["its own tail"] = float((2 * r - beside[at_tail]).max()) if at_tail.any() else 0.0
    return deep
