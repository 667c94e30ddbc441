"""The planned pipe in a photo of the real underside: its middle lines and its width, as that lens sees them."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ...core.laying import System, centre_line
from ...core.photos import PlacedPhoto, seen_at
from ...core.records import InLine
from ...core.space import Vector

LEAST_AHEAD_MM = 150.0
STEP_MM = 20.0


@dataclass(frozen=True)
class PipeInPhoto:
    """A piece in a photo: points "x,y x,y" [pixels], how wide it is drawn, which run and piece it is."""

    points: str
    width_px: float
    words: str


def draw_in_photo(system: System, photo: PlacedPhoto) -> list[PipeInPhoto]:
    """Every piece of pipe that lies before the lens, the farthest first."""
    found = []
    for run in system.runs:
        for k, piece in enumerate(run.pieces, 1):
            if isinstance(piece.piece, InLine):
                continue
            before = (_dense(centre_line(piece)) - photo.eye) @ photo.turn.T
            before = before[before[:, 2] > LEAST_AHEAD_MM]
            if len(before) < 2:
                continue
            deep = float(before[:, 2].mean())
            pixels = seen_at(before, photo.lens)
            points = " ".join(f"{x:.0f},{y:.0f}" for x, y in pixels)
            wide = float(photo.lens[0]) * float(piece.tube.od_mm) / deep
            found.append((deep, PipeInPhoto(points, wide, f"{run.run.name or run.run.id}, piece {k}")))
    return [one for _, one in sorted(found, key=lambda pair: -pair[0])]


def _dense(points: Vector) -> Vector:
    """A line with places between its corners at most a step apart, so that the lens can bend it."""
    out = [points[:1]]
    for a, b in pairwise(points):
        steps = max(1, int(np.ceil(np.linalg.norm(b - a) / STEP_MM)))
        out.append(a + (b - a) * (np.arange(1, steps + 1) / steps)[:, None])
    return np.concatenate(out)
