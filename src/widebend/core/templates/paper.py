"""A template's drawing: strokes and words in mm, and the paper it goes on."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import InputError
from ..space import Vector
from ..units import format_length

LARGEST_MM = 3000.0  # a sheet of plate; no template here is larger


@dataclass(frozen=True)
class Paper:
    """How a wrap lies: on the outside of the tube or inside it, and how thick the paper is [mm].

    The middle of the paper's thickness keeps its length, so once round the outside takes pi (OD + thickness).
    """

    thickness_mm: float = 0.1
    side: Literal["outside", "inside"] = "outside"
    unit: str = "mm"  # lengths on it are written so

    def says(self, mm: float, digits: int = 1) -> str:
        return format_length(mm, self.unit, digits)

    def surface_mm(self, od_mm: float, wall_mm: float) -> float:
        """Radius of the surface that the wrap lies on. Raises InputError where there is no inside."""
        radius = od_mm / 2 if self.side == "outside" else od_mm / 2 - wall_mm
        if radius <= 0:
            raise InputError(f"a wall of {self.says(wall_mm)} leaves no inside in a tube of {self.says(od_mm)}", "wall")
        return radius

    def middle_mm(self, od_mm: float, wall_mm: float) -> float:
        """Radius that the middle of the paper lies on. Raises InputError for paper too thick to lie inside."""
        half = self.thickness_mm / 2
        radius = self.surface_mm(od_mm, wall_mm) + (half if self.side == "outside" else -half)
        if radius <= self.thickness_mm:
            raise InputError(f"paper of {self.thickness_mm:g} mm is too thick to lie in there", "paper")
        return radius


@dataclass(frozen=True)
class Stroke:
    """A line on the template: `points` (n, 2) mm; *cut* with a blade or saw, *fold* a bend line, *line* to align by."""

    points: Vector
    kind: Literal["cut", "fold", "line"] = "cut"
    closed: bool = False


@dataclass(frozen=True)
class Word:
    """A word at a place [mm], read along +x."""

    x: float
    y: float
    text: str
    high_mm: float = 3.0


@dataclass(frozen=True)
class Template:
    """A template at true size, +y up: its name, what to know about it, strokes and words."""

    title: str
    notes: tuple[str, ...]
    strokes: tuple[Stroke, ...]
    words: tuple[Word, ...] = ()

    def __post_init__(self) -> None:
        size = self.high - self.low
        if float(size.max()) > LARGEST_MM:
            raise InputError(
                f"it is {size.max() / 1000:.1f} m across, larger than any paper: up to {LARGEST_MM / 1000:g} m is drawn"
            )

    @property
    def low(self) -> Vector:
        """The lower left corner of all strokes (2,) [mm]."""
        return np.asarray(np.min([s.points.min(axis=0) for s in self.strokes], axis=0))

    @property
    def high(self) -> Vector:
        """The upper right corner of all strokes (2,) [mm]."""
        return np.asarray(np.max([s.points.max(axis=0) for s in self.strokes], axis=0))


def polyline(*points: tuple[float, float]) -> Vector:
    return np.array(points, dtype=float)


def ring(radius_mm: float, at: tuple[float, float] = (0.0, 0.0), steps: int = 360) -> Vector:
    """A circle as a closed line (n, 2); its corners stand off it by r (1 - cos(pi / steps)): 0.004 mm at r 100."""
    turn = np.linspace(0.0, 2 * np.pi, steps, endpoint=False)
    return np.column_stack([at[0] + radius_mm * np.cos(turn), at[1] + radius_mm * np.sin(turn)])
