"""A piece that came out otherwise than drawn: which piece that is still to be cut it makes, and with what more work.

A piece of one bend is alike turned end for end and on the mirrored side: only its legs change places, and where its
witness marks go.
"""

from __future__ import annotations

from dataclasses import dataclass

from ..records import Bend, Tube
from ..units import SAME_SIZE_MM, Length
from .bends_at_hand import same_tube
from .cut_pieces import CutPiece
from .lists import heel_and_throat

AS_IT_IS_MM, AS_IT_IS_DEG = 0.5, 0.3  # nearer than saw and angle finder tell: common practice, no source


@dataclass(frozen=True)
class CameOut:
    """A piece on the bench. Of a straight `length_mm`; of a bend its angle, radius and the straights at its ends."""

    tube: Tube
    length_mm: float = 0.0
    angle_deg: float = 0.0
    clr_mm: float = 0.0
    legs_mm: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Fit:
    """How a piece serves: what comes off (lengths mm, heel and throat for a bend), and whether it goes in turned."""

    off_mm: float = 0.0
    off_deg: float = 0.0
    heel_mm: float = 0.0
    throat_mm: float = 0.0
    turned: bool = False

    @property
    def is_trimmed(self) -> bool:
        """Whether some of the bend comes off."""
        return self.off_deg > AS_IT_IS_DEG

    @property
    def is_shortened(self) -> bool:
        """Whether some straight comes off."""
        return self.off_mm > AS_IT_IS_MM

    @property
    def work(self) -> float:
        """How much goes to waste, for the order of what is offered: degrees count as the heel they cost."""
        return self.off_mm + self.heel_mm


def came_out(cut: CutPiece, what: str, by: float) -> CameOut | None:
    """The piece that was made of `cut` (one of salvage.WENT_WRONG, by mm or deg); None where nothing useful is left."""
    piece = cut.laid.piece
    if what == "spoilt" or (what != "clock" and not by):
        return None
    if isinstance(piece, Bend):
        marks = cut.marks
        legs = (marks.keep_before_mm, marks.keep_after_mm) if marks else (0.0, 0.0)
        turn = piece.angle_deg + {"much": by, "little": -by}.get(what, 0.0)
        legs = (legs[0], legs[1] + {"long": by, "short": -by}.get(what, 0.0))
        if turn <= 0 or legs[1] < 0:
            return None
        return CameOut(cut.tube, angle_deg=turn, clr_mm=float(piece.clr_mm), legs_mm=legs)
    if cut.kind != "straight":
        return None
    long = cut.length_mm + {"long": by, "short": -by}.get(what, 0.0)
    return CameOut(cut.tube, length_mm=long) if long > 0 else None


def as_drawn_again(cut: CutPiece, came: CameOut) -> dict[str, float]:
    """Return the deviations of the design's piece when it stays as it came out [mm, deg]; nothing where only its place
    is wrong.
    """
    piece = cut.laid.piece
    if isinstance(piece, Bend):
        return {"angle_deg": came.angle_deg} if abs(came.angle_deg - piece.angle_deg) > 1e-9 else {}
    longer = came.length_mm - cut.length_mm
    return {"length_mm": Length(cut.laid.length_mm + longer)} if abs(longer) > 1e-9 else {}


def fit(came: CameOut, cut: CutPiece) -> Fit | None:
    """How what came out serves as a piece that is still to be cut; None where it does not."""
    if not same_tube(came.tube, cut.tube):
        return None
    piece = cut.laid.piece
    if isinstance(piece, Bend):
        return _bend(came, piece, cut) if came.clr_mm else None
    if cut.kind != "straight" or came.clr_mm:
        return None
    over = came.length_mm - cut.length_mm
    return Fit(off_mm=max(0.0, over)) if over >= -AS_IT_IS_MM else None


def _bend(came: CameOut, bend: Bend, cut: CutPiece) -> Fit | None:
    if abs(came.clr_mm - float(bend.clr_mm)) > SAME_SIZE_MM or came.angle_deg < bend.angle_deg - AS_IT_IS_DEG:
        return None
    over = max(0.0, came.angle_deg - bend.angle_deg)
    wants = (cut.marks.keep_before_mm, cut.marks.keep_after_mm) if cut.marks else (0.0, 0.0)
    best = None
    for turned in (False, True):
        legs = came.legs_mm[::-1] if turned else came.legs_mm
        # what turns too much is cut off through the bend, and the leg on that side with it
        ends = [legs] if over <= AS_IT_IS_DEG else [(0.0, legs[1]), (legs[0], 0.0)]
        for before, after in ends:
            if before < wants[0] - AS_IT_IS_MM or after < wants[1] - AS_IT_IS_MM:
                continue
            heel, throat = heel_and_throat(came.clr_mm, float(cut.tube.od_mm), over)
            off = max(0.0, before - wants[0]) + max(0.0, after - wants[1])
            found = Fit(off, over, heel, throat, turned)
            best = found if best is None or found.work < best.work else best
    return best
