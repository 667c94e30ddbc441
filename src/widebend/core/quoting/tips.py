"""Tips that are no longer what the customer signed for: a wrong size is made again at the shop's cost."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from ..records import Design, Part

SAME_TIP_MM = 0.05  # outlets whose diameters are this near are of one size


@dataclass(frozen=True)
class TipChange:
    """A tip's outlet as it was agreed on and as it is designed now [mm]; 0 where there is none."""

    name: str
    was_mm: float
    now_mm: float


def tips_changed(agreed: Design, now: Design) -> list[TipChange]:
    """Every tip outlet whose size differs from the design that was agreed on, or that came or went."""
    was, here = dict(_outlets(agreed)), dict(_outlets(now))
    found = []
    for key in {**was, **here}:
        (name, was_mm), (named_now, now_mm) = was.get(key, ("", 0.0)), here.get(key, ("", 0.0))
        if abs(was_mm - now_mm) > SAME_TIP_MM:
            found.append(TipChange(named_now or name, was_mm, now_mm))
    return found


def _outlets(design: Design) -> Iterator[tuple[tuple[str, str], tuple[str, float]]]:
    """Each tip outlet by its part and port: its name and diameter [mm]."""
    for part in design.parts:
        if part.item.kind == "tip":
            for port in part.item.ports:
                if port.role == "out":
                    yield (part.id, port.id), (_named(part), float(port.od_mm))


def _named(part: Part) -> str:
    return part.name or "tip"
