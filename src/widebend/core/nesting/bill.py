"""All a job takes, computed from its design: bars and bends, what its joints take, its parts, what welding uses up."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypedDict, get_args

from ..cutting import BendPlan, CutList, Fitting, fittings, sliced_bends
from ..laying import LaidRun
from ..records import Design, StockBend, StockItem, Tube
from ..units import SAME_SIZE_MM, format_length
from ..welding import Welds
from .bends import is_bend
from .job import Stocked, TubeNest, is_tube

Group = Literal["tube", "bends", "joints and parts", "used up"]
GROUPS: tuple[Group, ...] = get_args(Group)
USED_UP_NOTE = "by the shop's rate"


class _Sold(TypedDict):
    supplier: str
    pack: int
    lead_days: int | None


@dataclass(frozen=True)
class PartsLine:
    """One line: how many of what, how many of them the shelf has, what that leaves to buy and from whom."""

    group: Group
    words: str
    wanted: float
    unit: str = ""
    on_shelf: float = 0.0
    supplier: str = ""
    each: float | None = None
    note: str = ""
    pack: int = 1
    lead_days: int | None = None
    items: tuple[tuple[str, int], ...] = ()  # items of the shelf that serve it, and how many of each
    by_metre: bool = False  # a bar of which a job is charged what it uses

    @property
    def to_buy(self) -> float:
        return max(0.0, self.wanted - self.on_shelf)

    @property
    def to_order(self) -> float:
        """Return the shopping list in whole packs."""
        return math.ceil(self.to_buy / self.pack) * self.pack if self.pack > 1 else self.to_buy


def parts_list(
    design: Design,
    runs: Sequence[LaidRun],
    lists: Sequence[CutList],
    nests: Sequence[TubeNest],
    plan: BendPlan,
    shelf: Sequence[Stocked],
    unit: str,
    welds: Welds,
    cut_together: Sequence[LaidRun] = (),
) -> list[PartsLine]:
    """Every line of the job, tube first, lengths in `unit`. Nothing in it is typed: it follows the design. Where other
    jobs' runs are cut from the same stock, `cut_together` are all of them.
    """
    return [
        *(line for one in nests for line in _bars(one, shelf, unit)),
        *_bends(design, plan, cut_together or runs, shelf, unit),
        *(_fitting(f, shelf) for f in fittings(design, runs)),
        *_used_up(design, lists, welds),
    ]


def _bars(one: TubeNest, shelf: Sequence[Stocked], unit: str) -> Iterator[PartsLine]:
    """Bars of one tube by their length: those of the shelf that the nest takes, and what it buys."""
    items = {s.id: s.item for s in shelf}
    taken = Counter((layout.bar.id, layout.bar.length_mm) for layout in one.nest.layouts)
    source = next((s.item for s in shelf if is_tube(s.item, one.tube) and s.item.supplier), None)
    for (bar, length), n in taken.items():
        item = items.get(bar)
        what = "offcut" if item and item.is_offcut else "bar"
        words = f"{what} of {_tube(one.tube, unit)}, {format_length(length, unit, 0)}"
        if item is not None:
            note = f"bin {item.bin}" if item.bin else ""
            yield PartsLine("tube", words, n, on_shelf=n, note=note, items=((bar, n),), by_metre=True)
        else:
            cost = next((layout.bar.cost for layout in one.nest.layouts if layout.bar.id == bar), 0.0)
            yield PartsLine("tube", words, n, each=cost or None, by_metre=True, **_sold(source))


def _bends(
    design: Design, plan: BendPlan, runs: Sequence[LaidRun], shelf: Sequence[Stocked], unit: str
) -> Iterator[PartsLine]:
    """Stock bends by tube, angle and radius; what is cut from the rest of another is not counted again."""
    tubes = {(laid.run.id, p.piece.id): p.tube for laid in runs for p in laid.pieces}
    tubes |= {half.key: half.tube for half in sliced_bends(design)}
    wanted: dict[tuple[StockBend, Tube], Counter[str]] = {}
    for key, source in plan.items():
        if source.is_first and key in tubes:
            bare = source.stock.replace(od_mm=None, wall_mm=None, material=None)
            wanted.setdefault((bare, tubes[key]), Counter())[source.item] += 1
    items = {s.id: s.item for s in shelf}
    for (stock, tube), taken in wanted.items():
        mine = tuple((item, n) for item, n in taken.items() if item)
        first = next((items[item] for item, _ in mine if item in items), None)
        what = "offcut bend" if first and first.is_offcut else "bend"
        words = f"{stock.angle_deg:g}° {what} of {_tube(tube, unit)}, radius {format_length(stock.clr_mm, unit, 2)}"
        sold = first or next((s.item for s in shelf if _is_kind(s.item, stock, tube)), None)
        yield PartsLine(
            "bends",
            words,
            taken.total(),
            on_shelf=sum(n for _, n in mine),
            items=mine,
            each=sold.price if sold else None,
            **_sold(sold),
        )


def _is_kind(item: StockItem, stock: StockBend, tube: Tube) -> bool:
    """Whether an item of the shelf is a whole stock bend of this kind."""
    same = abs(float(item.angle_deg or 0) - stock.angle_deg) < SAME_SIZE_MM
    return same and not item.is_offcut and is_bend(item, tube, float(stock.clr_mm))


def _fitting(one: Fitting, shelf: Sequence[Stocked]) -> PartsLine:
    """Return the hardware of a joint or part, served by things of the shelf that are called so."""
    same = [
        s
        for s in shelf
        if s.item.name
        and s.item.name.lower() == one.words.lower()
        and (not one.od_mm or not s.item.od_mm or abs(s.item.od_mm - one.od_mm) < SAME_SIZE_MM)
    ]
    items, first = _picked(same, one.count), same[0].item if same else None
    return PartsLine(
        "joints and parts",
        one.words,
        one.count,
        note=one.note,
        on_shelf=sum(c for _, c in items),
        items=items,
        each=first.price if first else None,
        **_sold(first),
    )


def _picked(same: Sequence[Stocked], wanted: int) -> tuple[tuple[str, int], ...]:
    """Which items serve, and how many of each, until there are enough."""
    found, left = [], wanted
    for one in same:
        if left and one.count:
            found.append((one.id, min(left, one.count)))
            left -= found[-1][1]
    return tuple(found)


def _sold(item: StockItem | None) -> _Sold:
    """How an item is sold."""
    if item is None:
        return {"supplier": "", "pack": 1, "lead_days": None}
    return {"supplier": item.supplier, "pack": item.pack, "lead_days": item.lead_days}


def _used_up(design: Design, lists: Sequence[CutList], welds: Welds) -> Iterator[PartsLine]:
    """Filler and gas as the weld plans say, discs by the cuts."""
    rules = design.settings.rules
    cut = sum(piece.count for cuts in lists for piece in cuts.pieces if piece.kind != "part")
    for words, much, unit in (
        ("filler", math.ceil(welds.filler_g), "g"),
        ("shielding and backing gas", math.ceil(welds.gas_l), "l"),
        ("cutting discs", math.ceil(cut / rules.cuts_a_disc) if cut else 0, ""),
    ):
        if much:
            yield PartsLine("used up", words, much, unit, note=USED_UP_NOTE)


def _tube(tube: Tube, unit: str) -> str:
    return f"{format_length(tube.od_mm, unit)} x {format_length(tube.wall_mm, unit, 2)} {tube.material}"


def by_supplier(lines: Sequence[PartsLine]) -> Mapping[str, list[PartsLine]]:
    """Return the shopping list, grouped by who sells it; unknown sellers last."""
    out: dict[str, list[PartsLine]] = {}
    for line in sorted((one for one in lines if one.to_buy), key=lambda one: (not one.supplier, one.supplier)):
        out.setdefault(line.supplier, []).append(line)
    return out
