"""A drawing of a kind of hardware that shows what each of its measures means.

What a measure means is found out, not written down: the part is made a little bigger in it, and where that shows most,
along which axis, a dimension line is drawn.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ...core.errors import InputError
from ...core.hardware import Kind, item_of
from ...core.laying import part_bodies
from ...core.records import Part
from ...core.space import pose
from .shapes import hull

WIDTH_PX, HEIGHT_PX, PAD_PX = 460.0, 150.0, 34.0


@dataclass(frozen=True)
class Dimension:
    """A dimension line in one view, with the letter the form shows at the field."""

    letter: str
    x1: float
    y1: float
    x2: float
    y2: float


@dataclass(frozen=True)
class MeasureDrawing:
    """Two views: outlines as polygon points, dimension lines; and which letter each measure has."""

    width: float
    height: float
    top: list[str]
    side: list[str]
    top_lines: list[Dimension]
    side_lines: list[Dimension]
    letters: dict[str, str]


def draw_measures(kind: Kind, values: Mapping[str, float]) -> MeasureDrawing | None:
    """The kind drawn with these measures; None where they make no part."""
    corners, boxes = _corners(kind, values), _boxes(kind, values)
    if corners is None or boxes is None:
        return None
    low, high = boxes[:, 0].min(axis=0), boxes[:, 1].max(axis=0)
    span = high - low
    scale = min((WIDTH_PX - 2 * PAD_PX) / span[0], *((HEIGHT_PX - 2 * PAD_PX) / span[i] for i in (1, 2)))

    def px(point: np.ndarray, axis: int) -> tuple[float, float]:
        sign = 1.0 if axis == 1 else -1.0
        return (
            float(WIDTH_PX / 2 + (point[0] - (low[0] + high[0]) / 2) * scale),
            float(HEIGHT_PX / 2 + sign * (point[axis] - (low[axis] + high[axis]) / 2) * scale),
        )

    lines: dict[int, list[Dimension]] = {1: [], 2: []}
    letters: dict[str, str] = {}
    for i, measure in enumerate(kind.measures):
        letter = "ABCDEFGHIJKLMN"[i]
        letters[measure.key] = letter
        found = _meaning(kind, values, measure.key, boxes)
        if found is None:
            continue
        box, axis = found
        view = 2 if axis == 2 else 1
        a, b = box[0].copy(), box[1].copy()
        if axis == 0:
            a[view] = b[view] = box[0][view] if view == 2 else box[1][view]
        else:
            a[0] = b[0] = (box[0][0] + box[1][0]) / 2 + 10.0 / scale * (i % 3 - 1)
        lines[view].append(Dimension(letter, *px(a, view), *px(b, view)))
    outlines = {
        axis: [" ".join("{:.1f},{:.1f}".format(*px(p, axis)) for p in _hull(c, axis)) for c in corners]
        for axis in (1, 2)
    }
    return MeasureDrawing(WIDTH_PX, HEIGHT_PX, outlines[1], outlines[2], lines[1], lines[2], letters)


def _corners(kind: Kind, values: Mapping[str, float]) -> list[np.ndarray] | None:
    """The corners of each body, (8, 3)."""
    try:
        part = Part(id="x", item=item_of(kind.key, "", values))
    except (InputError, ValueError):
        return None
    return [b.corners for b in part_bodies(part, pose((0, 0, 0), (1, 0, 0), (0, 0, 1)))]


def _boxes(kind: Kind, values: Mapping[str, float]) -> np.ndarray | None:
    """The box round each body, (n, 2, 3)."""
    corners = _corners(kind, values)
    return np.array([(c.min(axis=0), c.max(axis=0)) for c in corners]) if corners else None


def _meaning(kind: Kind, values: Mapping[str, float], key: str, boxes: np.ndarray) -> tuple[np.ndarray, int] | None:
    """Which body grows most when a measure does, and along which axis."""
    more = _boxes(kind, dict(values) | {key: values[key] * 1.1 + 2.0})
    if more is None or more.shape != boxes.shape:
        return None
    grown = (more[:, 1] - more[:, 0]) - (boxes[:, 1] - boxes[:, 0])
    body, axis = np.unravel_index(int(np.abs(grown).argmax()), grown.shape)
    return (boxes[body], int(axis)) if abs(float(grown[body, axis])) > 1e-6 else None


def _hull(corners: np.ndarray, axis: int) -> np.ndarray:
    """The outline of a body's corners (8, 3) seen along the other axis, as points (n, 3)."""
    flat = hull(corners[:, (0, axis)])
    out = np.zeros((len(flat), 3))
    out[:, 0], out[:, axis] = flat[:, 0], flat[:, 1]
    return out
