"""Names that do not collide: each goes to the first of its places that is free, or is left out."""

from __future__ import annotations

from dataclasses import dataclass

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
        self._taken: list[tuple[float, float, float, float]] = []
        self.placed: list[Label] = []

    def keep_free(self, left: float, top: float, right: float, bottom: float) -> None:
        self._taken.append((left, top, right, bottom))

    def put(self, text: str, places: list[tuple[float, float]], kind: str = "") -> bool:
        """Place a name at the first free of `places` (left end, baseline)."""
        width = CHAR_PX * len(text)
        left, top, right, bottom = self.frame
        for place in places:
            x = min(max(place[0], left + 3), right - width - 3)
            y = min(max(place[1], top + LINE_PX - 2), bottom - 4)
            box = x - 2, y - LINE_PX + 2, x + width + 2, y + 4
            if x >= left and self._is_free(*box):
                self.keep_free(*box)
                self.placed.append(Label(float(x), float(y), text, kind))
                return True
        return False

    def _is_free(self, left: float, top: float, right: float, bottom: float) -> bool:
        for its_left, its_top, its_right, its_bottom in self._taken:
            if left < its_right and its_left < right and top < its_bottom and its_top < bottom:
                return False
        return True
