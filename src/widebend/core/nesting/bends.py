"""Bends laid into stock bends and their offcuts: the same cutting stock problem, along the middle line's arc.

A bend that comes first from its stock has the leg of one end, the last one that of the other, those between none: what
wants straight beside it most goes to an end. Never a wrong diameter, wall, metal or radius.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..cutting import USEFUL_DEG, WHOLE_DEG, BendPlan, BendSource, sliced_bends, stock_for
from ..laying import LaidPiece, LaidRun, as_drawn
from ..records import Bend, Design, StockBend, StockItem, Straight, Tube
from ..units import SAME_SIZE_MM, Length
from .bars import Bar, Cut, Nest, Problem, Saw, Solve
from .job import BOUGHT, JobAim, Stocked, for_bars

Key = tuple[str, str]  # a run's id and a piece's


@dataclass(frozen=True)
class BendNest:
    """All bends of one tube and radius as they come from their stock; `turns` [deg] and `keys` by the cut's name."""

    tube: Tube
    clr_mm: float
    nest: Nest
    turns: Mapping[str, float]
    keys: Mapping[str, Key]
    stock: Mapping[str, StockBend]  # what each kind of bar is
    items: Mapping[str, StockItem]  # those of the shelf


def nest_bends(
    design: Design, runs: Sequence[LaidRun], shelf: Sequence[Stocked], aim: JobAim, solve: Solve
) -> list[BendNest]:
    """One nest for each tube and radius; what no stock holds is left short, and the cut list says so. What is on the
    vehicle was cut as it was drawn, not as it was found.
    """
    groups: dict[tuple[float, float, str, float], tuple[Tube, list[tuple[Key, float]]]] = {}

    def want(tube: Tube, clr_mm: float, key: Key, deg: float) -> None:
        clr = round(clr_mm, 2)
        kind = round(float(tube.od_mm), 1), round(float(tube.wall_mm), 2), tube.material, clr
        groups.setdefault(kind, (tube, []))[1].append((key, deg))

    for laid in (as_drawn(design, run) for run in runs):
        for placed in laid.pieces:
            if isinstance(placed.piece, Bend):
                key = laid.run.id, placed.piece.id
                want(placed.tube, float(placed.piece.clr_mm), key, placed.piece.angle_deg)
    for half in sliced_bends(design):
        want(half.tube, half.clr_mm, half.key, half.angle_deg)
    return [_nested(design, tube, clr, wanted, shelf, aim, solve) for (*_, clr), (tube, wanted) in groups.items()]


def _nested(
    design: Design,
    tube: Tube,
    clr: float,
    wanted: Sequence[tuple[Key, float]],
    shelf: Sequence[Stocked],
    aim: JobAim,
    solve: Solve,
) -> BendNest:
    bars, stock, items = list[Bar](), dict[str, StockBend](), dict[str, StockItem]()
    for one in shelf:
        if one.count and is_bend(one.item, tube, clr):
            angle = float(one.item.angle_deg or 0.0)
            stock[one.id] = _as_stock(one.item, angle)
            items[one.id] = one.item
            bars.append(Bar(one.id, _arc(clr, angle + WHOLE_DEG), one.count, 0.0, one.item.is_offcut))
    offered = [
        (kind, _price(shelf, tube, clr, kind))
        for kind in stock_for(design, tube)
        if abs(kind.clr_mm - clr) < SAME_SIZE_MM
    ]
    reach = max((kind.angle_deg for kind, price in offered if price), default=0.0)
    largest = max(deg for _, deg in wanted)
    for kind, price in offered:
        # a bend whose price nobody said is not free: it is bought where no priced one is large enough
        if price or aim != "least cost" or largest > reach + WHOLE_DEG:
            name = f"{BOUGHT} {kind.angle_deg:g}"
            stock[name] = kind
            bars.append(Bar(name, _arc(clr, kind.angle_deg + WHOLE_DEG), None, price))
    names = {f"{run}:{piece}": (run, piece) for (run, piece), _ in wanted}
    turns = {f"{run}:{piece}": deg for (run, piece), deg in wanted}
    cuts = [Cut(name, round(_arc(clr, deg), 3)) for name, deg in turns.items()]
    # a stock bend has two legs: of more than two bends from one, those between keep none and want a weld more each
    most = 2 if aim == "fewest welds" else None
    saw = Saw(float(design.settings.kerf_mm), 0.0, _arc(clr, USEFUL_DEG), most=most)
    asked = Problem(tuple(bars), tuple(cuts), saw, for_bars(aim))
    found = solve(asked) if bars else Nest((), tuple(turns))
    return BendNest(tube, clr, found, turns, names, stock, items)


