"""Where a sensor boss or a branch goes on a piece of metal: from its engine end and round from the line, with its hole.

A design says a boss by a piece of the drawing; on the bench a straight's ends come with the bends beside it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from ..laying import LaidRun
from ..records import Design, SegmentedBend, Tap
from .cut_pieces import CutPiece, FixedMark, SitsOn
from .roll import roll_mark
from .tube import circumference

BEAD_MM = 5.0  # a weld is this wide to each side, and the cup brush: common practice, no source


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
