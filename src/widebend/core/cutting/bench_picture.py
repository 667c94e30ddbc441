"""A piece as it lies on the bench: its metal in its stock, the cuts, and where the tape reads what.

The engine end is at the left, a bend's throat up the page. Everything is mm in the plane of the bench; screens and
paper draw the same picture.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..laying import LaidRun
from ..records import Bend, Design, InLine, Mitre, SegmentedBend, Tube
from ..space import Vector, wrapped
from .cut_pieces import BendMarks, CutPiece, FixedMark
from .lists import arc_on
from .tube import round_the_tube

# Three marks across a joint, round the tube from the reference line: 110, 135 and 115 deg apart, so that they meet in
# one way only, never on the line itself, and a mirrored part's do not meet at all. Common practice: three, unequal.
WITNESS_DEG = (20.0, 130.0, 265.0)
SHOWN_WASTE_DEG = 40.0  # of a stock bend no more is drawn past the cut
LONGEST_MM = 420.0  # a longer straight is drawn broken

Rolls = tuple[float, ...]
Kind = Literal[
    "kept",
    "waste",
    "seam",
    "cut",
    "saw",
    "tangent",
    "centre",
    "line",
    "far line",
    "witness",
    "slip",
    "hole",
    "far hole",
]


@dataclass(frozen=True)
class Stroke:
    """A line or, closed, an area of the picture: `points` (n, 2) mm."""

    kind: Kind
    points: Vector
    closed: bool = False


@dataclass(frozen=True)
class Tape:
    """A tape along a line on the metal: `points` (n, 2) mm, from where to where."""

    where: str  # "heel", "throat", "sides", "long", "kept", ...
    points: Vector
    mm: float


@dataclass(frozen=True)
class Picture:
    """A piece on the bench. `broken` says that its straight is drawn shorter than it is."""

    strokes: tuple[Stroke, ...]
    tapes: tuple[Tape, ...]
    broken: bool = False

    @property
    def box(self) -> tuple[Vector, Vector]:
        """Lower left and upper right corner of all that is drawn (2,) [mm]."""
        points = np.concatenate([s.points for s in self.strokes])
        return points.min(axis=0), points.max(axis=0)


def on_bench(cut: CutPiece, facing_mm: float = 0.0, *, mirrored: bool = False) -> Picture | None:
    """The picture of a piece of metal; None for a part, which is not cut. `facing_mm` is left on for dressing;
    a mirrored run's witness marks run the other way round.
    """
    piece, r = cut.laid.piece, float(cut.tube.od_mm) / 2
    witness = tuple(-roll if mirrored else roll for roll in WITNESS_DEG)
    if isinstance(piece, Bend):
        return _bend(piece, r, cut.marks, facing_mm, witness, cut.fixed)
    if isinstance(piece, SegmentedBend):
        return _slices(piece, r)
    if isinstance(piece, Mitre):
        return _mitre(piece, r)
    return None if isinstance(piece, InLine) else _straight(cut, r, facing_mm, witness)


def witness_marks(tube: Tube) -> tuple[float, ...]:
    """Where the three witness marks of a joint go round a tube from the reference line [mm], clockwise looking toward
    the engine end; on the right one of mirrored parts anticlockwise, so that left and right do not fit each other's.
    """
    return tuple(round_the_tube(float(tube.od_mm), roll) for roll in WITNESS_DEG)


def hand_of(design: Design, laid: LaidRun) -> Literal["", "left", "right"]:
    """Which side of its line a mirrored run lies on; empty for a run that has no twin."""
    run = laid.run
    image = run if run.twin_of else next((r for r in design.runs if r.twin_of == run.id), None)
    if image is None or not laid.pieces:
        return ""
    across = sum(float(piece.middle[1]) for piece in laid.pieces) / len(laid.pieces)
    return "right" if across > image.twin_line_mm else "left"


def _bend(
    bend: Bend, r: float, marks: BendMarks | None, facing: float, witness: Rolls, fixed: Sequence[FixedMark]
) -> Picture:
    clr, turn = float(bend.clr_mm), bend.angle_deg
    if marks:
        clr, r = marks.clr_mm, marks.od_mm / 2
    before, after = (marks.keep_before_mm, marks.keep_after_mm) if marks else (0.0, 0.0)
    kept = np.vstack(
        [
            [(-before, -r)],
            _arc(clr, clr + r, 0.0, turn),
            _past(clr, clr + r, turn, after),
            _past(clr, clr - r, turn, after),
            _arc(clr, clr - r, turn, 0.0),
            [(-before, r)],
        ]
    )
    strokes = [Stroke("kept", kept, closed=True)]
    strokes += [Stroke("waste", area, closed=True) for area in _waste(clr, r, turn, marks)]
    middle = np.vstack([[(-before, 0.0)], _arc(clr, clr, 0.0, turn), _past(clr, clr, turn, after)])
    strokes.append(Stroke("centre", middle))
    strokes += [Stroke("tangent", np.vstack([_at(clr, clr + r, deg), _at(clr, clr - r, deg)])) for deg in (0.0, turn)]
    strokes += _cuts(clr, r, turn, marks, facing)
    strokes += _holes_of_bend(fixed, clr, r, bend, before)
    strokes += _reference(clr, r, bend, before, after, witness)
    off = 0.16 * r + 4.0
    tapes = [
        Tape("heel", _arc(clr, clr + r + off, 0.0, turn), arc_on(clr + r, turn)),
        Tape("throat", _arc(clr, max(1.0, clr - r - off), 0.0, turn), arc_on(clr - r, turn)),
        Tape("sides", _arc(clr, clr, 0.0, turn), arc_on(clr, turn)),
    ]
    low = -r - off
    if before > 0.05:
        tapes.append(Tape("kept", np.array([(-before, low), (0.0, low)]), before))
    if after > 0.05:
        along = [_past(clr, clr + r + off, turn, on) for on in (0.0, after)]
        tapes.append(Tape("kept", np.vstack(along), after))
    return Picture(tuple(strokes), tuple(tapes))


def _waste(clr: float, r: float, turn: float, marks: BendMarks | None) -> list[Vector]:
    """Return the waste of the stock: beyond its cut, and a leg that is trimmed off."""
    if marks is None:
        return []
    areas = []
    leg = float(marks.stock.leg_mm)
    beyond = min(SHOWN_WASTE_DEG, max(0.0, float(marks.stock.angle_deg) - turn)) if marks.cut else 0.0
    if beyond > 0.5:
        span = (turn, turn + beyond) if marks.cut == "outlet" else (-beyond, 0.0)
        areas.append(np.vstack([_arc(clr, clr + r, *span), _arc(clr, clr - r, *span[::-1])]))
    if marks.cut != "inlet" and leg - marks.keep_before_mm > 0.05 and marks.trim_mm > 0.05:
        far, near = -min(leg, marks.keep_before_mm + 60.0), -marks.keep_before_mm
        areas.append(np.array([(far, -r), (near, -r), (near, r), (far, r)]))
    if marks.cut != "outlet" and leg - marks.keep_after_mm > 0.05 and marks.trim_mm > 0.05:
        near, far = marks.keep_after_mm, min(leg, marks.keep_after_mm + 60.0)
        areas.append(
            np.vstack(
                [
                    _past(clr, clr + r, turn, near),
                    _past(clr, clr + r, turn, far),
                    _past(clr, clr - r, turn, far),
                    _past(clr, clr - r, turn, near),
                ]
            )
        )
    return areas


def _cuts(clr: float, r: float, turn: float, marks: BendMarks | None, facing: float) -> list[Stroke]:
    """The marks that are cut to; with a facing allowance the saw runs so far outside them."""
    if marks is None:
        return []
    out = r + 9.0

    def across(deg: float, past: float) -> Vector:
        return np.vstack([_past(clr, clr + out, deg, past), _past(clr, clr - out, deg, past)])

    found: list[Stroke] = []
    if marks.cut:
        deg = turn if marks.cut == "outlet" else 0.0
        found.append(Stroke("cut", across(deg, 0.0)))
        if facing:
            way = math.degrees(facing / clr) * (1.0 if marks.cut == "outlet" else -1.0)
            found.append(Stroke("saw", np.vstack([_at(clr, clr + out, deg + way), _at(clr, clr - out, deg + way)])))
    if marks.trim_mm > 0.05 and marks.cut != "inlet":
        found.append(Stroke("cut", np.array([(-marks.keep_before_mm, -out), (-marks.keep_before_mm, out)])))
    if marks.trim_mm > 0.05 and marks.cut != "outlet":
        found.append(Stroke("cut", across(turn, marks.keep_after_mm)))
    return found


def _reference(clr: float, r: float, bend: Bend, before: float, after: float, witness: Rolls) -> list[Stroke]:
    """The reference line along the piece, and witness marks at both ends: those on the side that is seen."""
    strokes, turn, roll_deg = [], bend.angle_deg, bend.roll_deg
    side, seen = _seen(r, -roll_deg)
    along = np.vstack([[(-before, side)], _arc(clr, clr - side, 0.0, turn), _past(clr, clr - side, turn, after)])
    strokes.append(Stroke("line" if seen else "far line", along))
    for roll in witness:
        side, seen = _seen(r, roll - roll_deg)
        if seen:
            strokes.append(Stroke("witness", np.array([(-before, side), (-before + 7.0, side)])))
            strokes.append(
                Stroke(
                    "witness",
                    np.vstack([_past(clr, clr - side, turn, after), _past(clr, clr - side, turn, after - 7.0)]),
                )
            )
    return strokes


def _holes_of_bend(fixed: Sequence[FixedMark], clr: float, r: float, bend: Bend, before: float) -> Iterator[Stroke]:
    """Holes of bosses and branches on a bend and its kept legs."""
    arc = clr * math.radians(bend.angle_deg)
    for mark in fixed:
        side, seen = _seen(r, mark.roll.roll_deg - bend.roll_deg)
        along = mark.middle_mm - before
        if 0.0 <= along <= arc:
            at, deg = _at(clr, clr - side, math.degrees(along / clr)), math.degrees(along / clr)
        elif along < 0.0:
            at, deg = np.array([along, side]), 0.0
        else:
            at, deg = _past(clr, clr - side, bend.angle_deg, along - arc), bend.angle_deg
        yield _hole(at, deg, mark, side / r, seen=seen)


def _hole(at: Vector, deg: float, mark: FixedMark, aside: float, *, seen: bool) -> Stroke:
    """A hole at a place (2,) where the tube runs `deg` up the page: the narrower, the farther it is to the side, as a
    share of the tube's radius.
    """
    turns, t = np.linspace(0.0, 2 * np.pi, 25)[:-1], math.radians(deg)
    along, across = np.array([math.cos(t), math.sin(t)]), np.array([-math.sin(t), math.cos(t)])
    narrow = math.sqrt(max(0.0, 1.0 - aside**2))
    ring = np.cos(turns)[:, None] * along + narrow * np.sin(turns)[:, None] * across
    return Stroke("hole" if seen else "far hole", at + mark.hole_mm / 2 * ring, closed=True)


def _seen(r: float, from_throat_deg: float) -> tuple[float, bool]:
    """Where a roll, counted clockwise from the throat, lies up the page [mm], and whether it faces who looks."""
    angle = math.radians(wrapped(from_throat_deg))
    return r * math.cos(angle), math.sin(angle) <= 1e-9


def _straight(cut: CutPiece, r: float, facing: float, witness: Rolls) -> Picture:
    long = cut.length_mm
    shown = min(long, LONGEST_MM)
    strokes = [Stroke("kept", np.array([(0.0, -r), (shown, -r), (shown, r), (0.0, r)]), closed=True)]
    if cut.slip_mm:
        near = shown - cut.slip_mm
        strokes.append(Stroke("slip", np.array([(near, -r), (shown, -r), (shown, r), (near, r)]), closed=True))
    for x, way in ((0.0, -1.0), (shown, 1.0)):
        strokes.append(Stroke("cut", np.array([(x, -r - 9.0), (x, r + 9.0)])))
        if facing:
            strokes.append(Stroke("saw", np.array([(x + way * facing, -r - 9.0), (x + way * facing, r + 9.0)])))
    # a straight has no throat: it lies with its reference line up, a little toward who looks
    strokes.append(Stroke("line", np.array([(0.0, 0.0), (shown, 0.0)])))
    for roll in witness:
        side, seen = _seen(r, roll - 90.0)
        if seen:
            ends = ((0.0, 7.0), (shown - 7.0, shown))
            strokes += [Stroke("witness", np.array([(a, side), (b, side)])) for a, b in ends]
    for mark in cut.fixed:
        side, seen = _seen(r, mark.roll.roll_deg - 90.0)
        strokes.append(_hole(np.array([mark.middle_mm * shown / long, side]), 0.0, mark, side / r, seen=seen))
    low = -r - 0.16 * r - 8.0
    tapes = [Tape("long", np.array([(0.0, low), (shown, low)]), long)]
    if cut.slip_mm:
        tapes.append(Tape("slip", np.array([(shown - cut.slip_mm, r + 8.0), (shown, r + 8.0)]), cut.slip_mm))
    return Picture(tuple(strokes), tuple(tapes), broken=long > LONGEST_MM)


def _mitre(mitre: Mitre, r: float) -> Picture:
    """Both sides of a mitred joint, the cut between them: the ends of two pieces, not a piece by itself."""
    half = math.radians(mitre.turn_deg) / 2
    slope, leg = r * math.tan(half), 2.2 * r
    onward = np.array([math.cos(2 * half), math.sin(2 * half)])
    heel, throat = np.array([slope, -r]), np.array([-slope, r])
    ahead = np.vstack([[(-leg, -r)], [heel], [throat], [(-leg, r)]])
    behind = np.vstack([[heel], [heel + leg * onward], [throat + leg * onward], [throat]])
    strokes = [Stroke("kept", ahead, closed=True), Stroke("kept", behind, closed=True)]
    strokes += [Stroke("cut", np.vstack([heel * 1.25, throat * 1.25]))]
    strokes += [Stroke("centre", np.vstack([[(-leg, 0.0)], [(0.0, 0.0)], [leg * onward]]))]
    low = np.array([(-slope, -r - 8.0), (slope, -r - 8.0)])
    return Picture(tuple(strokes), (Tape("longer at the heel by", low, 2 * slope),))


def _slices(pie: SegmentedBend, r: float) -> Picture:
    clr, each = float(pie.clr_mm), math.radians(pie.turn_each_deg)
    stretch = 1.0 / math.cos(each / 2)

    def corner(radius: float, k: int) -> tuple[float, float]:
        return radius * stretch * math.sin(k * each), clr - radius * stretch * math.cos(k * each)

    strokes = []
    for k in range(pie.slices):
        area = np.array([corner(clr + r, k), corner(clr + r, k + 1), corner(clr - r, k + 1), corner(clr - r, k)])
        strokes.append(Stroke("kept", area, closed=True))
    strokes += [
        Stroke("cut", np.array([corner(clr + r + 7.0, k), corner(max(1.0, clr - r - 7.0), k)]))
        for k in range(pie.slices + 1)
    ]
    twice = 2.0 * math.tan(each / 2)
    radii = (clr + r + 9.0, max(1.0, clr - r - 9.0), clr)
    first = [np.array([corner(radius, 0), corner(radius, 1)]) for radius in radii]
    tapes = (
        Tape("heel", first[0], (clr + r) * twice),
        Tape("throat", first[1], (clr - r) * twice),
        Tape("middle", first[2], clr * twice),
    )
    return Picture(tuple(strokes), tapes)


def _at(clr: float, radius: float, deg: float) -> Vector:
    t = math.radians(deg)
    return np.array([radius * math.sin(t), clr - radius * math.cos(t)])


def _arc(clr: float, radius: float, start_deg: float, end_deg: float) -> Vector:
    return np.array([_at(clr, radius, deg) for deg in np.linspace(start_deg, end_deg, 25)])


def _past(clr: float, radius: float, deg: float, on_mm: float) -> Vector:
    """A place on the straight behind a bend."""
    t = math.radians(deg)
    return _at(clr, radius, deg) + on_mm * np.array([math.cos(t), math.sin(t)])
