"""A rod at true size on paper: straight with the marks of its bends, and bent, from behind and from the left."""

from __future__ import annotations

import numpy as np

from ..space import Vector
from ..templates import Stroke, Template, Word
from ..units import format_length
from .rods import Rod

APART_MM = 18.0  # between the drawings
WORD_MM = 5.0
RING = np.column_stack([np.cos(t := np.linspace(0.0, 2 * np.pi, 49)[:-1]), np.sin(t)])


def rod_template(rod: Rod, name: str, unit: str = "mm") -> Template:
    """Lay wire on either view and bend it to match, then the rod to the wire."""
    straight = np.array([(0.0, 0.0), (rod.cut_mm, 0.0)])
    half = rod.od_mm / 2
    strokes = [Stroke(straight + np.array([0.0, side * half]), "line") for side in (-1, 1)]
    words = []
    for k, bend in enumerate(rod.bends):
        strokes.append(Stroke(np.array([(bend.mark_mm, -2 * half), (bend.mark_mm, 2 * half)]), "fold"))
        turn = f", rotate {bend.rotation_deg:.0f}°" if k else ""
        words.append(Word(bend.mark_mm + 1.0, 2 * half + 2.0 + 4.5 * (k % 2), f"{bend.angle_deg:.0f}°{turn}"))
    top = -2 * half - APART_MM
    left = 0.0
    for title, axis in (("from behind", 1), ("from the left", 0)):
        line, middle = rod.line[:, [axis, 2]], rod.middle[[axis, 2]]
        low, high = _corners(line, middle, rod, axis)
        shift = np.array([left - low[0], top - WORD_MM - high[1]])
        strokes.append(Stroke(line + shift, "line"))
        strokes += [Stroke(edge + shift) for edge in _edges(line, half)]
        if axis == 1:
            strokes.append(Stroke(middle + shift + rod.round_mm / 2 * RING, "line", closed=True))
        words.append(Word(left, top - WORD_MM + 2.0, title))
        left += high[0] - low[0] + APART_MM
    says = format_length(rod.od_mm, unit), format_length(rod.cut_mm, unit), format_length(rod.radius_mm, unit)
    note = f"Rod {says[0]}, cut {says[1]}, bent on a middle radius of {says[2]}. Marks are where each bend begins."
    return Template(f"Rod, {name}", (note,), tuple(strokes), tuple(words))


def _corners(line: Vector, middle: Vector, rod: Rod, axis: int) -> tuple[Vector, Vector]:
    """The lower left and upper right of a view, the pipe in it where it is seen as a circle."""
    cloud = [line - rod.od_mm / 2, line + rod.od_mm / 2]
    if axis == 1:
        cloud += [middle[None] - rod.round_mm / 2, middle[None] + rod.round_mm / 2]
    every = np.vstack(cloud)
    return every.min(axis=0), every.max(axis=0)


def _edges(line: Vector, half: float) -> list[Vector]:
    """Both sides of a bar along a line (n, 2)."""
    way = np.gradient(line, axis=0)
    across = np.column_stack([-way[:, 1], way[:, 0]])
    long = np.linalg.norm(across, axis=1, keepdims=True)
    across = np.where(long > 1e-9, across / np.maximum(long, 1e-9), 0.0)
    return [line + side * half * across for side in (-1, 1)]
