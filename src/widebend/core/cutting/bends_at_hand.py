"""The bends a cut list is made from: stock bends taken from the shelf, and what is left of them after a cut."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field

from ..records import Bend, Design, StockBend, Tube
from ..units import SAME_SIZE_MM, Length

WHOLE_DEG = 0.05  # a bend this near its stock's angle is used whole: less than a saw blade shows
USEFUL_DEG = 2.0  # a rest of less is scrap: common practice, no source


@dataclass
class Offcut:
    """A stock bend of some tube, or what is left of one: `whole_ends` still have a leg, the others are saw faces."""

    stock: StockBend
    tube: Tube
    angle_deg: float
    source: str
    whole_ends: int
    od_mm: float | None = None  # as measured, where it is off its nominal size
    clr_mm: float | None = None
    out_of_round_mm: float = 0.0  # the largest diameter less the smallest


@dataclass(frozen=True)
class BendSource:
    """Where a bend comes from that a nest has laid: its stock, what is left of that when this one is cut and how many
    ends still have their leg; whether it is the first and the last of it. `od_mm`, `clr_mm`,
    `out_of_round_mm` are as measured.
    """

    stock: StockBend
    words: str
    left_deg: float
    whole_ends: int
    is_first: bool
    is_last: bool
    item: str = ""  # its number on the shelf; none: bought
    od_mm: float | None = None
    clr_mm: float | None = None
    out_of_round_mm: float = 0.0


BendPlan = Mapping[tuple[str, str], BendSource]  # by the run's id and the piece's


@dataclass
class BendsAtHand:
    """The stock bends taken so far, over all runs of a job: as a nest laid it, else one by one."""

    design: Design
    plan: BendPlan = field(default_factory=dict)
    offcuts: list[Offcut] = field(default_factory=list)
    taken: Counter[StockBend] = field(default_factory=Counter)

    def take(self, bend: Bend, tube: Tube, run_id: str) -> Offcut | None:
        """Return the stock a nest laid it into; else the smallest offcut of the same tube that holds it, else the
        smallest new stock bend, or None.
        """
        planned = self.plan.get((run_id, bend.id))
        if planned is not None and _holds(planned.left_deg, planned.stock, bend):
            if planned.is_first:
                self.taken[planned.stock] += 1
            return Offcut(
                planned.stock,
                tube,
                planned.left_deg,
                planned.words,
                planned.whole_ends,
                planned.od_mm,
                planned.clr_mm,
                planned.out_of_round_mm,
            )
        rests = [o for o in self.offcuts if same_tube(o.tube, tube) and _holds(o.angle_deg, o.stock, bend)]
        if rests:
            best = min(rests, key=lambda o: o.angle_deg)
            self.offcuts.remove(best)
            return best
        new = [s for s in stock_for(self.design, tube) if _holds(s.angle_deg, s, bend)]
        if not new:
            return None
        stock = min(new, key=lambda s: (s.angle_deg, s.leg_mm))
        self.taken[stock] += 1
        return Offcut(stock, tube, stock.angle_deg, f"{stock.angle_deg:g}° bend no. {self.taken[stock]}", whole_ends=2)

    def put_back(self, rest: Offcut, used: Bend, run_id: str) -> float:
        """Put what is left of a bend back; the angle left after the saw cut, 0 when nothing useful is. What a nest laid
        goes on to the bend it laid next, not to any other.
        """
        kerf = math.degrees(self.design.settings.kerf_mm / rest.stock.clr_mm)
        left = rest.angle_deg - used.angle_deg - kerf
        if left < USEFUL_DEG:
            return 0.0
        planned = self.plan.get((run_id, used.id))
        if planned is not None and not planned.is_last:
            return left
        source = f"rest of {rest.source.removeprefix('rest of ')}"
        ends = max(0, rest.whole_ends - 1)
        measured = rest.od_mm, rest.clr_mm, rest.out_of_round_mm
        self.offcuts.append(Offcut(rest.stock, rest.tube, left, source, ends, *measured))
        return left


def _holds(angle_deg: float, stock: StockBend, bend: Bend) -> bool:
    return abs(stock.clr_mm - bend.clr_mm) < SAME_SIZE_MM and angle_deg >= bend.angle_deg - WHOLE_DEG


def same_tube(a: Tube, b: Tube) -> bool:
    """Whether two tubes are one to the saw and the welder: diameter, wall and metal."""
    near = abs(a.od_mm - b.od_mm) < SAME_SIZE_MM and abs(a.wall_mm - b.wall_mm) < SAME_SIZE_MM
    return near and a.material == b.material


def stock_for(design: Design, tube: Tube) -> list[StockBend]:
    """The stock bends that come in a tube; one whose tube is not said comes in any."""
    return [
        s
        for s in stock_on_hand(design)
        if (s.od_mm is None or abs(s.od_mm - tube.od_mm) < SAME_SIZE_MM)
        and (s.wall_mm is None or abs(s.wall_mm - tube.wall_mm) < SAME_SIZE_MM)
        and (s.material is None or s.material == tube.material)
    ]


def stock_on_hand(design: Design) -> tuple[StockBend, ...]:
    """The job's stock bends, or 45, 90 and 180 of each allowed radius with 100 mm legs (common practice)."""
    if design.settings.stock:
        return design.settings.stock
    return tuple(
        StockBend(angle_deg=a, clr_mm=clr, leg_mm=Length(100.0))
        for clr in design.settings.clr_mm
        for a in (45.0, 90.0, 180.0)
    )


def no_stock(design: Design, bend: Bend, tube: Tube) -> str:
    """Why no stock bend will do, and the largest that comes near."""
    angles = [s.angle_deg for s in stock_for(design, tube) if abs(s.clr_mm - bend.clr_mm) < SAME_SIZE_MM]
    largest = f": the largest is {max(angles):g}°" if angles else ""
    return f"no stock bend of {bend.clr_mm:g} mm radius in {tube.od_mm:g} mm tube holds {bend.angle_deg:.1f}°{largest}"
