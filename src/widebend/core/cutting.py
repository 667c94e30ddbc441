"""What to cut: which stock each bend comes from, where to mark heel and throat, how far to roll, what it weighs.

A cut across a bend lies in the plane through the bend's centre, so its face is round and square to the pipe. The
tape along the heel (outside) and the throat (inside) then reads (CLR + r) and (CLR - r) times the angle: 3:1 at
CLR = 1 x OD, 2:1 at 1.5 x OD.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace

from .records import Bend, Design, InLine, Leg, Mitre, Pie, Run, StockBend, Tube
from .route import LaidPiece, LaidRun
from .tube import DENSITY_KG_M3, circumference, mass_per_metre, round_the_tube
from .units import Length

WHOLE_DEG = 0.05  # a bend this near its stock's angle is used whole: less than a saw blade shows
SLIVER_MM = 0.5  # a straight shorter than this is not a piece, it is the saw cut
WELDS = {"butt": 1, "v-band": 2, "flange": 2, "slip": 0, "clamp": 0}


@dataclass(frozen=True)
class BendMarks:
    """How to take one bend out of its stock. Lengths mm along the tube's outside, angles deg."""

    stock: StockBend
    source: str
    keep_before_mm: float
    keep_after_mm: float
    cut: str  # "outlet", "inlet" or "" when the stock bend is used whole
    heel_mm: float
    throat_mm: float
    heel_from_end_mm: float
    throat_from_end_mm: float
    trim_mm: float
    left_over_deg: float
    angle_deg: float


@dataclass(frozen=True)
class RollMark:
    """Where the next bend's heel and throat go round the tube, from the run's reference line."""

    roll_deg: float
    tape_mm: float
    way: str  # "clockwise", "anticlockwise" (looking against the flow), or "on the line"


@dataclass(frozen=True)
class CutPiece:
    """One piece of metal, in order from the start. `pieces` are the design pieces (from 0) it is made for."""

    number: int
    kind: str  # "straight", "bend", "mitre", "pie", "part"
    pieces: tuple[int, ...]
    length_mm: float
    tube: Tube
    laid: LaidPiece
    marks: BendMarks | None = None
    roll: RollMark | None = None
    slip_mm: float = 0.0
    problem: str = ""


@dataclass(frozen=True)
class CutList:
    """All pieces of a run and what they add up to."""

    pieces: tuple[CutPiece, ...]
    stock: tuple[tuple[StockBend, int], ...]
    straight_mm: float
    tube_mm: float
    joints: int
    weld_mm: float
    tube_mass_kg: float
    part_mass_kg: float
    part_mass_unknown: tuple[str, ...] = ()

    @property
    def problems(self) -> tuple[str, ...]:
        return tuple(p.problem for p in self.pieces if p.problem)


@dataclass
class _Offcut:
    """What is left of a stock bend: one end still has its leg, the other is a saw face."""

    stock: StockBend
    angle_deg: float
    source: str
    whole_ends: int = 1


@dataclass
class _Bench:
    """What has been taken from the shelf so far while a list is made."""

    design: Design
    offcuts: list[_Offcut] = field(default_factory=list)
    taken: Counter[StockBend] = field(default_factory=Counter)

    def take(self, bend: Bend) -> _Offcut | None:
        """The smallest offcut that holds this bend, else the smallest new stock bend; None when none does."""

        def fits(angle: float, clr: float) -> bool:
            return abs(clr - bend.clr_mm) < 0.01 and angle >= bend.angle_deg - WHOLE_DEG

        rests = [o for o in self.offcuts if fits(o.angle_deg, o.stock.clr_mm)]
        if rests:
            best = min(rests, key=lambda o: o.angle_deg)
            self.offcuts.remove(best)
            return best
        new = [s for s in stock_on_hand(self.design) if fits(s.angle_deg, s.clr_mm)]
        if not new:
            return None
        stock = min(new, key=lambda s: (s.angle_deg, s.leg_mm))
        self.taken[stock] += 1
        return _Offcut(stock, stock.angle_deg, f"{stock.angle_deg:g}° bend no. {self.taken[stock]}", whole_ends=2)

    def put_back(self, rest: _Offcut, used_deg: float) -> float:
        """Put what is left of a bend back; the angle left after the saw cut, 0 when nothing useful is."""
        kerf = math.degrees(self.design.settings.kerf_mm / rest.stock.clr_mm)
        left = rest.angle_deg - used_deg - kerf
        if left < 2.0:
            return 0.0
        ends = max(0, rest.whole_ends - 1)
        self.offcuts.append(_Offcut(rest.stock, left, f"rest of {rest.source.removeprefix('rest of ')}", ends))
        return left


