"""Cut lists: which stock each bend comes from, where to mark heel and throat, how far to roll, what it weighs.

A cut across a bend lies in the plane through the bend's centre, so its face is round and square to the pipe. The
tape along the heel (outside) and the throat (inside) then reads (CLR + r) and (CLR - r) times the angle: 3:1 at
CLR = 1 x OD, 2:1 at 1.5 x OD.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ...facts import JOINTS, METALS, JointKind
from ..laying import LaidPiece, LaidRun, as_drawn
from ..records import Bend, Design, InLine, Mitre, Rules, SegmentedBend, StockBend, Straight, Tap, Tube
from .bends_at_hand import WHOLE_DEG, BendPlan, BendsAtHand, Offcut, no_stock, same_tube
from .cut_pieces import BendMarks, CutPiece, half_face_deg
from .fixed_marks import with_fixed
from .joint_hardware import is_half
from .roll import roll_mark
from .tube import mass_per_metre, slanted_circumference

SLIVER_MM = 0.05  # a straight shorter than this is not a piece: less than a saw blade wanders
SHOWN_OFF_MM = 0.5  # an end that comes less off its place is filed to
NO_PLAN: BendPlan = {}


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
        on_pieces = (p.problem for p in self.pieces)
        fixed = (mark.wrong() for p in self.pieces for mark in p.fixed)
        return tuple(why for why in (*on_pieces, *fixed) if why)


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


def least_slice_clr(rules: Rules, od_mm: float) -> float:
    """The smallest radius for slices that turn as much as the shop lets one: by its share of the tube's outside, and by
    what is left at the throat [mm].

    >>> round(least_slice_clr(Rules(), 76.2), 1)
    60.9
    """
    at_throat = od_mm / 2 + float(rules.least_throat_mm) / (2.0 * math.tan(math.radians(rules.pie_turn_deg) / 2))
    return max(float(rules.pie_clr_od) * od_mm, at_throat)


def cut_list(design: Design, laid: LaidRun) -> CutList:
    """The pieces of metal of one run by itself, in order, each bend with its stock and marks."""
    return cut_lists(design, (laid,))[0]


def cut_lists(design: Design, runs: Sequence[LaidRun], plan: BendPlan = NO_PLAN) -> list[CutList]:
    """The pieces of metal of several runs made together, their bends as a nest laid them; without one what is left of
    one run's bends serves the next.
    """
    return cut_with_rests(design, runs, plan)[0]


def cut_with_rests(
    design: Design, runs: Sequence[LaidRun], plan: BendPlan = NO_PLAN
) -> tuple[list[CutList], list[Offcut]]:
    """The same, with what is left of the stock bends when all runs are cut."""
    bench = BendsAtHand(design, plan)
    lists = []
    for laid in runs:
        before = bench.taken.copy()
        lists.append(_cut_run(design, bench, laid, before))
    return lists, bench.offcuts


def _cut_run(design: Design, bench: BendsAtHand, laid: LaidRun, before: Counter[StockBend]) -> CutList:
    laid = as_drawn(design, laid)  # what is on the vehicle was cut as it was drawn
    plan = _Plan.of(laid, design.settings.rules)
    bends = {i: _cut_bend(bench, plan, i) for i, p in enumerate(laid.pieces) if isinstance(p.piece, Bend)}
    cuts: list[CutPiece] = []
    for i, piece in enumerate(laid.pieces):
        number = len(cuts) + 1
        if i in bends:
            cuts.append(replace(bends[i], number=number))
        elif isinstance(piece.piece, Straight):
            if plan.needs[i] + plan.slips[i] > SLIVER_MM:
                long = plan.needs[i] + plan.slips[i]
                cuts.append(CutPiece(number, "straight", (i,), long, piece.tube, piece, slip_mm=plan.slips[i]))
        else:
            cuts.append(_other(piece, number))
    return _added_up(design, laid, with_fixed(design, laid, cuts), plan, bench.taken - before)


@dataclass
class _Plan:
    """A run while its bends are cut: what straight each leg still needs beside what comes with the bends [mm], how far
    each piece is pushed into the next [mm], and how each piece is joined to the next.

    `plain[i]` says that piece i meets piece i + 1 in a plain butt weld of one tube, so that the two may be one piece of
    metal.
    """

    laid: LaidRun
    needs: list[float]
    slips: list[float]
    joints: list[JointKind]
    plain: list[bool]
    rules: Rules

    @classmethod
    def of(cls, laid: LaidRun, rules: Rules) -> _Plan:
        pieces, said = laid.pieces, {j.after: j for j in laid.run.joints}
        needs = [float(p.piece.length_mm) if isinstance(p.piece, Straight) else 0.0 for p in pieces]
        slips = [
            float(said[p.piece.id].overlap_mm) if p.piece.id in said and said[p.piece.id].kind == "slip" else 0.0
            for p in pieces
        ]
        joints: list[JointKind] = [said[p.piece.id].kind if p.piece.id in said else "butt" for p in pieces]
        plain = [
            p.piece.id not in said and k + 1 < len(pieces) and same_tube(p.tube, pieces[k + 1].tube)
            for k, p in enumerate(pieces)
        ]
        return cls(laid, needs, slips, joints, plain, rules)

    def leg(self, i: int, side: int) -> int | None:
        """The leg ahead of (0) or behind (1) a bend that may come with it in one piece."""
        k, joint = (i - 1, i - 1) if side == 0 else (i + 1, i)
        there = 0 <= k < len(self.needs) and isinstance(self.laid.pieces[k].piece, Straight)
        return k if there and self.plain[joint] else None

    def keeps(self, i: int, side: int, stock_leg_mm: float) -> float:
        """How much of a stock leg a bend keeps on one side, what is pushed into the next piece included: all that is
        wanted, or so much that what is left is long enough to hold.
        """
        k = self.leg(i, side)
        if k is None:
            return min(stock_leg_mm, self.slips[i]) if side == 1 else 0.0
        wanted = self.needs[k] + (self.slips[k] if side == 1 else 0.0)
        if stock_leg_mm >= wanted:
            return wanted
        if self.slips[k]:  # the end that is pushed in stays one piece with its straight
            return 0.0
        return max(0.0, min(stock_leg_mm, self.needs[k] - self.rules.least_ring_mm))

    def shift(self, i: int, by_mm: float) -> float:
        """Take off the straights beside a bend what its ends come further out, so that its corner stays; how much no
        straight could take up.
        """
        off = 0.0
        for k in (i - 1, i + 1):
            there = 0 <= k < len(self.needs) and isinstance(self.laid.pieces[k].piece, Straight)
            if there and self.needs[k] >= by_mm:
                self.needs[k] -= by_mm
            else:
                off = max(off, abs(by_mm))
        return off

    def take(self, i: int, side: int, kept_mm: float) -> float:
        """Use up what a bend keeps; how much of it is pushed into the next piece."""
        k = self.leg(i, side)
        if k is None:
            return kept_mm
        slip = max(0.0, kept_mm - self.needs[k])
        self.needs[k] = max(0.0, self.needs[k] - kept_mm)
        if slip:
            self.slips[k] = 0.0
        return slip


def _other(piece: LaidPiece, number: int) -> CutPiece:
    kind = {Mitre: "mitre", SegmentedBend: "pie", InLine: "part"}[type(piece.piece)]  # type: ignore[index]
    roll = getattr(piece.piece, "roll_deg", 0.0)
    mark = roll_mark(piece.tube.od_mm, roll) if kind != "part" else None
    return CutPiece(number, kind, (piece.index,), piece.length_mm, piece.tube, piece, roll=mark)


def _cut_bend(bench: BendsAtHand, plan: _Plan, i: int) -> CutPiece:
    """Take one bend from its stock; its kept legs serve the straights beside it (what the plan needs is used up)."""
    laid, bend = plan.laid.pieces[i], plan.laid.pieces[i].piece
    assert isinstance(bend, Bend)  # the caller looked
    od = float(laid.tube.od_mm)
    run_id = plan.laid.run.id
    rest = bench.take(bend, laid.tube, run_id)
    # what was measured of its stock is what the tape goes round and along
    od, clr = (rest.od_mm or od, rest.clr_mm or float(bend.clr_mm)) if rest else (od, float(bend.clr_mm))
    roll = roll_mark(od, bend.roll_deg)
    # bent tube is flattened toward the bend's centre: common practice, no source
    across = od - (rest.out_of_round_mm / 2 if rest else 0.0)
    if rest is None:
        why = no_stock(bench.design, bend, laid.tube)
        return CutPiece(0, "bend", (i,), laid.length_mm, laid.tube, laid, roll=roll, problem=why)
    off = plan.shift(i, (clr - float(bend.clr_mm)) * math.tan(math.radians(bend.angle_deg) / 2))
    leg = float(rest.stock.leg_mm) if rest.whole_ends else 0.0
    could = [plan.keeps(i, side, leg) for side in (0, 1)]
    whole = rest.angle_deg - bend.angle_deg <= WHOLE_DEG
    # a leg on one end only goes where a slip needs it, else where more of it is used
    first = could[0] >= could[1] and not plan.slips[i]
    both = whole and rest.whole_ends == 2
    keep = [could[side] if both or first == (side == 0) else 0.0 for side in (0, 1)]
    plan.take(i, 0, keep[0])
    slip = plan.take(i, 1, keep[1]) if keep[1] else 0.0
    lacks = plan.slips[i] - keep[1] if plan.slips[i] and plan.leg(i, 1) is None else 0.0
    heel, throat = heel_and_throat(clr, across, bend.angle_deg)
    left = 0.0 if whole else bench.put_back(rest, bend, run_id)
    marks = BendMarks(
        rest.stock,
        rest.source,
        keep[0],
        keep[1],
        "" if whole else ("outlet" if first else "inlet"),
        heel,
        throat,
        leg + heel,
        leg + throat,
        leg - (keep[0] if first else keep[1]),
        left,
        bend.angle_deg,
        across,
        clr,
    )
    covered = tuple(k for k, kept in ((i - 1, keep[0]), (i, 1.0), (i + 1, keep[1] - slip)) if kept > 0)
    short = f"the slip needs {lacks:.0f} mm more of straight behind the bend: put a straight there"
    far = f"its stock's radius is {clr:g} mm: an end comes {off:.1f} mm off, and no straight beside it takes that up"
    length = arc_on(clr, bend.angle_deg) + keep[0] + keep[1]
    problem = short if lacks > 0.05 else far if off > SHOWN_OFF_MM else ""
    return CutPiece(0, "bend", covered, length, laid.tube, laid, marks, roll, slip, problem)


def _added_up(design: Design, laid: LaidRun, cuts: list[CutPiece], plan: _Plan, taken: Counter[StockBend]) -> CutList:
    tube_mm, tube_kg = 0.0, 0.0
    for piece in laid.pieces:
        if not isinstance(piece.piece, InLine):
            tube_mm += piece.length_mm
            tube_kg += piece.length_mm / 1000 * tube_mass_per_metre(piece.tube)
    for cut in cuts:
        tube_mm += cut.slip_mm
        tube_kg += cut.slip_mm / 1000 * tube_mass_per_metre(cut.tube)
    parts = [p for p in (design.part(c.laid.piece.part) for c in cuts if isinstance(c.laid.piece, InLine)) if p]
    met = seams(laid, cuts, plan.joints, design)
    return CutList(
        tuple(cuts),
        tuple(sorted(taken.items(), key=lambda item: (item[0].clr_mm, item[0].angle_deg))),
        sum(c.length_mm for c in cuts if c.kind == "straight"),
        tube_mm,
        len(met),
        sum(seam.weld_mm for seam in met) + sum(mark.weld_mm for cut in cuts for mark in cut.fixed),
        tube_kg,
        sum(p.item.mass_kg or 0.0 for p in parts),
        tuple(p.name or p.item.kind for p in parts if p.item.mass_kg is None),
    )


def tube_mass_per_metre(tube: Tube) -> float:
    """Mass of a tube [kg/m] by its material."""
    return mass_per_metre(float(tube.od_mm), float(tube.wall_mm), METALS[tube.material].density_kg_m3)


# --- where pieces of metal meet --------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Seam:
    """Where two pieces of metal meet, or one meets a port: how, and how far round is welded [mm]."""

    kind: JointKind
    weld_mm: float


def seams(laid: LaidRun, cuts: Sequence[CutPiece], joints: Sequence[JointKind], design: Design) -> list[Seam]:
    """Every seam of a run in order: at its start, between pieces, between slices, and at its aim.

    A mitre is no piece of metal but a slanted seam between two; slices meet each other and what stands beside them on
    slanted faces too. A flange or V-band that meets a part which is one has its other half there: one weld, not two.
    """
    metal = [cut for cut in cuts if cut.kind != "mitre"]
    if not metal:
        return []
    said: dict[str, JointKind] = {j.after: j.kind for j in laid.run.joints}
    start = laid.run.start
    saddle = 90.0 - start.angle_deg if isinstance(start, Tap) else 0.0
    at_start: JointKind = said.get("start", "butt")
    found = [_seam(at_start, metal[0].tube, max(half_face_deg(metal[0]), saddle), half=is_half(design, start))]
    for k, cut in enumerate(metal):
        if isinstance(cut.laid.piece, SegmentedBend):
            found += [_seam("butt", cut.tube, half_face_deg(cut)) for _ in range(cut.laid.piece.slices - 1)]
        after = metal[k + 1] if k + 1 < len(metal) else None
        if after is None and not laid.run.aim:
            continue
        behind = laid.run.aim if after is None else getattr(after.laid.piece, "part", None)
        half = is_half(design, behind) or is_half(design, getattr(cut.laid.piece, "part", None))
        found.append(_between(laid, cut, after, joints, half))
    return found


def _between(laid: LaidRun, cut: CutPiece, after: CutPiece | None, joints: Sequence[JointKind], half: bool) -> Seam:
    """The seam behind a piece: of the kind its design piece says, plain where it lies within a straight."""
    last, first = max(cut.pieces), min(after.pieces) if after else len(laid.pieces)
    slant = max(half_face_deg(cut), half_face_deg(after) if after else 0.0)
    if first <= last:  # both hold some of the same straight
        return _seam("butt", cut.tube, slant)
    between = laid.pieces[last + 1 : first]
    slant = max([slant, *(p.piece.turn_deg / 2 for p in between if isinstance(p.piece, Mitre))])
    kind: JointKind = next((joints[k] for k in range(last, first) if joints[k] != "butt"), "butt")
    return _seam(kind, cut.tube, slant, half=half)


def _seam(kind: JointKind, tube: Tube, slant_deg: float, *, half: bool = False) -> Seam:
    welds = min(JOINTS[kind].welds, 1) if half else JOINTS[kind].welds
    return Seam(kind, welds * slanted_circumference(float(tube.od_mm), slant_deg))
