"""The cut list as rows of words: what CSV, the shop sheet and the screens all show."""

from __future__ import annotations

from dataclasses import dataclass

from ...core.cutting import (
    LEAST_ASKEW_DEG,
    CutList,
    CutPiece,
    FixedMark,
    roll_mark,
    slice_heel_and_throat,
    tilt_by_cut,
)
from ...core.laying import checks, underside
from ...core.records import Design, InLine, Mitre, Rules, SegmentedBend
from ...core.space import Pose, heading_deg, inclination_deg
from ...core.survey import stands
from ...core.units import format_angle, format_length
from ...core.wording import clock_words, piece_words


@dataclass(frozen=True)
class CutRow:
    """One line of a cut list, in words and in the chosen unit; fields that do not apply are empty."""

    number: int
    what: str
    source: str
    length: str
    keep: str
    cut: str
    heel: str
    throat: str
    heel_from_end: str
    throat_from_end: str
    round_the_tube: str
    clock: str
    station: str
    underside: str
    angle_finder: str
    heading: str
    rail: str
    now: str
    fixed: str
    note: str


def rows(design: Design, cuts: CutList, unit: str = "mm") -> list[CutRow]:
    """A cut list in words, one row a piece of metal."""
    return [row(design, cut, unit) for cut in cuts.pieces]


def row(design: Design, cut: CutPiece, unit: str = "mm") -> CutRow:
    def mm(value: float) -> str:
        return format_length(value, unit)

    marks, roll, laid = cut.marks, cut.roll, cut.laid
    first, last = checks(design, laid)
    made = cut.problem or _made_of(cut, unit) or _straight_note(cut, unit, design.settings.rules)
    return CutRow(
        number=cut.number,
        what=_what(design, cut, unit),
        source=(marks.source if marks else "straight tube" if cut.kind == "straight" else ""),
        length=mm(cut.length_mm),
        keep=_keep(cut, unit),
        cut=_cut_words(cut),
        heel=mm(marks.heel_mm) if marks else "",
        throat=mm(marks.throat_mm) if marks else "",
        heel_from_end=mm(marks.heel_from_end_mm) if marks and marks.cut else "",
        throat_from_end=mm(marks.throat_from_end_mm) if marks and marks.cut else "",
        round_the_tube=f"{mm(roll.tape_mm)} {roll.way}" if roll and roll.tape_mm else (roll.way if roll else ""),
        clock=clock_words(laid),
        station=_from_to(first.station_mm, last.station_mm, unit),
        underside=_from_to(first.underside_mm, last.underside_mm, unit),
        angle_finder=_angle_finder(laid.inlet, laid.outlet),
        heading=_heading(cut),
        rail=_rail(first.left_rail_gap_mm, first.right_rail_gap_mm, unit),
        now=_now(design, cut, unit),
        fixed="; ".join(fixed_words(mark, unit) for mark in cut.fixed),
        note="; ".join(note for note in (made, _askew_note(cut, unit)) if note),
    )


def fixed_words(mark: FixedMark, unit: str) -> str:
    """Where a boss or a branch goes: taped from the engine end and round from the line, its hole, what is wrong."""
    place = f"{format_length(mark.along_mm, unit)} from the engine end"
    round_it = (
        f"{format_length(mark.roll.tape_mm, unit)} {mark.roll.way} of the line"
        if mark.roll.tape_mm
        else ("on the line")
    )
    wrong = f". {mark.wrong(unit)}" if mark.sits_on else ""
    hole = f"hole {format_length(mark.hole_mm, unit)}" if mark.kind == "boss" else "hole by its template"
    return f"{mark.name}: {place}, {round_it}, {hole}{wrong}"


def _askew_note(cut: CutPiece, unit: str) -> str:
    """How its front face is trimmed to meet what was found on the vehicle."""
    tilt, at = cut.askew
    if tilt < LEAST_ASKEW_DEG:
        return ""
    od = float(cut.tube.od_mm)
    off, mark = format_length(tilt_by_cut(od, tilt).most_mm, unit), roll_mark(od, at)
    place = f"{format_length(mark.tape_mm, unit)} {mark.way} of the line" if mark.tape_mm else "on the line"
    return f"front face trimmed {format_angle(tilt)}: {off} comes off {place}, nothing opposite"


