"""A nest that was taken: as plain data to keep, back as it was, and what the design changed since."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from ..cutting import BendPlan, BendSource, CutList, Offcut
from ..records import StockBend, StockItem, Tube
from ..units import Length
from .bars import Bar, Cut, Layout, Nest, Problem, Saw
from .job import TubeNest


def to_keep(tubes: Sequence[TubeNest]) -> dict[str, Any]:
    """Bars as they are cut, as JSON keeps them."""
    return {
        "tubes": [
            {
                "tube": one.tube.model_dump(mode="json"),
                "saw": [one.saw.kerf_mm, one.saw.facing_mm, one.saw.usable_mm, one.saw.hold_mm],
                "cuts": {name: cut.length_mm for name, cut in one.cuts.items()},
                **nest_to_keep(one.nest),
            }
            for one in tubes
        ]
    }


def nest_to_keep(nest: Nest) -> dict[str, Any]:
    """One nest, as JSON keeps it."""
    return {
        "layouts": [
            [lay.bar.id, lay.bar.length_mm, lay.bar.is_bought, lay.bar.cost, list(lay.pieces), lay.rest_mm]
            for lay in nest.layouts
        ],
        "short": list(nest.short),
        "gap": nest.gap,
    }


def nest_from_kept(kept: Mapping[str, Any]) -> Nest:
    """One nest as it was kept."""
    layouts = tuple(
        Layout(Bar(bar, long, None if bought else 1, cost), tuple(pieces), rest)
        for bar, long, bought, cost, pieces, rest in kept["layouts"]
    )
    return Nest(layouts, tuple(kept["short"]), kept["gap"])


def problem_to_keep(asked: Problem) -> dict[str, Any]:
    """A question, as JSON keeps it."""
    return asdict(asked)


def problem_from_kept(kept: Mapping[str, Any]) -> Problem:
    """A question as it was kept."""
    bars, cuts = tuple(Bar(**one) for one in kept["bars"]), tuple(Cut(**one) for one in kept["cuts"])
    return Problem(bars, cuts, Saw(**kept["saw"]), kept["aim"])


def name_of(asked: Problem) -> str:
    """A short text that is the same for the same question only."""
    return hashlib.sha256(json.dumps(problem_to_keep(asked)).encode()).hexdigest()[:32]


def plan_to_keep(plan: BendPlan) -> list[list[Any]]:
    """Where each bend comes from, as JSON keeps it."""
    return [
        [
            run,
            piece,
            s.stock.model_dump(mode="json"),
            s.words,
            s.left_deg,
            s.whole_ends,
            s.is_first,
            s.is_last,
            s.item,
            s.od_mm,
            s.clr_mm,
            s.out_of_round_mm,
        ]
        for (run, piece), s in plan.items()
    ]


def plan_from_kept(kept: Mapping[str, Any]) -> dict[tuple[str, str], BendSource]:
    """Where each bend comes from, as it was taken; nothing for what was taken before bends were laid."""
    return {
        (run, piece): BendSource(StockBend.model_validate(stock), *rest)
        for run, piece, stock, *rest in kept.get("bends", ())
    }


def from_kept(kept: Mapping[str, Any]) -> list[TubeNest]:
    """The nest as it was taken."""
    out = []
    for one in kept["tubes"]:
        cuts = {name: Cut(name, long) for name, long in one["cuts"].items()}
        out.append(TubeNest(Tube.model_validate(one["tube"]), Saw(*one["saw"]), cuts, nest_from_kept(one)))
    return out


def changed_since(kept: Sequence[TubeNest], now: Mapping[str, CutList]) -> list[str]:
    """Names (run:number) of straights that the design has otherwise now: longer, shorter, new or gone."""
    was = {name: cut.length_mm for one in kept for name, cut in one.cuts.items()}
    wants = {
        f"{run}:{piece.number}": piece.length_mm
        for run, cuts in now.items()
        for piece in cuts.pieces
        if piece.kind == "straight"
    }
    return sorted(name for name in {*was, *wants} if abs(was.get(name, -1.0) - wants.get(name, -1.0)) > 0.05)


def rests_of_bars(tubes: Sequence[TubeNest], source: Mapping[str, StockItem]) -> list[StockItem]:
    """Return the rests of bars that are long enough to keep as offcuts; bought bars leave theirs too."""
    return [
        StockItem(
            kind="straight",
            is_offcut=True,
            length_mm=Length(round(lay.rest_mm, 1)),
            od_mm=one.tube.od_mm,
            wall_mm=one.tube.wall_mm,
            material=one.tube.material,
            bin=source[lay.bar.id].bin if lay.bar.id in source else "",
        )
        for one in tubes
        for lay in one.nest.layouts
        if lay.rest_mm >= one.saw.usable_mm and not lay.bar.is_bought
    ]


def rests_of_bends(offcuts: Sequence[Offcut]) -> list[StockItem]:
    """Return the rests of stock bends as offcuts of the shelf: what they still turn, their leg and whole ends."""
    return [
        StockItem(
            kind="bend",
            is_offcut=True,
            od_mm=rest.tube.od_mm,
            wall_mm=rest.tube.wall_mm,
            material=rest.tube.material,
            clr_mm=rest.stock.clr_mm,
            angle_deg=round(rest.angle_deg, 1),
            leg_mm=rest.stock.leg_mm,
            whole_ends=rest.whole_ends,
            measured_od_mm=Length(rest.od_mm) if rest.od_mm else None,
            measured_clr_mm=Length(rest.clr_mm) if rest.clr_mm else None,
            out_of_round_mm=Length(rest.out_of_round_mm) if rest.out_of_round_mm else None,
        )
        for rest in offcuts
    ]
