"""The shelf: each kind of hardware with its few measures. Usual sizes, nothing is anyone's catalogue."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field

from ...facts import Metal
from ..errors import InputError
from ..records import Item
from ..records.base import Record
from ..records.hardware import Surface
from .kinds import (
    Values,
    ball,
    branch,
    can,
    cat,
    cutout,
    flange,
    flex,
    h_crossover,
    muffler,
    oval,
    pie_pack,
    reducer,
    rolled_tip,
    same_end,
    slash_tip,
    slip,
    tip,
    transverse,
    turned_tip,
    twin_tip,
    v_band,
    x_crossover,
)

# what any measure of a part under a vehicle can be: mm, mm off the middle, degrees, a number
RANGES = {"length": (0.0, 3000.0), "offset": (-1500.0, 1500.0), "angle": (0.0, 180.0), "count": (1.0, 1200.0)}


@dataclass(frozen=True)
class Measure:
    """One measure of a kind of hardware: its field, what it means, its usual value [mm unless `deg`]."""

    key: str
    words: str
    usual: float
    kind: str = "length"


@dataclass(frozen=True)
class Kind:
    """One kind of hardware on the shelf."""

    key: str
    name: str
    measures: tuple[Measure, ...]
    make: Callable[[str, Values], Item]


class Stocked(Record):
    """Something of the shop's own: a kind of the shelf with its measures [mm or deg]; what is not given is usual."""

    kind: str
    name: Annotated[str, Field(min_length=1, max_length=80)]
    values: dict[str, float] = {}
    mass_kg: Annotated[float, Field(ge=0, le=200)] | None = None
    metal: Metal | None = None
    surface: Surface = "bare"

    def item(self) -> Item:
        """The hardware itself. Raises InputError for a kind or measure that there is not, or that cannot be made."""
        kind = SHELF.get(self.kind)
        if kind is None:
            raise InputError(f"there is no kind “{self.kind}” on the shelf")
        known = {m.key: m.usual for m in kind.measures}
        strange = [key for key in self.values if key not in known]
        if strange:
            raise InputError(f"a {kind.name} has no measure “{strange[0]}”: {', '.join(known)}")
        made = item_of(self.kind, self.name, known | self.values)
        return made.replace(mass_kg=self.mass_kg, metal=self.metal, surface=self.surface)


def item_of(key: str, name: str, values: Values) -> Item:
    """The item of a kind with its measures. Raises InputError for what cannot be made, KeyError for no such kind."""
    kind = SHELF[key]
    for measure in kind.measures:
        low, high = RANGES[measure.kind]
        if not low <= values[measure.key] <= high:  # so also what is no number
            raise InputError(f"{measure.words}: from {low:g} to {high:g}")
    try:
        with np.errstate(over="raise", invalid="raise", divide="raise"):
            item = kind.make(name or kind.name, values)
        return Item.model_validate(item.model_dump())
    except InputError:
        raise
    except (ValueError, ArithmeticError) as exc:
        raise InputError(
            f"a {kind.name} of these measures cannot be made: one of them is too small for the rest"
        ) from exc


_OD = Measure("od", "tube outside diameter", 63.5)
_SPIGOT = Measure("spigot", "spigot at each end", 45.0)
_APART = Measure("apart", "middle to middle of the two", 120.0)
_CAN = (
    _OD,
    Measure("long", "body long", 300.0),
    Measure("wide", "body wide", 120.0),
    Measure("high", "body high", 120.0),
    _SPIGOT,
)

_TIP_OD = Measure("tip_od", "tip outside diameter", 89.0)
_EARS = (
    _OD,
    Measure("wide", "across the ears", 118.0),
    Measure("high", "across the flats", 86.0),
    Measure("thick", "thick", 10.0),
)
_V_BAND = (_OD, Measure("ring", "ring outside diameter", 88.0), Measure("long", "both rings, front to back", 24.0))
_BOX = (
    _OD,
    Measure("long", "body long", 380.0),
    Measure("wide", "body wide", 230.0),
    Measure("high", "body high", 110.0),
    Measure("corner", "corners rounded by", 55.0),
    _SPIGOT,
)
_Y = (
    _OD,
    Measure("deg", "angle between the two", 30.0, "angle"),
    Measure("long", "from the two ends to where they meet", 180.0),
)

