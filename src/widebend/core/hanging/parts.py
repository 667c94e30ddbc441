"""Material for the hangers of a job: rubbers and clamps, rod and flat bar with every piece laid into its bars."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..errors import InputError
from ..laying import System
from ..nesting import Bar, Cut, Nest, PartsLine, Saw, Stocked, nest
from ..records import Design
from ..units import format_length
from .hardware_of import bracket_for, has_rod, rod_for, tie_for
from .hung import HungSystem
from .model import held_places
from .rubbers import rubber_of

BAR_MM, SECONDS = 1000.0, 0.2  # rod and flat are sold by the metre


@dataclass(frozen=True)
class MetalNest:
    """Rod or bar of one size, laid into metres: what it is, the saw, the pieces by what they are for."""

    words: str
    saw: Saw
    cuts: dict[str, Cut]
    nest: Nest


def from_a_metre(cut_mm: float, kerf_mm: float) -> int:
    """How many pieces of one length a metre gives.

    >>> from_a_metre(230.0, 2.0), from_a_metre(250.0, 2.0)
    (4, 3)
    """
    return int((BAR_MM + kerf_mm) // (cut_mm + kerf_mm))


def hanging_metal(design: Design, system: System, hung: HungSystem, kerf_mm: float, unit: str) -> Iterator[MetalNest]:
    """Rods, bars across and brackets, each size laid into bars with the saw's kerf."""
    sizes: dict[str, dict[str, Cut]] = defaultdict(dict)

    def cut(size: str, name: str, mm: float) -> None:
        sizes[size][name] = Cut(name, round(mm, 1))

    for number, one in enumerate(hung.carried, 1):
        rod = f"rod {format_length(one.hanger.rod_mm, unit)}"
        try:
            tie = tie_for(system, one.hanger)
            if tie is not None:
                cut(rod, f"hanger {number}, across", tie)
            if has_rod(one.hanger):
                cut(rod, f"hanger {number}, rod", rod_for(system, one).cut_mm)
            bracket = bracket_for(design, one)
        except InputError:
            continue  # said where it hangs
        if bracket is not None:
            size = f"{format_length(bracket.wide_mm, unit)} x {format_length(bracket.thick_mm, unit)}"
            cut(f"{bracket.kind} {size}", f"hanger {number}, bracket", bracket.flat_mm)
    for words, cuts in sizes.items():
        saw = Saw(kerf_mm)
        yield MetalNest(words, saw, cuts, nest([Bar("bar", BAR_MM)], list(cuts.values()), saw, seconds=SECONDS))


def hanging_parts(
    design: Design, system: System, hung: HungSystem, shelf: Sequence[Stocked], kerf_mm: float, unit: str
) -> Iterator[PartsLine]:
    """A line for each kind of rubber and clamp, and for each size of rod and bar with how many metres it takes."""
    rubbers: dict[str, int] = defaultdict(int)
    clamps: dict[str, int] = defaultdict(int)
    for one in hung.carried:
        if one.hanger.way != "solid":
            rubbers[rubber_of(one.hanger).name] += one.hanger.rubbers
        held = held_places(one.hanger, system)
        if one.hanger.hold in ("cradle", "strap") and one.hanger.way == "rubber" and held:
            clamps[f"{one.hanger.hold} for {format_length(held[0][0].tube.od_mm, unit)} pipe"] += 1
    for name, count in rubbers.items():
        have = next((s for s in shelf if s.item.kind == "rubber" and s.item.name.lower() == name.lower()), None)
        there = min(count, have.count) if have else 0
        yield PartsLine(
            "joints and parts",
            name,
            count,
            on_shelf=there,
            supplier=have.item.supplier if have else "",
            each=have.item.price if have else None,
            items=((have.id, there),) if have and there else (),
        )
    for name, count in clamps.items():
        yield PartsLine("joints and parts", name, count)
    for number, one in enumerate(hung.carried, 1):
        if has_rod(one.hanger):
            try:
                rod_for(system, one)
            except InputError as exc:  # it is wanted all the same: nobody knows yet how long
                words = f"rod {format_length(one.hanger.rod_mm, unit)}, hanger {number}"
                yield PartsLine("tube", words, 1, note=str(exc))
    for metal in hanging_metal(design, system, hung, kerf_mm, unit):
        pieces = ", ".join(format_length(c.length_mm, unit) for c in metal.cuts.values())
        yield PartsLine(
            "tube", f"{metal.words}, {format_length(BAR_MM, unit, 0)}", len(metal.nest.layouts), note=f"for {pieces}"
        )
