"""The tips from behind in their cut-outs, everything at one scale."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...core.review import TipSeen
from ...core.units import format_length

WIDTH_PX, HEIGHT_PX = 1240.0, 330.0


@dataclass(frozen=True)
class _Frame:
    """(right, up) in mm to pixels, the same scale both ways."""

    middle: np.ndarray
    per_mm: float

    def at(self, point: np.ndarray) -> np.ndarray:
        px = (point - self.middle) * [self.per_mm, -self.per_mm] + [WIDTH_PX / 2, HEIGHT_PX / 2]
        return np.asarray(px)

    def path(self, outline: np.ndarray) -> str:
        return "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in self.at(outline).tolist()) + "Z"


def draw_from_behind(seen: Sequence[TipSeen], wanted: float, unit: str) -> dict[str, Any] | None:
    """Everything from behind at one scale; None without a tip."""
    if not seen:
        return None
    points = np.concatenate(
        [t.outline for t in seen] + [np.array([t.middle - t.od_mm, t.middle + t.od_mm]) for t in seen]
    )
    low, high = points.min(axis=0) - 90.0, points.max(axis=0) + 90.0
    frame = _Frame((low + high) / 2, min(WIDTH_PX / (high[0] - low[0]), HEIGHT_PX / (high[1] - low[1])))
    outlines = {t.cut_out: frame.path(t.outline) for t in seen if t.cut_out}
    tips: list[dict[str, Any]] = []
    for t in seen:
        x, y = frame.at(t.middle).tolist()
        state = (
            "touches" if (t.least_mm or 0.0) < 0 else "tight" if t.least_mm is not None and t.least_mm < wanted else ""
        )
        gap = "floats free" if t.least_mm is None else f"{format_length(t.least_mm, unit)} gap"
        tips.append(
            {
                "x": x,
                "y": y,
                "r": t.od_mm / 2 * frame.per_mm,
                "state": state,
                "name": t.name,
                "gap": gap,
                "wanted": (t.od_mm / 2 + wanted) * frame.per_mm,
                "low": 70.0 + 18.0 * (len(tips) % 2),
            }
        )
    centre = float(frame.at(np.array([0.0, low[1]]))[0])
    return {"outlines": outlines, "tips": tips, "centre": centre, "bar": 100.0 * frame.per_mm, "scale": frame.per_mm}