def stock_on_hand(design: Design) -> tuple[StockBend, ...]:
    """The job's stock bends, or 45, 90 and 180 of each allowed radius with 100 mm legs (common practice)."""
    if design.settings.stock:
        return design.settings.stock
    return tuple(
        StockBend(angle_deg=a, clr_mm=clr, leg_mm=Length(100.0))
        for clr in design.settings.clr_mm
        for a in (45.0, 90.0, 180.0)
    )


def arc_on(radius_mm: float, angle_deg: float) -> float:
    """Arc length [mm] at a radius.

    >>> round(arc_on(95.25 + 31.75, 26), 1)
    57.6
    """
    return radius_mm * math.radians(angle_deg)


def heel_and_throat(clr_mm: float, od_mm: float, angle_deg: float) -> tuple[float, float]:
    """Tape lengths along the outside and the inside of a bend [mm].

    >>> [round(x, 5) for x in heel_and_throat(95.25, 63.5, 45)]
    [99.74557, 49.87278]
    """
    return arc_on(clr_mm + od_mm / 2, angle_deg), arc_on(clr_mm - od_mm / 2, angle_deg)


def slice_heel_and_throat(clr_mm: float, od_mm: float, turn_deg: float) -> tuple[float, float]:
    """Lengths of one whole slice of a bend along its outside and its inside [mm]: 2 (CLR ± r) tan(turn / 2), each face
    cut half the turn off square.

    >>> [round(x, 6) for x in slice_heel_and_throat(95.25, 63.5, 15)]
    [33.439734, 16.719867]
    """
    twice = 2.0 * math.tan(math.radians(turn_deg) / 2)
    return (clr_mm + od_mm / 2) * twice, (clr_mm - od_mm / 2) * twice


def roll_mark(od_mm: float, roll_deg: float) -> RollMark:
    """The short way round the tube from the reference line to a roll.

    >>> roll_mark(63.5, 350).way, round(roll_mark(63.5, 350).tape_mm, 2)
    ('anticlockwise', 5.54)
    """
    short = (roll_deg + 180.0) % 360.0 - 180.0
    if abs(short) < 0.05:
        return RollMark(roll_deg, 0.0, "on the line")
    return RollMark(roll_deg, round_the_tube(od_mm, abs(short)), "clockwise" if short > 0 else "anticlockwise")


def cut_list(design: Design, laid: LaidRun) -> CutList:
    """The pieces of metal of a run, in order, each bend with its stock and marks."""
    bench = _Bench(design)
    needs = [float(p.piece.length_mm) if isinstance(p.piece, Leg) else 0.0 for p in laid.pieces]
    slips = _slips(laid.run)
    cuts: list[CutPiece] = []
    bends: dict[int, CutPiece] = {}
    for i, piece in enumerate(laid.pieces):
        if isinstance(piece.piece, Bend):
            bends[i] = _cut_bend(bench, laid.pieces, i, needs)
    for i, piece in enumerate(laid.pieces):
        number = len(cuts) + 1
        if i in bends:
            cuts.append(_numbered(bends[i], number))
        elif isinstance(piece.piece, Leg):
            slip = slips.get(piece.piece.id, 0.0)
            if needs[i] > SLIVER_MM or slip:
                cuts.append(CutPiece(number, "straight", (i,), needs[i] + slip, piece.tube, piece, slip_mm=slip))
        else:
            cuts.append(_other(piece, number))
    return _added_up(design, laid, cuts, bench)


def _numbered(cut: CutPiece, number: int) -> CutPiece:
    return replace(cut, number=number)


def _slips(run: Run) -> dict[str, float]:
    """Extra length of a piece that is pushed into the next, by piece id."""
    return {j.after: float(j.overlap_mm) for j in run.joints if j.kind == "slip"}


def _other(piece: LaidPiece, number: int) -> CutPiece:
    kind = {Mitre: "mitre", Pie: "pie", InLine: "part"}[type(piece.piece)]  # type: ignore[index]
    roll = getattr(piece.piece, "roll_deg", 0.0)
    mark = roll_mark(piece.tube.od_mm, roll) if kind != "part" else None
    return CutPiece(number, kind, (piece.index,), piece.length_mm, piece.tube, piece, roll=mark)


