"""Names that do not collide: each goes to the first of its places that is free, or is left out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

CHAR_PX, LINE_PX = 6.6, 14.0  # a 12 px label in the drawing's own face, measured by eye on the widest names


@dataclass(frozen=True)
class Label:
    """A name at its left end and baseline, in pixels."""

    x: float
    y: float
    text: str
    kind: str = ""


class Labels:
    """Places labels inside a frame, first come first served: put what matters most first."""

    def __init__(self, left: float, top: float, right: float, bottom: float) -> None:
        self.frame = (left, top, right, bottom)
        self._taken = np.zeros((64, 4))
        self._count = 0
        self.placed: list[Label] = []

    def keep_free(self, left: float, top: float, right: float, bottom: float) -> None:
        if self._count == len(self._taken):
            self._taken = np.concatenate([self._taken, np.zeros_like(self._taken)])
        self._taken[self._count] = left, top, right, bottom
        self._count += 1

    def put(self, text: str, places: list[tuple[float, float]], kind: str = "") -> bool:
        """Place a name at the first free of `places` (left end, baseline)."""
        width = CHAR_PX * len(text)
        left, top, right, bottom = self.frame
        spots = np.array(places, dtype=float).reshape(-1, 2)
        x = np.minimum(np.maximum(spots[:, 0], left + 3), right - width - 3)
        y = np.minimum(np.maximum(spots[:, 1], top + LINE_PX - 2), bottom - 4)
        boxes = np.stack([x - 2, y - LINE_PX + 2, x + width + 2, y + 4], axis=1)[:, None, :]
        taken = self._taken[None, : self._count]
        apart = (boxes[..., :2] >= taken[..., 2:]) | (taken[..., :2] >= boxes[..., 2:])
        free = np.flatnonzero((x >= left) & np.all(np.any(apart, axis=2), axis=1))
        if not len(free):
            return False
        k = int(free[0])
        self.keep_free(*boxes[k, 0].tolist())
        self.placed.append(Label(float(x[k]), float(y[k]), text, kind))
        return True
