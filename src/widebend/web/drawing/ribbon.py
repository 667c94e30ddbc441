"""The margin ribbon: gap less needed less doubt along the vehicle, the worst over every position of pipe and things."""

from __future__ import annotations

import math

import numpy as np

from ...core.laying import HUNG, REST, LaidPiece, centre_line
from ...core.records import InLine
from ...core.review import Review, against_each, worst_margins
from ..page.window import Window
from .marks import Mark, Scale

RIBBON_PX = 44
RIBBON_LOW_MM, RIBBON_HIGH_MM = -30.0, 60.0


def ribbon(found: Review, window: Window, top: float) -> list[Mark]:
    """Margin along the vehicle: gap less needed less doubt; the line is zero. Where a pipe doubles back, the worst."""
    zero = _ribbon_y(0.0, top)
    marks = [Mark("line", "zero", {"x1": 0, "x2": window.width_px, "y1": zero, "y2": zero})]
    worst = margins_by_column(found, window)
    good, bad = [], []
    for px, margin in sorted(worst.items()):
        y = _ribbon_y(margin, top)
        good.append(f"{px},{y:.1f}")
        if margin < 0:
            bad.append(f"M{px},{zero:.1f}V{y:.1f}")
    if bad:
        marks.append(Mark("path", "under-zero", {"d": "".join(bad), "width": 4.2}))
    if good:
        marks.append(Mark("polyline", "margin", {"points": " ".join(good)}))
    return marks


def _ribbon_y(margin: float, top: float) -> float:
    share = (min(max(margin, RIBBON_LOW_MM), RIBBON_HIGH_MM) - RIBBON_LOW_MM) / (RIBBON_HIGH_MM - RIBBON_LOW_MM)
    return top + 2 + (1 - share) * (RIBBON_PX - 4)


def margins_by_column(found: Review, window: Window, column_px: int = 4) -> dict[int, float]:
    """The least margin [mm] of any pipe in each column of the picture, over all positions of pipe and things, and
    the places between them where something comes nearest.

    A column is where the pipe is at rest. Positions are tried against what they can bring into the ribbon's range.
    """
    worst: dict[int, float] = {}
    across = Scale(window, 0.0, 0.0, 0.0, up=False)
    step = window.span / window.width_px * column_px
    by_mover = _by_mover(found)
    split = against_each([*found.obstacles, *found.obstacles_between], by_mover)
    for mover, pieces in by_mover.items():
        lines = [_dense(centre_line(p), step) for p in pieces]
        lines = [line[(line[:, 0] >= window.low) & (line[:, 0] <= window.high)] for line in lines]
        at = np.concatenate(lines)
        radius = np.concatenate([np.full(len(n), p.tube.od_mm / 2) for n, p in zip(lines, pieces, strict=True)])
        around = split[mover].apart
        if not around.obstacles or not len(at):
            continue
        places = (*found.positions.get(mover, (REST,)), *found.poses_between(mover))
        margins = worst_margins(at, radius, around, places, RIBBON_HIGH_MM)
        columns = np.floor(across.px(at[:, :2])[:, 0] / column_px).astype(int) * column_px
        for px, margin in zip(columns.tolist(), margins.tolist(), strict=True):
            worst[px] = min(worst.get(px, math.inf), margin)
    return worst


def _by_mover(found: Review) -> dict[str, list[LaidPiece]]:
    out: dict[str, list[LaidPiece]] = {}
    for run in found.system.runs:
        for piece in run.pieces:
            if not isinstance(piece.piece, InLine):
                out.setdefault(found.moves.pieces.get((run.run.id, piece.index), HUNG), []).append(piece)
    return out


def _dense(points: np.ndarray, step: float) -> np.ndarray:
    """A line's own corners (n, 3) and places between them at most `step` mm apart."""
    lengths = np.linalg.norm(np.diff(points, axis=0), axis=1)
    counts = np.maximum(1, np.ceil(lengths / step).astype(int))
    ends = np.cumsum(counts)
    at = np.arange(ends[-1] + 1)
    return np.column_stack([np.interp(at, np.concatenate([[0], ends]), points[:, k]) for k in range(3)])
