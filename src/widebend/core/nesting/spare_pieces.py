"""Return the cost of one spare of the worst piece: the one that a slip of the saw would cost most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from .job import TubeNest


@dataclass(frozen=True)
class Spare:
    """The longest straight of a tube, by name, once more: out of a rest that is there, or another bar at its price
    (0 where no price is known).
    """

    name: str
    length_mm: float
    from_rest: bool
    bar_mm: float
    cost: float


def spares(tubes: Sequence[TubeNest]) -> list[Spare]:
    """One for each tube. A rest serves that holds the piece, its facing and a saw cut."""
    found = []
    for one in tubes:
        longest = max(one.cuts.values(), key=lambda cut: cut.length_mm, default=None)
        if longest is None or not one.nest.layouts:
            continue
        wants = longest.length_mm + one.saw.facing_mm + one.saw.kerf_mm
        fits = any(layout.rest_mm >= wants for layout in one.nest.layouts)
        bought = max((layout.bar for layout in one.nest.layouts), key=lambda bar: (bar.is_bought, bar.length_mm))
        found.append(Spare(longest.id, longest.length_mm, fits, bought.length_mm, 0.0 if fits else bought.cost))
    return found
