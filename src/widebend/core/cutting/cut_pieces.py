"""Pieces of metal as the bench takes them: how a bend is taken out of its stock, bosses and branches on it."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..laying import LaidPiece
from ..records import Mitre, SegmentedBend, StockBend, Tube
from ..units import format_length
from .roll import RollMark

LEAST_ASKEW_DEG = 0.05  # a face trimmed by less is square


@dataclass(frozen=True)
class BendMarks:
    """How to take one bend out of its stock. Lengths mm along the tube's outside, angles deg. `od_mm` is across the
    bend from heel to throat and `clr_mm` its radius: as measured of the stock, where it is off its nominal size.
    """

    stock: StockBend
    source: str
    keep_before_mm: float
    keep_after_mm: float
    cut: str  # "outlet", "inlet" or "" when the stock bend is used whole
    heel_mm: float
    throat_mm: float
    heel_from_end_mm: float
    throat_from_end_mm: float
    trim_mm: float
    left_over_deg: float
    angle_deg: float
    od_mm: float
    clr_mm: float


@dataclass(frozen=True)
class SitsOn:
    """A stretch that a boss or a branch cannot sit on, and from where to where it could on the same piece [mm]; None:
    nowhere.
    """

    what: Literal["a weld", "a slip joint"]
    free_mm: tuple[float, float] | None


def falls_on(name: str, what: str, free_mm: Sequence[float] | None, unit: str = "mm") -> str:
    """Describe the weld or bend a boss or a branch falls on, and where on the same piece it is free, in words."""
    if not free_mm:
        return f"{name} falls on {what}: no room for it on this piece"
    low, high = (format_length(mm, unit, 0) for mm in free_mm)
    return f"{name} falls on {what}: free from {low} to {high} of this piece"


@dataclass(frozen=True)
class FixedMark:
    """A boss or branch on a piece: `along_mm` from the piece's engine end, taped along that side of the tube
    (along the middle line of slices), `middle_mm` along its middle line, `roll` from the reference line, its hole and
    how much is welded [mm]. A branch is welded by its own run: 0. `sits_on` is what is in its way.
    """

    id: str
    name: str
    kind: Literal["boss", "branch"]
    along_mm: float
    roll: RollMark
    hole_mm: float
    weld_mm: float
    middle_mm: float = 0.0
    sits_on: SitsOn | None = None

    def wrong(self, unit: str = "mm") -> str:
        """Return the fault of its place in words; empty where nothing is."""
        return falls_on(self.name, self.sits_on.what, self.sits_on.free_mm, unit) if self.sits_on else ""


@dataclass(frozen=True)
class CutPiece:
    """One piece of metal, in order from the start. `pieces` are the design pieces (from 0) it is made for."""

    number: int
    kind: str  # "straight", "bend", "mitre", "pie", "part"
    pieces: tuple[int, ...]
    length_mm: float
    tube: Tube
    laid: LaidPiece
    marks: BendMarks | None = None
    roll: RollMark | None = None
    slip_mm: float = 0.0
    problem: str = ""
    fixed: tuple[FixedMark, ...] = ()

    @property
    def face_deg(self) -> float:
        """How far off square its faces are cut: half a mitre's turn, half a slice's; 0 for what is cut square."""
        piece = self.laid.piece
        return piece.turn_deg / 2 if isinstance(piece, Mitre) else half_face_deg(self)

    @property
    def askew(self) -> tuple[float, float]:
        """How far its front face is trimmed off square so that it meets what is on, and toward which side, clockwise
        from the reference line against the flow: there most comes off [deg].
        """
        offset = self.laid.piece.offset
        about, across = offset.turn_deg[:2] if offset else (0.0, 0.0)
        return math.hypot(about, across), math.degrees(math.atan2(about, -across)) % 360.0

    @property
    def count(self) -> int:
        """How many pieces of metal this line stands for: slices are one line."""
        if isinstance(self.laid.piece, SegmentedBend):
            return self.laid.piece.slices
        return 0 if isinstance(self.laid.piece, Mitre) else 1


def shape_of(cut: CutPiece) -> str:
    """A piece's geometry in a short text: what was cut is this piece as long as the text is the same.

    To a tenth of a millimetre and of a degree: less no saw shows.
    """
    figures = [cut.length_mm, float(cut.tube.od_mm), float(cut.tube.wall_mm), cut.face_deg, cut.slip_mm, cut.count]
    if cut.askew[0] > LEAST_ASKEW_DEG:
        figures += cut.askew
    if cut.marks:
        m = cut.marks
        figures += [m.keep_before_mm, m.keep_after_mm, m.heel_mm, m.throat_mm, m.angle_deg]
    for mark in cut.fixed:
        figures += [mark.along_mm, mark.roll.roll_deg, mark.hole_mm]
    text = " ".join([cut.kind, cut.tube.material, *(f"{round(f, 1) + 0.0:g}" for f in figures)])
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def half_face_deg(cut: CutPiece) -> float:
    """How far a piece's faces are cut off square [deg]."""
    return cut.laid.piece.turn_each_deg / 2 if isinstance(cut.laid.piece, SegmentedBend) else 0.0