def _made_of(cut: CutPiece, unit: str) -> str:
    """How a mitre or a bend of slices is cut; empty for other pieces."""
    piece = cut.laid.piece
    if isinstance(piece, Mitre):
        return f"both faces cut {format_angle(piece.turn_deg / 2)} off square"
    if not isinstance(piece, SegmentedBend):
        return ""
    heel, throat = slice_heel_and_throat(float(piece.clr_mm), float(cut.tube.od_mm), piece.turn_each_deg)
    return (
        f"each slice {format_length(heel, unit)} at the heel, {format_length(throat, unit)} at the throat, "
        f"both faces cut {format_angle(piece.turn_each_deg / 2)} off square; whole slices, pipe beside "
        "them cut square"
    )


def _straight_note(cut: CutPiece, unit: str, rules: Rules) -> str:
    """Return the allowances in a straight's length, and what of it comes with the bends beside it."""
    notes = []
    if cut.slip_mm:
        notes.append(f"includes {format_length(cut.slip_mm, unit)} of slip")
    on_bends = cut.laid.length_mm + cut.slip_mm - cut.length_mm
    if cut.kind == "straight" and on_bends > 0.05:
        whole, rest = format_length(cut.laid.length_mm, unit), format_length(on_bends, unit)
        notes.append(f"of {whole}: {rest} is the leg kept on its bend")
    if cut.kind == "straight" and cut.length_mm < rules.least_ring_mm:
        least = format_length(rules.least_ring_mm, unit)
        notes.append(f"shorter than the {least} that can be held and welded")
    return "; ".join(notes)


def _from_to(first: float, last: float, unit: str) -> str:
    here, there = format_length(first, unit, suffix=False), format_length(last, unit)
    return there if format_length(first, unit) == there else f"{here} to {there}"


def _what(design: Design, cut: CutPiece, unit: str) -> str:
    if cut.marks or cut.kind == "bend":
        return f"{format_angle(getattr(cut.laid.piece, 'angle_deg', 0.0))} bend"
    if cut.kind == "straight":
        return f"{format_length(cut.length_mm, unit)} straight"
    piece = cut.laid.piece
    part = design.part(piece.part) if isinstance(piece, InLine) else None
    return (part.name or part.item.kind) if part else piece_words(piece, unit)


def _keep(cut: CutPiece, unit: str) -> str:
    if not cut.marks:
        return ""
    legs = [(cut.marks.keep_before_mm, "before the bend"), (cut.marks.keep_after_mm, "after the bend")]
    kept = [f"{format_length(mm, unit)} {where}" for mm, where in legs if mm > 0.05]
    return " and ".join(kept) or "no leg: trim to where the bend starts"


def _cut_words(cut: CutPiece) -> str:
    marks = cut.marks
    if not marks:
        return ""
    if not marks.cut:
        return "whole"
    return f"{format_angle(marks.angle_deg)} from its {'inlet' if marks.cut == 'outlet' else 'outlet'} end"


def _now(design: Design, cut: CutPiece, unit: str) -> str:
    """Return the readings of tape and angle finder while the vehicle stands as it was measured; empty when that is as
    it rides.
    """
    now = stands(design.survey)
    if not now.moved:
        return ""
    inlet, outlet = now.pose_now(cut.laid.inlet), now.pose_now(cut.laid.outlet)
    od = float(cut.laid.tube.od_mm)
    low = [underside(at.point, at.flow, od) for at in (inlet, outlet)]
    return f"as it stands: angle finder {_angle_finder(inlet, outlet)}, underside {_from_to(low[0], low[1], unit)}"


def _angle_finder(inlet: Pose, outlet: Pose) -> str:
    here, there = inclination_deg(inlet.flow), inclination_deg(outlet.flow)
    if abs(here - there) < 0.05:
        return _signed(here)
    return f"{_signed(here)} then {_signed(there)}"


def _signed(deg: float) -> str:
    if abs(deg) < 0.05:
        return "level"
    return f"{format_angle(abs(deg))} {'up' if deg > 0 else 'down'}"


def _heading(cut: CutPiece) -> str:
    deg = heading_deg(cut.laid.outlet.flow)
    if deg is None:
        return "plumb"
    if abs(deg) < 0.05:
        return "along the rail"
    return f"{format_angle(abs(deg))} to the {'right' if deg > 0 else 'left'}"


def _rail(left: float | None, right: float | None, unit: str) -> str:
    if left is None or right is None:
        return ""
    near, side = (left, "left") if abs(left) <= abs(right) else (right, "right")
    if near < 0:  # it passes below the rail, or above it
        return f"reaches {format_length(-near, unit)} past the {side} rail's inner face"
    return f"{format_length(near, unit)} off the {side} rail"
