"""Which kit of those on offer is cheapest for a job: this many as help are put on the shelf, and the job laid again."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ..records import Kit, KitLine
from .bends import BendNest
from .job import Stocked, TubeNest

MOST_SETS = 4

Lay = Callable[[Sequence[Stocked]], tuple[list[TubeNest], list[BendNest]]]


@dataclass(frozen=True)
class KitTried:
    """A job made with a number of sets of a kit (None: without any). `cost` is the kit's and what is bought besides;
    `besides` counts that, `unpriced` those of it whose price nobody said; `over` is what the kit leaves unused.
    """

    kit: Kit | None
    sets: int
    cost: float
    besides: int
    unpriced: int
    short: int
    over: tuple[tuple[int, str], ...]

    @property
    def helps(self) -> bool:
        """Whether the job takes anything of the kit."""
        held = self.sets * sum(line.count for line in self.kit.lines) if self.kit else 0
        return sum(n for n, _ in self.over) < held


def compare_kits(kits: Sequence[Kit], shelf: Sequence[Stocked], lay: Lay, unit: str = "mm") -> list[KitTried]:
    """Every kit that helps, with as many sets as save something, and none at all: what lacks least first, then the
    cheapest.
    `lay` lays the job from a shelf.
    """
    found = [_tried(None, 0, shelf, lay, unit)]
    for kit in kits:
        before = found[0]
        for sets in range(1, MOST_SETS + 1):
            now = _tried(kit, sets, shelf, lay, unit)
            if not now.helps or (sets > 1 and _rank(now) >= _rank(before)):
                break
            found.append(now)
            before = now
    return sorted(found, key=_rank)


def _rank(one: KitTried) -> tuple[int, int, float, int]:
    return one.short, one.unpriced, one.cost, one.besides


def _tried(kit: Kit | None, sets: int, shelf: Sequence[Stocked], lay: Lay, unit: str) -> KitTried:
    with_kit = [*shelf, *(Stocked(f"kit {k}", line.item, line.count * sets) for k, line in _lines(kit).items())]
    tubes, bends = lay(with_kit)
    nests = [*(one.nest for one in tubes), *(one.nest for one in bends)]
    layouts = [layout for one in nests for layout in one.layouts]
    used = [layout.bar.id for layout in layouts]
    bought = [layout.bar for layout in layouts if layout.bar.is_bought]
    over = tuple(
        (line.count * sets - used.count(f"kit {k}"), line.item.words(unit))
        for k, line in _lines(kit).items()
        if line.count * sets > used.count(f"kit {k}")
    )
    price = sets * float(kit.price) if kit else 0.0
    return KitTried(
        kit,
        sets,
        round(price + sum(bar.cost for bar in bought), 2),
        len(bought),
        sum(1 for bar in bought if not bar.cost),
        sum(len(one.short) for one in nests),
        over,
    )


def _lines(kit: Kit | None) -> Mapping[int, KitLine]:
    return dict(enumerate(kit.lines)) if kit else {}
