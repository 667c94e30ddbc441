"""A piece as it lies on the bench, for the screen: marks, and tape figures where the tape reads them."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ...core.cutting import CutPiece, Picture, on_bench
from ...core.units import format_length
from .labels import Label, Labels
from .marks import Mark, outline_path, pairs

CSS = {
    "kept": "on-bench-kept",
    "waste": "on-bench-waste",
    "slip": "on-bench-slip",
    "cut": "on-bench-cut",
    "saw": "on-bench-saw",
    "tangent": "on-bench-tangent",
    "centre": "on-bench-centre",
    "line": "on-bench-line",
    "far line": "on-bench-far",
    "witness": "on-bench-witness",
    "hole": "on-bench-hole",
    "far hole": "on-bench-hole far",
}


@dataclass
class PiecePicture:
    """Ready for the template: size in pixels, marks and labels; `words` say it all to who cannot see it."""

    wide: float
    high: float
    words: str
    marks: list[Mark] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)


def draw_piece(
    cut: CutPiece, facing_mm: float, unit: str, size: tuple[float, float], *, figures: bool, mirrored: bool
) -> PiecePicture | None:
    """A piece at its own scale in a frame of `size` pixels, with or without its figures; None for a part."""
    seen = on_bench(cut, facing_mm, mirrored=mirrored)
    if seen is None:
        return None
    wide, high = size
    pad = (96.0, 36.0) if figures else (6.0, 6.0)
    low, top = seen.box
    span = np.maximum(top - low, 1.0)
    per_mm = float(min((wide - 2 * pad[0]) / span[0], (high - 2 * pad[1]) / span[1]))
    middle = (low + top) / 2

    def px(points: np.ndarray) -> np.ndarray:
        return np.asarray((points - middle) * [per_mm, -per_mm] + [wide / 2, high / 2])

    said = [f"{tape.where} {format_length(tape.mm, unit)}" for tape in seen.tapes]
    picture = PiecePicture(wide, high, "; ".join(["engine end at the left", *said]))
    for stroke in seen.strokes:
        at = px(stroke.points)
        path = outline_path([at]) if stroke.closed else f"M{'L'.join(pairs(at))}"
        picture.marks.append(Mark("path", CSS[stroke.kind], {"d": path, "width": 1.0}))
    if figures:
        _figures(picture, seen, px, unit)
    return picture


def _figures(picture: PiecePicture, seen: Picture, px: object, unit: str) -> None:
    """Tapes with what they read: as many as there is room for, what is cut by first."""
    assert callable(px)
    labels = Labels(0.0, 0.0, picture.wide, picture.high)
    low, top = (px(corner[None])[0] for corner in seen.box)
    labels.put("◂ engine end", [(4.0, float((low[1] + top[1]) / 2) + 4.0), (4.0, 14.0)], "on-bench-word")
    for tape in seen.tapes:
        at = px(tape.points)
        if tape.where != "sides":
            picture.marks.append(Mark("path", "on-bench-tape", {"d": f"M{'L'.join(pairs(at))}", "width": 1.0}))
        x, y = at[len(at) // 2] if len(at) > 2 else at.mean(axis=0)
        text = f"{tape.where} {format_length(tape.mm, unit, suffix=False)}"
        half = 4.0 * len(text)
        below, above = (x - half, y + 20.0), (x - half, y - 8.0)
        beside = [(x + 8.0, y + 6.0), (x - 2 * half - 8.0, y + 6.0)]
        places = [above, below, *beside] if tape.where == "throat" else [below, above, *beside]
        labels.put(text, [(float(a), float(b)) for a, b in places], "on-bench-figure")
    if seen.broken:
        labels.put("drawn shorter than it is", [(picture.wide / 2 - 70.0, picture.high - 6.0)], "on-bench-word")
    picture.labels += labels.placed
