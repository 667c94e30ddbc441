"""Kinds of parts that a system is made of, and what is true of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

PartKind = Literal[
    "flange",
    "v-band",
    "flex",
    "cat",
    "resonator",
    "muffler",
    "tip",
    "reducer",
    "merge",
    "crossover",
    "slip-joint",
    "clamp",
    "cutout",
    "oval",
    "pie-pack",
    "other",
]


@dataclass(frozen=True)
class Packing:
    """The packing between gas and skin of a can: how well it conducts, radiation through it counted in [W/m K], and how
    thick it is at the most [mm]. Glass or basalt, a catalyst's mat and substrate: handbook values, from memory.
    """

    conductivity_w_mk: float
    most_mm: float


@dataclass(frozen=True)
class PartKindFacts:
    """Facts about a kind of part.

    `usual_kg`: its mass where nobody said (common practice, no source). `joins_pipes`: hardware that a system may begin
    and end with, and that comes apart. `is_silencer`: it is there to quiet. `is_hung`: it carries hangers itself.
    `has_inside`: what is inside it, or its measured loss, can be said. `packing`: of a can whose skin stands off its
    gas.
    """

    usual_kg: float = 0.5
    joins_pipes: bool = False
    is_silencer: bool = False
    is_emissions_part: bool = False
    is_hung: bool = False
    has_inside: bool = False
    packing: Packing | None = None

    @property
    def is_can(self) -> bool:
        """Whether gas widens out in it: a muffler, a resonator or a catalyst."""
        return self.packing is not None


_WOOL = Packing(conductivity_w_mk=0.12, most_mm=200.0)

PART_KINDS: Mapping[PartKind, PartKindFacts] = {
    "flange": PartKindFacts(usual_kg=0.6, joins_pipes=True),
    "v-band": PartKindFacts(joins_pipes=True),
    "flex": PartKindFacts(usual_kg=1.0, has_inside=True),
    "cat": PartKindFacts(
        usual_kg=3.0,
        is_emissions_part=True,
        is_hung=True,
        has_inside=True,
        packing=Packing(conductivity_w_mk=0.25, most_mm=8.0),
    ),
    "resonator": PartKindFacts(usual_kg=2.5, is_silencer=True, is_hung=True, has_inside=True, packing=_WOOL),
    "muffler": PartKindFacts(usual_kg=5.0, is_silencer=True, is_hung=True, has_inside=True, packing=_WOOL),
    "tip": PartKindFacts(usual_kg=0.8, is_hung=True),
    "reducer": PartKindFacts(),
    "merge": PartKindFacts(),
    "crossover": PartKindFacts(usual_kg=2.4),
    "slip-joint": PartKindFacts(joins_pipes=True),
    "clamp": PartKindFacts(joins_pipes=True),
    "cutout": PartKindFacts(),
    "oval": PartKindFacts(),
    "pie-pack": PartKindFacts(),
    "other": PartKindFacts(),
}
