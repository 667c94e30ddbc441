"""From pixels and drags on a strip to places in the vehicle."""

from __future__ import annotations

import numpy as np

from ..page.window import (
    Window,
)
from .marks import Scale


def place_mm(
    window: Window, view: str, place_px: tuple[float, float], top: float, height: float, middle: float
) -> np.ndarray:
    """Where a pixel of a strip is in the vehicle, (2,) [mm] on the strip's axes; the strip as it was drawn."""
    return Scale(window, top, height, middle, up=view == "left").at(*place_px)


def drag_mm(window: Window, view: str, dx_px: float, dy_px: float) -> np.ndarray:
    """Return a drag on a strip ("below" or "left") in the vehicle's frame, (3,) [mm]."""
    scale = Scale(window, 0.0, 0.0, 0.0, up=view == "left")
    along = (scale.x(1.0) - scale.x(0.0)) or 1.0
    up = (scale.y(1.0) - scale.y(0.0)) or 1.0
    back, other = dx_px / along, dy_px / up
    return np.array([back, other, 0.0] if view == "below" else [back, 0.0, other])
