"""The colours that a bare skin takes in air: what a fabricator reads heat by."""

from __future__ import annotations

from ...facts import METALS, Metal

# stainless 304 heated in air, by the hottest it has been [C]: British Stainless Steel Association's table, from memory;
# carbon steel runs through the same colours about 60 degrees sooner
TEMPER: tuple[tuple[float, str], ...] = (
    (0.0, "bare steel"),
    (290.0, "straw"),
    (390.0, "bronze"),
    (450.0, "purple"),
    (540.0, "blue"),
    (650.0, "grey"),
)


def temper_of(skin_c: float, metal: Metal = "304") -> int:
    """Which colour of `TEMPER` a skin takes."""
    sooner = METALS[metal].temper_sooner_k
    return max(i for i, (from_c, _) in enumerate(TEMPER) if skin_c + sooner >= from_c or i == 0)
