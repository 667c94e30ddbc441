"""The strips: two strips with their marks and labels, and what is drawn over them."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from ...core.laying import LaidPiece
from ..page.window import (
    Window,
)
from .lines_ribbon import DrawnRibbon
from .marks import Mark


@dataclass
class Strip:
    """One strip: its top and height in the picture, what stands at its middle [mm], its marks and labels."""

    name: str
    top: float
    height: float
    middle: float = 0.0
    marks: list[Mark] = field(default_factory=list)
    labels: list[object] = field(default_factory=list)


@dataclass(frozen=True)
class Ghost:
    """An answer drawn over the run before it is taken."""

    number: int
    laid: tuple[LaidPiece, ...]
    chosen: bool
    misses: bool = False


PLANNED = "planned"  # how a shadow is drawn that shows what was planned


@dataclass(frozen=True)
class Shadow:
    """Pipe or hardware drawn where it is not: on its way out, or in another position; a line (n, 3) and a width."""

    line: np.ndarray
    width_mm: float
    css: str = "shadow"


@dataclass
class Picture:
    """All strips, ready for the template."""

    width: int
    height: float
    strips: list[Strip]
    ticks: list[tuple[float, str]]
    ruler_top: float
    ribbon_top: float
    ribbon: list[Mark]
    ties: list[Mark]
    window: Window
    lines: list[DrawnRibbon] = field(default_factory=list)
