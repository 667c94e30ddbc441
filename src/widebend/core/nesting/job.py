"""A whole job laid into bars: every straight of every run, by its tube, onto the shelf and what is bought."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..cutting import CutList
from ..records import Rules, StockItem, Tube
from ..units import SAME_SIZE_MM
from .bars import AIMS, Aim, Bar, Cut, Nest, Problem, Saw, Solve

BOUGHT = "bought"
JobAim = Literal["fewest welds", "least bought", "least cost", "tidy shelf"]
JOB_AIMS: tuple[JobAim, ...] = ("fewest welds", *AIMS)


@dataclass(frozen=True)
class Stocked:
    """An item of the shelf, how many there are of it, and its number."""

    id: str
    item: StockItem
    count: int


@dataclass(frozen=True)
class TubeNest:
    """All straights of one tube as they are cut with a saw; `cuts` by name."""

    tube: Tube
    saw: Saw
    cuts: Mapping[str, Cut]
    nest: Nest


def nest_job(
    lists: Mapping[str, CutList], shelf: Sequence[Stocked], rules: Rules, kerf_mm: float, aim: JobAim, solve: Solve
) -> list[TubeNest]:
    """Every straight of the runs (by id), one nest for each tube: never a piece from another diameter, wall or metal.

    A cut is named run:number. Bars of the shelf and offcuts are taken as the aim
    says; the rest is bought in the shop's usual bar.
    """
    saw = Saw(kerf_mm, float(rules.facing_mm), float(rules.usable_rest_mm), float(rules.vice_hold_mm))
    tubes: dict[tuple[float, float, str], Tube] = {}
    cuts: dict[tuple[float, float, str], list[Cut]] = {}
    key: tuple[float, float, str]
    for run, found in lists.items():
        for piece in found.pieces:
            if piece.kind == "straight":
                key = round(float(piece.tube.od_mm), 1), round(float(piece.tube.wall_mm), 2), piece.tube.material
                tubes.setdefault(key, piece.tube)
                cuts.setdefault(key, []).append(Cut(f"{run}:{piece.number}", round(piece.length_mm, 2)))
    out = []
    for key, tube in tubes.items():
        bars = [
            Bar(s.id, float(s.item.length_mm or 0), s.count, float(s.item.price or 0), s.item.is_offcut)
            for s in shelf
            if s.count and is_tube(s.item, tube)
        ]
        bars.append(Bar(BOUGHT, float(rules.bar_mm), None, _price(shelf, tube, float(rules.bar_mm))))
        asked = Problem(tuple(bars), tuple(cuts[key]), saw, for_bars(aim))
        out.append(TubeNest(tube, saw, {c.id: c for c in cuts[key]}, solve(asked)))
    return out


def for_bars(aim: JobAim) -> Aim:
    """Return the aim where no weld hangs on it: a straight is one piece of metal in any bar."""
    return "least bought" if aim == "fewest welds" else aim


def is_tube(item: StockItem, tube: Tube) -> bool:
    """Whether an item is straight tube of this diameter, wall and metal."""
    return (
        item.kind == "straight"
        and item.material == tube.material
        and abs(float(item.od_mm or 0) - float(tube.od_mm)) < SAME_SIZE_MM
        and abs(float(item.wall_mm or 0) - float(tube.wall_mm)) < SAME_SIZE_MM
    )


def _price(shelf: Sequence[Stocked], tube: Tube, length_mm: float) -> float:
    """Return the price of a bought bar by the cheapest price a metre known for this tube; 0 where none is."""
    known = [
        float(s.item.price) / float(s.item.length_mm)
        for s in shelf
        if is_tube(s.item, tube) and s.item.price and s.item.length_mm and not s.item.is_offcut
    ]
    return round(min(known) * length_mm, 2) if known else 0.0
