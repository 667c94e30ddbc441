"""The slot of a dart, laid flat round the tube."""

from __future__ import annotations

import math

import numpy as np

from ..cutting import dart
from .paper import Paper, Stroke, Template, polyline


def dart_wrap(od_mm: float, turn_deg: float, left_mm: float, paper: Paper) -> Template:
    """A slot that closes as the pipe turns, widest at the heel: at a roll its half is (r cos roll - r + deep)
    tan(turn / 2), the plane of half the turn through the hinge. Raises InputError.
    """
    slot, r = dart(od_mm, turn_deg, left_mm), od_mm / 2
    reach = slot.round_mm / r
    roll = np.linspace(-reach, reach, 181)
    half = np.maximum(0.0, r * np.cos(roll) - r + slot.deep_mm) * math.tan(math.radians(turn_deg) / 2)
    x = paper.middle_mm(od_mm, 0.0) * roll
    edge = np.vstack([np.column_stack([x, half]), np.column_stack([x, -half])[::-1]])
    wide = float(np.abs(x).max()) + 15.0
    sheet = polyline((-wide, -30.0), (wide, -30.0), (wide, 30.0), (-wide, 30.0))
    return Template(
        f"Dart, {paper.says(od_mm)}, turns {turn_deg:.4g}°",
        (
            f"{paper.says(slot.wide_mm, 2)} wide at its middle, {paper.says(slot.deep_mm)} deep; drill its ends. The "
            "upright line lies along the heel.",
            "Closed it is weaker than the tube: weld all of it, not beside a flex or hanger.",
        ),
        (Stroke(edge, closed=True), Stroke(sheet, closed=True), Stroke(polyline((0.0, -30.0), (0.0, 30.0)), "line")),
    )
