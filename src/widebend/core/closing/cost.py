"""Return the cost of a bend beside its length: gentlest first, as the trade bends. Common practice, no source;
docs/sources.md.

150 mm of pipe a bend + 1.5 a degree + 0.03 (angle - 45)^2 above 45.
"""

from __future__ import annotations

from ..geometry import leaf

PER_BEND, PER_DEG, SHARP, EASY_DEG = 150.0, 1.5, 0.03, 45.0


@leaf()
def bend_cost(deg):
    """Cost [mm] of a bend of this many degrees."""
    return PER_BEND + PER_DEG * deg + SHARP * max(0.0, deg - EASY_DEG) ** 2


def degree_cost(deg: float) -> float:
    """Cost [mm] of one more degree of it."""
    return PER_DEG + 2 * SHARP * max(0.0, deg - EASY_DEG)
