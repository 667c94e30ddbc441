"""The elements of a picture: marks for the template to draw, and the scale that turns millimetres into pixels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any

import numpy as np

from ..page.window import Window


@dataclass
class Mark:
    """One thing to draw."""

    kind: str  # one of those in `svg`
    css: str
    data: dict[str, Any] = field(default_factory=dict)
    title: str = ""


@dataclass(frozen=True)
class Scale:
    """Millimetres to pixels in one strip; `up` flips the second axis for the side view."""

    window: Window
    top: float
    height: float
    middle: float
    up: bool

    @cached_property
    def per_mm(self) -> float:
        return self.window.width_px / self.window.span

    @cached_property
    def _along(self) -> tuple[float, float]:
        """Pixel of station 0, and pixels a millimetre rearward."""
        step = -self.per_mm if self.window.turned else self.per_mm
        return (self.window.width_px if self.window.turned else 0.0) - self.window.low * step, step

    @cached_property
    def _across(self) -> tuple[float, float]:
        """Pixel of 0 across or up, and pixels a millimetre right or up."""
        step = -self.per_mm if self.up != (self.window.turned and not self.up) else self.per_mm
        return self.top + self.height / 2 - self.middle * step, step

    def x(self, mm: float) -> float:
        zero, step = self._along
        return zero + mm * step

    def y(self, mm: float) -> float:
        zero, step = self._across
        return zero + mm * step

    def at(self, x_px: float, y_px: float) -> np.ndarray:
        """The place (2,) [mm] of a pixel of the strip."""
        (x0, along), (y0, across) = self._along, self._across
        return np.array([(x_px - x0) / along, (y_px - y0) / across])

    def px(self, places: np.ndarray) -> np.ndarray:
        """Places (n, 2) [mm] as pixels."""
        (x0, along), (y0, across) = self._along, self._across
        return np.asarray(np.array([x0, y0]) + places * np.array([along, across]))

    def points(self, outline: np.ndarray) -> str:
        """An outline (n, 2) [mm] as the points of a polygon."""
        return " ".join(pairs(self.px(outline)))

    def line(self, places: np.ndarray) -> str:
        """Places (n, 2) [mm] as an open path."""
        return "M" + "L".join(pairs(self.px(places)))

    def path(self, outlines: Sequence[np.ndarray]) -> str:
        """Outlines (n, 2) [mm] as one path."""
        return outline_path([self.px(outline) for outline in outlines])


def pairs(places: np.ndarray) -> list[str]:
    """Places (n, 2) in pixels, each as a picture writes it."""
    return [f"{x:.1f},{y:.1f}" for x, y in places.tolist()]


def outline_path(outlines: Sequence[np.ndarray]) -> str:
    """Outlines (n, 2) in pixels as one path: the even-odd rule leaves openings open."""
    return "".join(f"M{'L'.join(pairs(outline))}Z" for outline in outlines)


def station_to_px(window: Window, mm: float) -> float:
    return Scale(window, 0, 0, 0, False).x(mm)
