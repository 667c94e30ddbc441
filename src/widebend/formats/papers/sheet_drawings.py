"""Drawings of the shop sheet: the runs from below and from the left, and each piece as it lies on the bench."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from reportlab.graphics.shapes import Drawing, Polygon, PolyLine, String
from reportlab.lib import colors
from reportlab.lib.units import mm

from ...core.cutting import CutPiece, on_bench
from ...core.laying import LaidRun, spaced
from ...core.review import Review
from ...core.space import Vector
from . import print_fonts

INK, SOFT, PIPE = colors.HexColor("#17212A"), colors.HexColor("#5A6670"), colors.HexColor("#D9DEE0")
CUT, TAPE = colors.HexColor("#B3261E"), colors.HexColor("#E7D9A8")
STRIP_HIGH = 24 * mm
SKETCH = (36 * mm, 15 * mm)
LINE = colors.HexColor("#2C6796")
# what a stroke of a picture is drawn with: fill, colour, width, dashes
STYLES: dict[str, tuple[Any, Any, float, list[float] | None]] = {
    "kept": (PIPE, INK, 0.7, None),
    "waste": (None, SOFT, 0.4, [2, 2]),
    "slip": (TAPE, None, 0.0, None),
    "cut": (None, CUT, 1.4, None),
    "saw": (None, CUT, 0.5, [1.5, 1.5]),
    "tangent": (None, SOFT, 0.5, None),
    "centre": (None, SOFT, 0.3, [5, 2, 1, 2]),
    "line": (None, LINE, 0.9, None),
    "far line": (None, LINE, 0.6, [2, 2]),
    "witness": (None, INK, 1.2, None),
    "hole": (TAPE, INK, 0.9, None),
    "far hole": (None, INK, 0.6, [2, 2]),
}


def strips(review: Review, cuts: Sequence[CutPiece], run_id: str, width: float) -> list[Drawing]:
    """The whole system from below and from the left, this run's pieces numbered; one scale for both."""
    runs = [r for r in review.system.runs if r.pieces]
    points = np.concatenate([spaced(p, 40.0) for r in runs for p in r.pieces])
    low, high = points.min(axis=0), points.max(axis=0)
    scale = min(width / (high[0] - low[0] + 160.0), (STRIP_HIGH - 8 * mm) / (max(high[1:] - low[1:]) + 140.0))
    # from below the vehicle's right is up the page when its front is at the left
    return [
        _strip(runs, cuts, run_id, width, scale, (low[0] - 80.0, low[axis] - 70.0), axis, words)
        for axis, words in ((1, "from below, front at the left"), (2, "from the left"))
    ]


def _strip(
    runs: Sequence[LaidRun],
    cuts: Sequence[CutPiece],
    run_id: str,
    width: float,
    scale: float,
    origin: tuple[float, float],
    axis: int,
    words: str,
) -> Drawing:
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


def sketch(cut: CutPiece, facing_mm: float, *, mirrored: bool) -> Drawing:
    """One piece as it lies on the bench, engine end at the left, in its stock; empty for a part."""
    wide, tall = SKETCH
    drawing, seen = Drawing(wide, tall), on_bench(cut, facing_mm, mirrored=mirrored)
    if seen is None:
        return drawing
    low, high = seen.box
    scale = float(min((wide - 4) / (high[0] - low[0]), (tall - 4) / (high[1] - low[1])))
    for stroke in seen.strokes:
        flat = ((stroke.points - low) * scale + 2).ravel().tolist()
        fill, colour, width, dash = STYLES[stroke.kind]
        if stroke.closed:
            drawing.add(Polygon(flat, fillColor=fill, strokeColor=colour, strokeWidth=width, strokeDashArray=dash))
        else:
            drawing.add(PolyLine(flat, strokeColor=colour, strokeWidth=width, strokeDashArray=dash))
    return drawing
