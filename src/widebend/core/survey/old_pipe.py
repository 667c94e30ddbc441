"""Copying the old pipe: legs by tape, angles by angle finder, rolls with the part lying on the bench.

The part that came off is the best survey there is. Entered leg by leg it becomes pieces of a run; the distance
between its ends, taped, checks the whole.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..laying import lay_pieces
from ..records import Bend, Design, Piece, Straight, Tube
from ..space import Vector, pose, wrapped
from ..units import Length


@dataclass(frozen=True)
class OldBend:
    """One bend of the old part and the straight behind it.

    `roll_deg` is from the bend before, clockwise seen against the flow (0 for the first, or in the same plane and
    side; 180 = the other way, as in an S). `then_mm` is the straight from this bend's end to the next one's start.
    """

    angle_deg: float
    roll_deg: float
    then_mm: float


@dataclass(frozen=True)
class Copy:
    """The old part as pieces, and how its ends compare with the tape. Lengths mm.

    `doubt_mm` is how far the ends may be out by the readings' own doubts; `agrees` whether the taped distance lies
    within it, None when it was not taped.
    """

    pieces: tuple[Piece, ...]
    ends_mm: float
    taped_mm: float | None
    doubt_mm: float
    agrees: bool | None


def copy_pipe(
    first_mm: float,
    bends: Sequence[OldBend],
    clr_mm: float,
    tube: Tube,
    *,
    taped_ends_mm: float | None = None,
    doubt_mm: float = 1.0,
    doubt_deg: float = 0.5,
    mirrored: bool = False,
) -> Copy:
    """The pieces of an old pipe; `mirrored` gives its left/right twin. Raises InputError for a leg below nothing."""
    if first_mm < 0 or any(b.then_mm < 0 for b in bends):
        raise InputError("a straight cannot be shorter than nothing")
    pieces = _pieces(first_mm, bends, clr_mm, -1.0 if mirrored else 1.0)
    ends = _between_ends(pieces, tube)
    doubt = _doubt(first_mm, bends, clr_mm, tube, doubt_mm, doubt_deg)
    agrees = None if taped_ends_mm is None else abs(taped_ends_mm - ends) <= math.hypot(doubt, doubt_mm)
    return Copy(tuple(pieces), ends, taped_ends_mm, doubt, agrees)


def _pieces(first_mm: float, bends: Sequence[OldBend], clr_mm: float, hand: float) -> list[Piece]:
    """Rolls from the one before become rolls from the reference line; a mirror turns every roll the other way."""
    out: list[Piece] = [Straight(id="p1", length_mm=Length(first_mm))] if first_mm > 0 else []
    roll = 0.0
    for bend in bends:
        roll = wrapped(roll + hand * bend.roll_deg)
        out.append(Bend(id=f"p{len(out) + 1}", angle_deg=bend.angle_deg, clr_mm=Length(clr_mm), roll_deg=roll))
        if bend.then_mm > 0:
            out.append(Straight(id=f"p{len(out) + 1}", length_mm=Length(bend.then_mm)))
    return out


def _between_ends(pieces: Sequence[Piece], tube: Tube) -> float:
    laid = lay_pieces(pose((0, 0, 0), (1, 0, 0)), pieces, Design(), tube)
    return float(np.linalg.norm(laid[-1].outlet.point)) if laid else 0.0


def _doubt(
    first_mm: float, bends: Sequence[OldBend], clr_mm: float, tube: Tube, doubt_mm: float, doubt_deg: float
) -> float:
    """How far the distance between the ends may be out: each reading moved by its doubt, roots of squares."""
    values = np.array([first_mm, *(v for b in bends for v in (b.angle_deg, b.roll_deg, b.then_mm))], dtype=float)
    doubts = np.array([doubt_mm, *(v for _ in bends for v in (doubt_deg, doubt_deg, doubt_mm))])

    def ends(readings: Vector) -> float:
        again = [OldBend(max(a, 0.05), r, max(t, 0.0)) for a, r, t in readings[1:].reshape(-1, 3)]
        return _between_ends(_pieces(max(float(readings[0]), 0.0), again, clr_mm, 1.0), tube)

    here = ends(values)
    return math.sqrt(sum((ends(values + step) - here) ** 2 for step in np.diag(doubts)))
