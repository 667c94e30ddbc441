"""The character of a system's sound in words, each tied to what was calculated: how much of what the ear hears lies
where.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .by_speed import BySpeed
from .levels import a_weighting

# bands by what shops call them [Hz]: common practice, no source
BANDS: tuple[tuple[str, float, float], ...] = (
    ("boom", 0.0, 160.0),
    ("body", 160.0, 400.0),
    ("rasp", 400.0, 900.0),
    ("hiss", 900.0, 1e5),
)
PULLING = (0.55, 0.85)  # the speeds at which it is judged, as shares of full speed
MUCH = 0.3  # a band with more of what is heard than this gives the sound its name


@dataclass(frozen=True)
class Character:
    """Shares of what the ear hears by band while it pulls, and the bands that give it its name."""

    shares: tuple[tuple[str, float], ...]
    names: tuple[str, ...]


def character_of(found: BySpeed) -> Character:
    """Where the loudness of a system lies at pulling speeds."""
    pulls = (found.rpm >= PULLING[0] * found.rpm[-1]) & (found.rpm <= PULLING[1] * found.rpm[-1])
    hz = np.outer(found.orders, found.rpm[pulls]) / 60.0
    power = 10 ** ((found.by_order[:, pulls] + a_weighting(np.maximum(hz, 1.0))) / 10)
    whole = float(power.sum())
    shares = tuple((name, float(power[(hz >= low) & (hz < high)].sum()) / whole) for name, low, high in BANDS)
    return Character(shares, tuple(name for name, share in shares if share >= MUCH))
