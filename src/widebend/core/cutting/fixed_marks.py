"""Where a sensor boss or a branch goes on a piece of metal: from its engine end and round from the line, with its hole.

A design says a boss by a piece of the drawing; on the bench a straight's ends come with the bends beside it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Literal

from ..laying import LaidRun
from ..records import Design, SegmentedBend, Tap
from ..units import format_length
from .roll import RollMark, roll_mark
from .tube import circumference

if TYPE_CHECKING:
    from .lists import CutPiece

BEAD_MM = 5.0  # a weld is this wide to each side, and the cup brush: common practice, no source


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
class _Wanted:
    """A boss or a branch as the design says it: how far from the run's start, how much room it takes to each side."""

    mark: FixedMark
    station_mm: float
    half_mm: float
    roll_deg: float


def with_fixed(design: Design, laid: LaidRun, cuts: Sequence[CutPiece]) -> list[CutPiece]:
    """The pieces of a run, each with what is fixed on it. What sits on a part in line has no mark to measure."""
    starts = [0.0, *itertools.accumulate(_reach(cut) for cut in cuts)]
    found: dict[int, list[FixedMark]] = {}
    for wanted in _wanted(design, laid):
        k = next(
            (k for k, cut in enumerate(cuts) if cut.kind != "mitre" and wanted.station_mm <= starts[k + 1] + 1e-6), None
        )
        if k is None:
            continue
        within = wanted.station_mm - starts[k]
        along = _taped(cuts[k], within, wanted.roll_deg)
        sits_on = None if cuts[k].kind == "part" else _sits_on(cuts, k, within, wanted)
        found.setdefault(k, []).append(replace(wanted.mark, along_mm=along, middle_mm=within, sits_on=sits_on))
    return [replace(cut, fixed=tuple(found[k])) if k in found else cut for k, cut in enumerate(cuts)]


def _wanted(design: Design, laid: LaidRun) -> Iterator[_Wanted]:
    rules = design.settings.rules
    at, station = dict[str, float](), 0.0
    for piece in laid.pieces:
        at[piece.piece.id] = station
        station += piece.length_mm
    tubes = {piece.piece.id: piece.tube for piece in laid.pieces}
    for one in design.attachments:
        if one.kind == "boss" and one.run == laid.run.id and one.piece in at:
            wide = float(rules.boss_od_mm)
            mark = FixedMark(
                one.id,
                one.name or "sensor boss",
                "boss",
                0.0,
                roll_mark(float(tubes[one.piece].od_mm), one.roll_deg),
                float(rules.boss_hole_mm),
                circumference(wide),
            )
            yield _Wanted(mark, at[one.piece] + float(one.along_mm), wide / 2, one.roll_deg)
    for run in design.runs:
        tap = run.start
        if isinstance(tap, Tap) and tap.run == laid.run.id and tap.piece in at:
            od = float(run.tube.od_mm)
            mark = FixedMark(
                run.id,
                run.name or "branch",
                "branch",
                0.0,
                roll_mark(float(tubes[tap.piece].od_mm), tap.roll_deg),
                od - 2 * float(run.tube.wall_mm),
                0.0,
            )
            half = od / 2 / math.sin(math.radians(tap.angle_deg))
            yield _Wanted(mark, at[tap.piece] + float(tap.along_mm), half, tap.roll_deg)


def _reach(cut: CutPiece) -> float:
    """How far a piece of metal goes along its run [mm]: what is pushed into the next is not counted."""
    if cut.kind == "mitre":
        return 0.0
    return cut.laid.length_mm if cut.kind in ("part", "pie") else cut.length_mm - cut.slip_mm


def _taped(cut: CutPiece, within_mm: float, roll_deg: float) -> float:
    """Return the tape reading from the engine end along the side of the tube: round a bend it is longer on the heel."""
    marks = cut.marks
    if marks is None or cut.roll is None:
        return within_mm
    side = math.cos(math.radians(roll_deg - cut.roll.roll_deg))  # 1 on the throat, -1 on the heel
    turned = min(max(0.0, within_mm - marks.keep_before_mm), marks.clr_mm * math.radians(marks.angle_deg))
    return within_mm - turned * (marks.od_mm / 2 * side) / marks.clr_mm


def _sits_on(cuts: Sequence[CutPiece], k: int, within_mm: float, wanted: _Wanted) -> SitsOn | None:
    """Return the weld or bend a boss or a branch sits on; None where it sits on whole tube."""
    cut = cuts[k]
    long, room = _reach(cut), wanted.half_mm + BEAD_MM
    slip_in = cuts[k - 1].slip_mm if k else 0.0  # of the piece ahead, inside this one
    seams = [0.0, long]
    if isinstance(cut.laid.piece, SegmentedBend):
        n = cut.laid.piece.slices
        seams += [long * part / n for part in range(1, n)]
    near = min(seams, key=lambda at: abs(within_mm - at))
    if abs(within_mm - near) >= room and within_mm >= slip_in + room - BEAD_MM:
        return None
    low, high = max(room, slip_in + room), long - room
    free = (low, high) if high > low and len(seams) == 2 else None
    return SitsOn("a slip joint" if within_mm < slip_in else "a weld", free)
