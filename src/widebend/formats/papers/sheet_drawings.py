"""Drawings of the shop sheet: the runs from below and from the left, and each piece as it lies on the bench."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from reportlab.graphics.shapes import Drawing, Line, Polygon, PolyLine, String
from reportlab.lib import colors
from reportlab.lib.units import mm

from ...core.cutting import CutPiece
from ...core.laying import LaidRun, spaced
from ...core.records import Bend, Mitre, Pie
from ...core.review import Review
from ...core.space import Vector
from . import print_fonts

INK, SOFT, PIPE = colors.HexColor("#17212A"), colors.HexColor("#5A6670"), colors.HexColor("#D9DEE0")
CUT = colors.HexColor("#B3261E")
STRIP_HIGH = 24 * mm
SKETCH = (30 * mm, 13 * mm)
LONG_MM = 260.0  # a straight is drawn broken past this


def strips(review: Review, cuts: Sequence[CutPiece], run_id: str, width: float) -> list[Drawing]:
    """The whole system from below and from the left, this run's pieces numbered; one scale for both."""
    runs = [r for r in review.system.runs if r.pieces]
    points = np.concatenate([spaced(p, 40.0) for r in runs for p in r.pieces])
    low, high = points.min(axis=0), points.max(axis=0)
    scale = min(width / (high[0] - low[0] + 160.0), (STRIP_HIGH - 8 * mm) / (max(high[1:] - low[1:]) + 140.0))
    # from below the vehicle's right is up the page when its front is at the left
    return [_strip(runs, cuts, run_id, width, scale, (low[0] - 80.0, low[axis] - 70.0), axis, words)
            for axis, words in ((1, "from below, front at the left"), (2, "from the left"))]  # fmt: skip


def _strip(
    runs: Sequence[LaidRun], cuts: Sequence[CutPiece], run_id: str, width: float, scale: float,
    origin: tuple[float, float], axis: int, words: str,
) -> Drawing:  # fmt: skip
    drawing = Drawing(width, STRIP_HIGH)

    def at(point: Vector) -> tuple[float, float]:
        return (point[0] - origin[0]) * scale, (point[axis] - origin[1]) * scale

    drawing.add(String(0, STRIP_HIGH - 7, words, fontName=print_fonts.PLAIN, fontSize=7, fillColor=SOFT))
    for run in runs:
        own = run.run.id == run_id
        for piece in run.pieces:
            flat = [c for point in spaced(piece, 25.0) for c in at(point)]
            wide = max(0.8, float(piece.tube.od_mm) * scale)
            drawing.add(PolyLine(flat, strokeColor=INK if own else SOFT, strokeWidth=wide))
            if wide > 2:
                drawing.add(PolyLine(flat, strokeColor=PIPE if own else colors.white, strokeWidth=wide - 1.2))
    for cut in cuts:
        x, y = at(cut.laid.middle)
        drawing.add(String(x - 2, y - 2.5, str(cut.number), fontName=print_fonts.BOLD, fontSize=7, fillColor=INK))
    return drawing


def sketch(cut: CutPiece) -> Drawing:
    """One piece lying flat: a straight with its ends, a bend with its cut, slices as wedges."""
    outline, lines = _outline(cut)
    low, high = outline.min(axis=0), outline.max(axis=0)
    wide, tall = SKETCH
    scale = min((wide - 4) / (high[0] - low[0]), (tall - 4) / (high[1] - low[1]))

    def at(point: Sequence[float]) -> tuple[float, float]:
        return 2 + (point[0] - low[0]) * scale, 2 + (point[1] - low[1]) * scale

    drawing = Drawing(wide, tall)
    flat = [c for p in outline for c in at(p)]
    drawing.add(Polygon(flat, fillColor=PIPE, strokeColor=INK, strokeWidth=0.7))
    for a, b, is_cut in lines:
        drawing.add(Line(*at(a), *at(b), strokeColor=CUT if is_cut else SOFT, strokeWidth=1.4 if is_cut else 0.5))
    return drawing


Lines = list[tuple[tuple[float, float], tuple[float, float], bool]]


def _outline(cut: CutPiece) -> tuple[Vector, Lines]:
    """Corners of a piece's outline (n, 2) [mm], and lines across it; a line where it is cut off its stock is said."""
    r, piece = float(cut.tube.od_mm) / 2, cut.laid.piece
    if isinstance(piece, Bend):
        before, after = (cut.marks.keep_before_mm, cut.marks.keep_after_mm) if cut.marks else (0.0, 0.0)
        turn, cut_at = math.radians(piece.angle_deg), cut.marks.cut if cut.marks else ""
        return _bent(float(piece.clr_mm), r, turn, (before, after), cut_at)
    if isinstance(piece, Pie):
        return _wedges(float(piece.clr_mm), r, math.radians(piece.turn_each_deg), piece.slices)
    if isinstance(piece, Mitre):
        half = math.tan(math.radians(piece.turn_deg) / 2) * r
        return np.array([(-2 * r, -r), (half, -r), (-half, r), (-2 * r, r)]), [((half, -r), (-half, r), True)]
    long = min(cut.length_mm, LONG_MM)
    return np.array([(0, -r), (long, -r), (long, r), (0, r)]), []


def _bent(clr: float, r: float, turn: float, legs: tuple[float, float], cut_at: str) -> tuple[Vector, Lines]:
    t = np.linspace(0.0, turn, 20)

    def arc(radius: float) -> Vector:
        return np.column_stack([radius * np.sin(t), clr - radius * np.cos(t)])

    out, inner = arc(clr + r), arc(clr - r)
    onward = np.array([math.cos(turn), math.sin(turn)])
    kept = [out[-1] + legs[1] * onward, inner[-1] + legs[1] * onward]
    outline = np.concatenate([[(-legs[0], -r)], out, kept, inner[::-1], [(-legs[0], r)]])
    ends = ((tuple(out[0]), tuple(inner[0]), cut_at == "inlet"), (tuple(out[-1]), tuple(inner[-1]), cut_at == "outlet"))
    return outline, list(ends)


def _wedges(clr: float, r: float, each: float, count: int) -> tuple[Vector, Lines]:
    edges = [k * each for k in range(count + 1)]

    def corner(radius: float, angle: float) -> tuple[float, float]:
        reach = radius / math.cos(each / 2)
        return reach * math.sin(angle), clr - reach * math.cos(angle)

    out = [corner(clr + r, a) for a in edges]
    inner = [corner(clr - r, a) for a in edges]
    return np.array([*out, *inner[::-1]]), [(a, b, True) for a, b in zip(out, inner, strict=True)]
