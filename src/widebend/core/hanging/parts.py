"""What the hangers of a job take, as lines of its parts list: rubbers, rod with its cut lengths, flat bar."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence

from ..errors import InputError
from ..laying import System
from ..nesting import Bar, Cut, PartsLine, Saw, Stocked, nest
from ..records import Design
from ..units import format_length
from .hardware_of import bracket_for, rod_for
from .hung import HungSystem
from .rubbers import rubber_of

BAR_MM, SECONDS = 1000.0, 0.2  # rod and flat are sold by the metre


def hanging_parts(
    design: Design, system: System, hung: HungSystem, shelf: Sequence[Stocked], kerf_mm: float, unit: str
) -> Iterator[PartsLine]:  # fmt: skip
    """A line for each kind of rubber, and for each size of rod and flat with how many metres its pieces take."""
    rubbers: dict[str, int] = defaultdict(int)
    rods: dict[float, list[float]] = defaultdict(list)
    flats: dict[tuple[float, float], list[float]] = defaultdict(list)
    for one in hung.carried:
        if one.hanger.way != "solid":
            rubbers[rubber_of(one.hanger).name] += one.hanger.rubbers
        try:
            if one.hanger.way == "rubber":
                rods[float(one.hanger.rod_mm)].append(rod_for(system, one).cut_mm)
            bracket = bracket_for(design, one)
        except InputError:
            continue  # said where it hangs
        if bracket is not None:
            flats[bracket.wide_mm, bracket.thick_mm].append(bracket.flat_mm)
    for name, count in rubbers.items():
        have = next((s for s in shelf if s.item.kind == "rubber" and s.item.name.lower() == name.lower()), None)
        there = min(count, have.count) if have else 0
        yield PartsLine("joints and parts", name, count, on_shelf=there, supplier=have.item.supplier if have else "",
                        each=have.item.price if have else None,
                        items=((have.id, there),) if have and there else ())  # fmt: skip
    for od, cuts in rods.items():
        yield _bars(f"rod {format_length(od, unit)}", cuts, kerf_mm, unit)
    for (wide, thick), cuts in flats.items():
        yield _bars(f"flat {format_length(wide, unit)} x {format_length(thick, unit)}", cuts, kerf_mm, unit)


def _bars(name: str, cuts: Sequence[float], kerf_mm: float, unit: str) -> PartsLine:
    """How many bars of a metre the pieces of one size take, laid into them with the saw's kerf."""
    wanted = [Cut(f"{k}", round(mm, 1)) for k, mm in enumerate(cuts)]
    found = nest([Bar("bar", BAR_MM)], wanted, Saw(kerf_mm), seconds=SECONDS)
    pieces = ", ".join(format_length(mm, unit) for mm in sorted(cuts, reverse=True))
    return PartsLine("tube", f"{name}, {format_length(BAR_MM, unit, 0)}", len(found.layouts), note=f"for {pieces}")
