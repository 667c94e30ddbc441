"""Friction of gas in a pipe: Darcy's factor."""

from __future__ import annotations

import math

LAMINAR_RE = 2300.0
ROUNDS = 30


def friction_factor(reynolds: float, roughness: float) -> float:
    """Darcy's friction factor by Colebrook (1939), laminar 64 / Re below 2300; `roughness` by the bore. 0 for no flow.

    >>> round(friction_factor(1e5, 1e-4), 10)
    0.0185138661
    """
    if reynolds <= 0:
        return 0.0
    if reynolds < LAMINAR_RE:
        return 64.0 / reynolds
    x = -2.0 * math.log10(roughness / 3.7 + 5.74 / reynolds**0.9)  # Swamee and Jain, to start from
    for _ in range(ROUNDS):
        inner = roughness / 3.7 + 2.51 * x / reynolds
        step = (x + 2.0 * math.log10(inner)) / (1.0 + 2.0 * 2.51 / (reynolds * inner * math.log(10.0)))
        x -= step
        if abs(step) < 1e-12:
            break
    return 1.0 / x**2
