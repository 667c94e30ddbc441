"""What a picture is made of: marks for the template to draw, and the scale that turns millimetres into pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ..page.window import Window


@dataclass
class Mark:
    """One thing to draw."""

    kind: str  # "path", "area", "poly", "line", "rect", "circle", "sign", "handle"
    css: str
    data: dict[str, object] = field(default_factory=dict)
    title: str = ""


@dataclass(frozen=True)
class Scale:
    """Millimetres to pixels in one strip; `up` flips the second axis for the side view."""

    window: Window
    top: float
    height: float
    middle: float
    up: bool

    @property
    def per_mm(self) -> float:
        return self.window.width_px / self.window.span

    def x(self, mm: float) -> float:
        px = (mm - self.window.low) * self.per_mm
        return self.window.width_px - px if self.window.turned else px

    def y(self, mm: float) -> float:
        off = (mm - self.middle) * self.per_mm
        flip = self.up != (self.window.turned and not self.up)
        return self.top + self.height / 2 + (-off if flip else off)

    def at(self, x_px: float, y_px: float) -> np.ndarray:
        """The place (2,) [mm] of a pixel of the strip."""
        along, up = self.x(1.0) - self.x(0.0), self.y(1.0) - self.y(0.0)
        return np.array([(x_px - self.x(0.0)) / along, (y_px - self.y(0.0)) / up])

    def points(self, outline: np.ndarray) -> str:
        return " ".join(f"{self.x(a):.1f},{self.y(b):.1f}" for a, b in outline)

    def path(self, outlines: Sequence[np.ndarray]) -> str:
        origin = np.array([self.x(0.0), self.y(0.0)])
        per_mm = np.array([self.x(1.0), self.y(1.0)]) - origin
        return outline_path([origin + outline * per_mm for outline in outlines])


def outline_path(outlines: Sequence[np.ndarray]) -> str:
    """Outlines (n, 2) in pixels as one path: the even-odd rule leaves openings open."""
    return "".join(f"M{'L'.join(f'{x:.1f},{y:.1f}' for x, y in outline.tolist())}Z" for outline in outlines)


def station_to_px(window: Window, mm: float) -> float:
    return Scale(window, 0, 0, 0, False).x(mm)