SHELF: dict[str, Kind] = {
    kind.key: kind
    for kind in (
        Kind("flange-2", "2-bolt flange", _EARS, flange),
        Kind(
            "flange-3",
            "3-bolt flange",
            (_OD, Measure("wide", "widest", 118.0), Measure("high", "highest", 112.0), Measure("thick", "thick", 10.0)),
            flange,
        ),
        Kind(
            "flange-turbine",
            "turbine flange",
            (
                Measure("od", "tube outside diameter", 76.2),
                Measure("wide", "widest", 130.0),
                Measure("high", "highest", 124.0),
                Measure("thick", "thick", 12.0),
            ),
            flange,
        ),
        Kind(
            "flange-ball",
            "ball flange with spring bolts",
            (*_EARS, Measure("springs", "spring bolts stand out", 35.0)),
            ball,
        ),
        Kind("v-band", "V-band pair, male ahead", _V_BAND, v_band("male ahead")),
        Kind("v-band-f", "V-band pair, female ahead", _V_BAND, v_band("female ahead")),
        Kind(
            "slip",
            "slip joint",
            (
                _OD,
                Measure("wall", "wall", 1.5),
                Measure("long", "overlap", 45.0),
                Measure("clamp", "band clamp wide, 0 = none", 22.0),
            ),
            slip,
        ),
        Kind(
            "flex",
            "flex joint",
            (_OD, Measure("long", "braid long", 100.0), Measure("body", "braid outside", 86.0), _SPIGOT),
            flex,
        ),
        Kind("cat", "catalyst", (*_CAN, Measure("cells", "cells per square inch", 200.0, "count")), cat),
        Kind("resonator", "resonator", _CAN, can("resonator")),
        Kind(
            "muffler",
            "muffler",
            (
                *_BOX,
                Measure("in_off", "inlet off the middle, right is plus", 0.0, "offset"),
                Measure("out_off", "outlet off the middle, right is plus", 0.0, "offset"),
                Measure("dual", "two outlets: middle to middle, 0 = one", 0.0),
                Measure("twin", "two inlets: middle to middle, 0 = one", 0.0),
            ),
            muffler,
        ),
        Kind(
            "muffler-across",
            "muffler across, out at both ends",
            (
                _OD,
                Measure("long", "front to back", 180.0),
                Measure("wide", "across", 600.0),
                Measure("high", "body high", 110.0),
                Measure("corner", "corners rounded by", 50.0),
                _SPIGOT,
            ),
            transverse,
        ),
        Kind(
            "muffler-same",
            "muffler, in and out at one end",
            (*_BOX, Measure("apart", "inlet to outlet, middles", 120.0)),
            same_end,
        ),
        Kind(
            "reducer",
            "reducer or expander",
            (_OD, Measure("od_out", "outlet outside diameter", 76.2), Measure("long", "long", 80.0)),
            reducer,
        ),
        Kind(
            "merge",
            "merge, two into one",
            (*_Y, Measure("od_out", "outlet outside diameter", 76.2)),
            branch(("in-left", "in-right"), ("out",)),
        ),
        Kind(
            "split",
            "split, one into two",
            (*_Y, Measure("od_out", "inlet outside diameter", 76.2)),
            branch(("in",), ("out-left", "out-right")),
        ),
        Kind(
            "crossover",
            "X from two sliced bends",
            (
                _OD,
                Measure("clr", "bend radius", 95.25),
                Measure("bend", "each bend turns", 45.0, "angle"),
                Measure("off", "bend's middle to the cut", 20.0),
                Measure("leg", "straight on each end", 60.0),
            ),
            x_crossover,
        ),
        Kind(
            "crossover-h",
            "H, two pipes and a stub",
            (_OD, _APART, Measure("long", "long", 300.0), Measure("stub", "stub outside diameter", 50.8)),
            h_crossover,
        ),
        Kind(
            "cutout",
            "cutout or wastegate branch",
            (
                _OD,
                Measure("long", "long", 160.0),
                Measure("branch_od", "branch outside diameter", 50.8),
                Measure("branch", "branch long", 120.0),
                Measure("deg", "branch to the flow", 45.0, "angle"),
            ),
            cutout,
        ),
        Kind(
            "oval",
            "oval straight",
            (_OD, Measure("long", "long", 400.0), Measure("wide", "wide", 80.0), Measure("high", "high", 42.0)),
            oval,
        ),
        Kind(
            "pie-pack",
            "pie-cut pack",
            (
                _OD,
                Measure("clr", "radius", 80.0),
                Measure("slices", "slices", 5.0, "count"),
                Measure("each", "each slice turns", 9.0, "angle"),
            ),
            pie_pack,
        ),
        Kind("tip", "tip, straight", (_OD, _TIP_OD, Measure("long", "long", 180.0)), tip),
        Kind(
            "tip-slash",
            "tip, slashed",
            (
                _OD,
                _TIP_OD,
                Measure("long", "long, short side", 150.0),
                Measure("deg", "slash off square", 20.0, "angle"),
            ),
            slash_tip,
        ),
        Kind(
            "tip-rolled",
            "tip, rolled lip",
            (
                _OD,
                _TIP_OD,
                Measure("long", "long", 180.0),
                Measure("lip", "lip stands out", 5.0),
                Measure("lip_long", "lip long", 12.0),
            ),
            rolled_tip,
        ),
        Kind(
            "tip-down",
            "tip, turned down",
            (
                _OD,
                Measure("tip_od", "tip outside diameter", 63.5),
                Measure("long", "straight ahead of the bend", 40.0),
                Measure("clr", "bend radius", 95.25),
                Measure("deg", "turned down", 45.0, "angle"),
            ),
            turned_tip(down=True),
        ),
        Kind(
            "tip-out",
            "tip, turned out to the right",
            (
                _OD,
                Measure("tip_od", "tip outside diameter", 63.5),
                Measure("long", "straight ahead of the bend", 40.0),
                Measure("clr", "bend radius", 95.25),
                Measure("deg", "turned out", 45.0, "angle"),
            ),
            turned_tip(down=False),
        ),
        Kind(
            "tip-twin",
            "twin tip",
            (
                _OD,
                Measure("tip_od", "each tip outside diameter", 76.2),
                Measure("apart", "middle to middle", 110.0),
                Measure("long", "long", 280.0),
            ),
            twin_tip,
        ),
    )
}
