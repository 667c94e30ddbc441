"""The schools of hanging: how a shop likes to do it, whatever points and places are chosen.

All common practice, no source: two rubbers a point cannot swing; rods hooked in under a pull, all one way or against
each other, do not rattle; one rod aslant drives its rubber onto the stop; bobbins and solid ties where nothing is to
move.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..hanging import RUBBERS
from ..records import Hanger, HangSchool
from ..units import Length

TILTED_DEG = 15.0
BOBBIN_SPARE = 0.75
PULLS = (1.0, 0.5, 0.25)  # of the shop's pull, the most first: what a flex or the engine end does not bear is too much


def in_school(
    hangers: Sequence[Hanger], loads_n: Sequence[float], school: HangSchool, pull_mm: float
) -> Iterator[tuple[Hanger, ...]]:
    """Hangers front first, as a school hangs them; where it pulls them, with less and less pull."""
    if school == "two rubbers a point":
        yield tuple(h.replace(rubbers=2) for h in hangers)
    elif school in ("rods pulled one way", "rods pulled apart"):
        for share in PULLS:
            yield tuple(_pulled(h, _way(k, len(hangers), school) * share * pull_mm) for k, h in enumerate(hangers))
    elif school == "one tilted rod":
        yield tuple(h.replace(slope_deg=TILTED_DEG) for h in hangers)
    elif school == "bobbins":
        yield tuple(_on_bobbin(h, load) for h, load in zip(hangers, loads_n, strict=True))
    elif school == "solid":
        yield tuple(h.replace(way="solid", rubber=None) for h in hangers)
    else:
        yield tuple(hangers)


def _way(k: int, count: int, school: HangSchool) -> float:
    """Back, or of two halves the front one forward; one hanger alone is pulled back."""
    return -1.0 if school == "rods pulled apart" and k < count // 2 else 1.0


def _pulled(hanger: Hanger, mm: float) -> Hanger:
    return hanger.replace(pre_mm=(Length(round(mm, 2)), Length(0.0), Length(0.0)))


def _on_bobbin(hanger: Hanger, load_n: float) -> Hanger:
    small, large = RUBBERS["bobbin-50"], RUBBERS["bobbin-70"]
    rubber = small if load_n <= BOBBIN_SPARE * small.most_n else large
    return hanger.replace(way="bobbin pulled", rubber=rubber)