def is_bend(item: StockItem, tube: Tube, clr_mm: float) -> bool:
    """Whether an item is a bend of this tube and radius, by its nominal measures."""
    return (
        item.kind == "bend"
        and item.material == tube.material
        and abs(float(item.od_mm or 0) - float(tube.od_mm)) < SAME_SIZE_MM
        and abs(float(item.wall_mm or 0) - float(tube.wall_mm)) < SAME_SIZE_MM
        and abs(float(item.clr_mm or 0) - clr_mm) < SAME_SIZE_MM
    )


def plan_of(nests: Sequence[BendNest], runs: Sequence[LaidRun], kerf_mm: float, unit: str = "mm") -> BendPlan:
    """Which stock each bend comes from, and what is left of that when it is cut; numbered by kind."""
    wants = {
        (laid.run.id, p.piece.id): _straight_beside(laid.pieces, k) for laid in runs for k, p in enumerate(laid.pieces)
    }
    plan: dict[Key, BendSource] = {}
    for one in nests:
        counted: dict[str, int] = {}
        for layout in one.nest.layouts:
            kind, item = one.stock[layout.bar.id], one.items.get(layout.bar.id)
            counted[layout.bar.id] = counted.get(layout.bar.id, 0) + 1
            words = _words(kind, item, counted[layout.bar.id])
            plan |= _one_stock(one, layout.bar.id, layout.pieces, words, wants, kerf_mm)
    return plan


def _one_stock(
    one: BendNest, bar: str, pieces: Sequence[str], words: str, wants: Mapping[Key, float], kerf_mm: float
) -> dict[Key, BendSource]:
    """The bends of one stock bend in the order they are cut: what wants straight most at its ends."""
    kind, item = one.stock[bar], one.items.get(bar)
    by_want = sorted(pieces, key=lambda name: (-wants.get(one.keys[name], 0.0), name))
    order = [by_want[0], *by_want[2:], by_want[1]] if len(by_want) > 1 else by_want
    ends = item.whole_ends if item else 2
    left, out, name_of = float(kind.angle_deg), dict[Key, BendSource](), bar if item else ""
    for k, name in enumerate(order):
        first, last = k == 0, k == len(order) - 1
        whole_ends = ends if first and last else min(ends, 1) if first else max(0, ends - 1) if last else 0
        out[one.keys[name]] = BendSource(
            kind,
            words if first else f"rest of {words}",
            left,
            whole_ends,
            is_first=first,
            is_last=last,
            item=name_of,
            od_mm=float(item.measured_od_mm) if item and item.measured_od_mm else None,
            clr_mm=float(item.measured_clr_mm) if item and item.measured_clr_mm else None,
            out_of_round_mm=float(item.out_of_round_mm or 0.0) if item else 0.0,
        )
        left -= one.turns[name] + math.degrees(kerf_mm / one.clr_mm)
    return out


def _words(kind: StockBend, item: StockItem | None, number: int) -> str:
    """A stock bend in words, as the bench finds it."""
    if item is None:
        return f"{kind.angle_deg:g}° bend to buy no. {number}"
    where = f", bin {item.bin}" if item.bin else ""
    if item.is_offcut:
        return f"{kind.angle_deg:g}° offcut{where}"
    return f"{kind.angle_deg:g}° bend no. {number}{where}"


def _straight_beside(pieces: Sequence[LaidPiece], k: int) -> float:
    """The longest straight next to a piece: what a kept leg would serve."""
    beside = (*pieces[max(0, k - 1) : k], *pieces[k + 1 : k + 2])
    return max((float(p.piece.length_mm) for p in beside if isinstance(p.piece, Straight)), default=0.0)


def _as_stock(item: StockItem, angle: float) -> StockBend:
    return StockBend(
        angle_deg=angle,
        clr_mm=Length(float(item.clr_mm or 0)),
        leg_mm=Length(float(item.leg_mm or 0.0)),
        od_mm=item.od_mm,
        wall_mm=item.wall_mm,
        material=item.material,
    )


def _price(shelf: Sequence[Stocked], tube: Tube, clr: float, kind: StockBend) -> float:
    """Return the cost of one more of a kind, by what the shelf's own cost; 0 where nobody said."""
    same = [
        float(s.item.price)
        for s in shelf
        if s.item.price
        and not s.item.is_offcut
        and is_bend(s.item, tube, clr)
        and abs(float(s.item.angle_deg or 0) - kind.angle_deg) < SAME_SIZE_MM
    ]
    return min(same, default=0.0)


def _arc(clr: float, deg: float) -> float:
    return clr * math.radians(deg)