def _cut_bend(bench: _Bench, pieces: Sequence[LaidPiece], i: int, needs: list[float]) -> CutPiece:
    """Take one bend from its stock; its kept legs serve the straights beside it (`needs` is used up)."""
    laid, bend = pieces[i], pieces[i].piece
    assert isinstance(bend, Bend)  # the caller looked
    od = float(laid.tube.od_mm)
    roll = roll_mark(od, bend.roll_deg)
    rest = bench.take(bend)
    if rest is None:
        why = _no_stock(bench.design, bend)
        return CutPiece(0, "bend", (i,), laid.length_mm, laid.tube, laid, roll=roll, problem=why)
    before = i - 1 if i > 0 and isinstance(pieces[i - 1].piece, Leg) else None
    after = i + 1 if i + 1 < len(pieces) and isinstance(pieces[i + 1].piece, Leg) else None
    room = [needs[k] if k is not None else 0.0 for k in (before, after)]
    whole = rest.angle_deg - bend.angle_deg <= WHOLE_DEG
    keep_in_first = room[0] >= room[1]
    has_leg = [True, True] if whole and rest.whole_ends == 2 else [keep_in_first, not keep_in_first]
    if rest.whole_ends == 0:
        has_leg = [False, False]
    keep = [min(float(rest.stock.leg_mm), room[k]) if has_leg[k] else 0.0 for k in (0, 1)]
    for k, index in enumerate((before, after)):
        if index is not None:
            needs[index] -= keep[k]
    heel, throat = heel_and_throat(float(bend.clr_mm), od, bend.angle_deg)
    from_end = float(rest.stock.leg_mm) if rest.whole_ends else 0.0
    cut = "" if whole else ("outlet" if keep_in_first else "inlet")
    left = 0.0 if whole else bench.put_back(rest, bend.angle_deg)
    kept_here = keep[0] if keep_in_first else keep[1]
    marks = BendMarks(
        rest.stock, rest.source, keep[0], keep[1], cut, heel, throat, from_end + heel, from_end + throat,
        from_end - kept_here, left, bend.angle_deg,
    )  # fmt: skip
    covered = tuple(k for k in (before if keep[0] else None, i, after if keep[1] else None) if k is not None)
    return CutPiece(0, "bend", covered, laid.length_mm + keep[0] + keep[1], laid.tube, laid, marks, roll)


def _no_stock(design: Design, bend: Bend) -> str:
    angles = [s.angle_deg for s in stock_on_hand(design) if abs(s.clr_mm - bend.clr_mm) < 0.01]
    largest = f": the largest is {max(angles):g}°" if angles else ""
    return f"no stock bend of {bend.clr_mm:g} mm radius holds {bend.angle_deg:.1f}°{largest}"


def _added_up(design: Design, laid: LaidRun, cuts: list[CutPiece], bench: _Bench) -> CutList:
    tube_mm, tube_kg = 0.0, 0.0
    for piece in laid.pieces:
        if not isinstance(piece.piece, InLine):
            tube_mm += piece.length_mm
            tube_kg += piece.length_mm / 1000 * tube_mass_per_metre(piece.tube)
    for cut in cuts:
        tube_mm += cut.slip_mm
        tube_kg += cut.slip_mm / 1000 * tube_mass_per_metre(cut.tube)
    parts = [p for p in (design.part(c.laid.piece.part) for c in cuts if isinstance(c.laid.piece, InLine)) if p]
    joints, weld = _joints(laid, cuts)
    return CutList(
        tuple(cuts),
        tuple(sorted(bench.taken.items(), key=lambda item: (item[0].clr_mm, item[0].angle_deg))),
        sum(c.length_mm for c in cuts if c.kind == "straight"),
        tube_mm,
        joints,
        weld,
        tube_kg,
        sum(p.item.mass_kg or 0.0 for p in parts),
        tuple(p.name or p.item.kind for p in parts if p.item.mass_kg is None),
    )


def tube_mass_per_metre(tube: Tube) -> float:
    """Mass of a tube [kg/m] by its material."""
    return mass_per_metre(float(tube.od_mm), float(tube.wall_mm), DENSITY_KG_M3[tube.material])


def _joints(laid: LaidRun, cuts: list[CutPiece]) -> tuple[int, float]:
    """Number of joints, the ends included, and the weld they need [mm]."""
    if not cuts:
        return 0, 0.0
    kinds = {j.after: j.kind for j in laid.run.joints}
    count, weld = 0, 0.0
    ends = [None, *cuts] if laid.run.start else list(cuts)
    for k, cut in enumerate(ends):
        if k == len(ends) - 1 and not laid.run.aim:
            continue
        after = "start" if cut is None else laid.pieces[max(cut.pieces)].piece.id
        tube = laid.run.tube if cut is None else cut.tube
        count += 1
        weld += WELDS[kinds.get(after, "butt")] * circumference(float(tube.od_mm))
    return count, weld
