"""Curves over an axis: for screens and paper, with the figures in a table beside them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .marks import Mark, pairs

WIDE, TALL = 900, 300
LEFT, RIGHT, TOP, BOTTOM = 52, 26, 16, 38
STEPS = (1, 2, 5, 10, 20, 25, 50, 100, 200, 250, 500, 1000, 2000)


@dataclass(frozen=True)
class Curve:
    """One curve: its words, its class, its points (n, 2)."""

    name: str
    css: str
    points: np.ndarray


@dataclass(frozen=True)
class Band:
    """A stretch of the axis that means something."""

    low: float
    high: float
    words: str


@dataclass(frozen=True)
class Plot:
    """A drawing ready for the template: marks, ticks as (place, words), names of the axes and of the curves."""

    marks: tuple[Mark, ...]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    x_name: str
    y_name: str
    keys: tuple[tuple[str, str], ...]
    words: tuple[tuple[float, float, str], ...]


def plot(
    curves: Sequence[Curve],
    x_name: str,
    y_name: str,
    *,
    x_range: tuple[float, float],
    y_range: tuple[float, float],
    bands: Sequence[Band] = (),
    signs: Sequence[tuple[float, float, str]] = (),
) -> Plot:
    """Curves in a frame; `signs` are places (x, y) with a word."""
    (x0, x1), (y0, y1) = x_range, y_range

    def px(points: np.ndarray) -> np.ndarray:
        x = LEFT + (points[:, 0] - x0) / (x1 - x0) * (WIDE - LEFT - RIGHT)
        y = TALL - BOTTOM - (np.clip(points[:, 1], y0, y1) - y0) / (y1 - y0) * (TALL - TOP - BOTTOM)
        return np.column_stack([x, y])

    marks: list[Mark] = []
    for band in bands:
        (a, _), (b, _) = px(np.array([[max(band.low, x0), y0], [min(band.high, x1), y1]]))
        if b > a:
            corners = np.array([[a, TOP], [b, TOP], [b, TALL - BOTTOM], [a, TALL - BOTTOM]])
            marks.append(Mark("poly", "curve-band", {"points": " ".join(pairs(corners))}, band.words))
    x_ticks, y_ticks = _ticks(x0, x1, 9), _ticks(y0, y1, 6)
    for y in y_ticks:
        at = float(px(np.array([[x0, y]]))[0, 1])
        marks.append(Mark("line", "curve-grid", {"x1": LEFT, "x2": WIDE - RIGHT, "y1": at, "y2": at}))
    for curve in curves:
        inside = curve.points[(curve.points[:, 0] >= x0) & (curve.points[:, 0] <= x1)]
        if len(inside) > 1:
            marks.append(Mark("polyline", f"curve {curve.css}", {"points": " ".join(pairs(px(inside)))}, curve.name))
    placed = [(*px(np.array([[x, y]]))[0].tolist(), words) for x, y, words in signs]
    marks += [Mark("lozenge", "lozenge tight", {"x": x, "y": y}, words) for x, y, words in placed]
    return Plot(
        tuple(marks),
        tuple((float(px(np.array([[x, y0]]))[0, 0]), f"{x:g}") for x in x_ticks),
        tuple((float(px(np.array([[x0, y]]))[0, 1]), f"{y:g}") for y in y_ticks),
        x_name,
        y_name,
        tuple((c.name, c.css) for c in curves),
        tuple((x, y - 12, words) for x, y, words in placed),
    )


def _ticks(low: float, high: float, about: int) -> list[float]:
    step = next((s for s in STEPS if (high - low) / s <= about), STEPS[-1])
    first = math.ceil(low / step)
    return [k * step for k in range(first, math.floor(high / step) + 1)]
