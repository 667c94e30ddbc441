"""Faults of making: rings too short to hold, slices with next to no throat, bosses on welds.

By the cut list of the runs with the job's own stock: the nest on the Cut step may keep other legs on its bends.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from ..cutting import CutList, CutPiece, cut_lists, slice_heel_and_throat
from ..laying import System, fitted_of
from ..records import Design, Rules, SegmentedBend
from .findings import Finding, point


def making_findings(
    design: Design, system: System, known: Collection[tuple[str, int | None]] = ()
) -> Iterator[Finding]:
    """Yield the faults of making every run; `known` are pieces (run, index) that are said to be too short already. What
    is on the vehicle was made.
    """
    runs = [run for run in system.runs if run.pieces]
    for run, cuts in zip(runs, cut_lists(design, runs), strict=True):
        on = fitted_of(design, run.run.id)
        for found in list_findings(run.run.id, cuts, design.settings.rules):
            piece = run.pieces[found.piece or 0].piece
            if piece.id not in on and not (found.code == "ring" and (run.run.id, found.piece) in known):
                yield found


def list_findings(run_id: str, cuts: CutList, rules: Rules) -> Iterator[Finding]:
    """Yield the faults of making one cut list."""
    for k, cut in enumerate(cuts.pieces):
        index, at = cut.laid.index, point(cut.laid.middle)
        if cut.kind == "straight" and cut.length_mm < rules.least_ring_mm - 1e-6 and not _by_a_mitre(cuts.pieces, k):
            yield Finding("ring", run_id, index, gap_mm=cut.length_mm, needed_mm=float(rules.least_ring_mm), at=at)
        piece = cut.laid.piece
        if isinstance(piece, SegmentedBend):
            od = float(cut.tube.od_mm)
            throat = slice_heel_and_throat(float(piece.clr_mm), od, piece.turn_each_deg)[1]
            if throat < rules.least_throat_mm - 1e-6:
                yield Finding("throat", run_id, index, gap_mm=throat, needed_mm=float(rules.least_throat_mm), at=at)
        for mark in cut.fixed:
            if mark.sits_on:
                free = mark.sits_on.free_mm or ()
                yield Finding("boss-weld", run_id, index, names=(mark.name, mark.sits_on.what), figures=free, at=at)


def _by_a_mitre(pieces: Sequence[CutPiece], k: int) -> bool:
    """Whether a straight meets another across a mitre: both come from one length, cut through and turned."""
    beside = [pieces[i] for i in (k - 1, k + 1) if 0 <= i < len(pieces)]
    return any(cut.kind == "mitre" for cut in beside)
