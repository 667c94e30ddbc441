"""The creeper card's picture of one bend: stock in outline, what is kept, the cut through the bend's centre."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ...core.cutting import CutPiece
from ...formats.papers.cut_rows import CutRow

WIDTH, HEIGHT, PAD = 720, 240, 46


@dataclass(frozen=True)
class BendDrawing:
    """Paths and points in pixels."""

    kept: str
    waste: str
    centre: str
    cut: tuple[float, float, float, float] | None
    start: tuple[float, float, float, float]
    keep_words: str
    keep_at: tuple[float, float]
    start_at: tuple[float, float]
    cut_at: tuple[float, float]


def draw_bend(cut: CutPiece, words: CutRow) -> BendDrawing | None:
    """The stock bend lying flat, its kept end at the left."""
    marks = cut.marks
    if marks is None:
        return None
    r, clr = float(cut.tube.od_mm) / 2, float(marks.stock.clr_mm)
    leg = max(marks.keep_before_mm, marks.keep_after_mm) if marks.cut else marks.keep_before_mm
    leg = max(leg, 20.0)
    shown_deg = min(marks.stock.angle_deg, marks.angle_deg + 35.0) if marks.cut else marks.angle_deg

    def arc(a: float, b: float, off: float) -> list[tuple[float, float]]:
        # the bend turns up the page about a centre above the start: throat side is toward it
        return [
            (leg + (clr + off) * math.sin(math.radians(t)), clr - (clr + off) * math.cos(math.radians(t)))
            for t in np.linspace(a, b, 24)
        ]

    end = marks.angle_deg
    kept = [(0.0, -r), *arc(0, end, r), *arc(end, 0, -r), (0.0, r)]
    waste = arc(end, shown_deg, r) + arc(shown_deg, end, -r) if marks.cut and shown_deg > end + 0.5 else []
    everything = np.array(kept + waste)
    low, high = everything.min(axis=0), everything.max(axis=0)
    scale = min((WIDTH - 2 * PAD - 120) / (high[0] - low[0]), (HEIGHT - 2 * PAD) / (high[1] - low[1]))

    def px(p: tuple[float, float]) -> tuple[float, float]:
        return PAD + (p[0] - low[0]) * scale, HEIGHT - PAD - (p[1] - low[1]) * scale

    def path(points: list[tuple[float, float]], closed: bool = True) -> str:
        if not points:
            return ""
        text = "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in map(px, points))
        return text + ("Z" if closed else "")

    outer, inner = px(arc(end, end, r + 10)[0]), px(arc(end, end, -r - 10)[0])
    start = (*px((leg, -r)), *px((leg, r + 14)))
    return BendDrawing(
        kept=path(kept),
        waste=path(waste),
        centre=path([(0.0, 0.0), *arc(0, shown_deg if waste else end, 0.0)], closed=False),
        cut=(*outer, *inner) if marks.cut else None,
        start=start,
        keep_words=f"keep {words.keep}" if marks.keep_before_mm or marks.keep_after_mm else "trim to the bend's start",
        keep_at=px((0.0, -r)),
        start_at=(start[2], start[3]),
        cut_at=outer,
    )
