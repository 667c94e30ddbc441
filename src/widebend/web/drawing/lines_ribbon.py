"""Ribbons of what was computed along the gas: pressure, temperature, speed; one line a way, on the strips' ruler."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..page.window import Window
from .marks import Mark, Scale, pairs

LINES_PX, HEAD_PX = 52, 16


@dataclass(frozen=True)
class Lines:
    """A ribbon's content: its name with the unit; lines of (station [mm], value) (n, 2) with their class; the words of
    its highest and lowest value.
    """

    name: str
    lines: tuple[tuple[np.ndarray, str], ...]
    high: float
    low: float
    high_words: str
    low_words: str


@dataclass(frozen=True)
class DrawnRibbon:
    """A ribbon ready for the template: where it begins, its marks, its words at the right."""

    name: str
    top: float
    marks: tuple[Mark, ...]
    words: tuple[tuple[float, str], ...]


def lines_ribbon(shown: Lines, window: Window, top: float) -> DrawnRibbon:
    """A ribbon in a window; what lies outside it is left out."""
    across = Scale(window, 0.0, 0.0, 0.0, up=False)
    low_y, high_y = top + LINES_PX - 6, top + HEAD_PX
    reach = shown.high - shown.low
    scale = (low_y - high_y) / reach if reach > 0 and math.isfinite(reach) else 0.0
    marks = [Mark("line", "zero", {"x1": 0, "x2": window.width_px, "y1": low_y, "y2": low_y})]
    for line, css in shown.lines:
        inside = line[(line[:, 0] >= window.low) & (line[:, 0] <= window.high)]
        if len(inside) < 2:
            continue
        x = across.px(np.column_stack([inside[:, 0], np.zeros(len(inside))]))[:, 0]
        y = np.clip(low_y - (inside[:, 1] - shown.low) * scale, high_y, low_y)
        marks.append(Mark("polyline", css, {"points": " ".join(pairs(np.column_stack([x, y])))}))
    return DrawnRibbon(shown.name, top, tuple(marks), ((high_y + 4, shown.high_words), (low_y - 2, shown.low_words)))


def drawn(ribbons: Sequence[Lines], window: Window, top: float) -> list[DrawnRibbon]:
    """Ribbons one under the other."""
    return [lines_ribbon(one, window, top + k * LINES_PX) for k, one in enumerate(ribbons)]
