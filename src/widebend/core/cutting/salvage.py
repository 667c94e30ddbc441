"""A piece that went wrong: what it can still be, least loss first. All common practice, no source."""

from __future__ import annotations

from collections.abc import Sequence

from ..records import Bend, Rules
from ..units import format_angle, format_length
from .cut_pieces import CutPiece
from .lists import heel_and_throat
from .reuse import came_out, fit

WENT_WRONG = {
    "short": "cut too short",
    "long": "cut too long",
    "little": "turns too little",
    "much": "turns too much",
    "clock": "tacked at a wrong clock",
    "spoilt": "spoilt: burnt through, flattened, fell",
}


def rescue(
    cut: CutPiece, what: str, by: float, waiting: Sequence[CutPiece], rules: Rules, unit: str = "mm"
) -> list[str]:
    """Return the rescues in words. `by` [mm, or deg for what turns wrong] is how far it is off, 0 where nobody said;
    `waiting` are the pieces of its run that are not cut yet.
    """
    said: list[str] = []
    if what == "clock":
        return ["grind the tack off and turn it to its mark: no metal is lost"]
    if what == "long":
        said.append(f"cut {format_length(by, unit)} off" if by else "measure it again and cut off what is too much")
    if what == "much" and by and isinstance(cut.laid.piece, Bend):
        heel, throat = heel_and_throat(float(cut.laid.piece.clr_mm), float(cut.tube.od_mm), by)
        said.append(
            f"cut {format_angle(by)} more off: {format_length(heel, unit)} along the heel, "
            f"{format_length(throat, unit)} along the throat"
        )
    if what == "short" and by:
        left = cut.slip_mm - by
        if cut.slip_mm and left >= rules.least_slip_mm:
            said.append(f"its slip takes it up: {format_length(left, unit)} of overlap are left")
        elif by >= rules.least_ring_mm:
            said.append(f"weld a ring of {format_length(by, unit)} in: one weld more")
        else:
            ring = format_length(rules.least_ring_mm, unit)
            said.append(
                f"a ring of {format_length(by, unit)} is too short to hold: cut it back until {ring} are "
                "missing and weld that in, one weld more"
            )
    came = came_out(cut, what, by) if what != "clock" else None
    makes = [other for other in waiting if other is not cut and came and fit(came, other)]
    said += [f"it still makes piece {other.number}" for other in makes][:3]
    return said or ["keep it on the shelf as an offcut, and take another from stock"]
