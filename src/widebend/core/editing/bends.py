"""Bends made otherwise: on another radius, their corners where they are; of slices, or slices made one bend."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..errors import EditError
from ..records import Bend, Design, Mitre, Piece, SegmentedBend, Straight
from ..units import Length, format_length
from .edits import with_pieces

FLAT_DEG = 170.0  # a bend nearer to half a turn has no corner


def with_radius(design: Design, run_id: str, clr_mm: float, unit: str = "mm") -> Design:
    """The design with every bend of a run on one radius, corners kept: each straight gives tan(angle / 2) of what the
    radius grows. Locked pieces stay. Raises EditError naming the straight that is too short.
    """
    run = design.run(run_id)
    if run is None or not any(isinstance(p, Bend) for p in run.pieces):
        raise EditError("that run has no bend")
    if clr_mm <= run.tube.od_mm / 2:
        raise EditError(f"a radius of {format_length(clr_mm, unit)} is less than half the tube", "clr")
    pieces: list[Piece] = list(run.pieces)
    for i, piece in enumerate(run.pieces):
        if isinstance(piece, Bend) and not piece.locked:
            if piece.angle_deg > FLAT_DEG:
                raise EditError(f"piece {i + 1} turns {piece.angle_deg:.0f}°: it has no corner to keep", "clr")
            more = (clr_mm - float(piece.clr_mm)) * math.tan(math.radians(piece.angle_deg) / 2)
            pieces[i] = piece.replace(clr_mm=Length(clr_mm))
            for k in (i - 1, i + 1):
                _give(pieces, k, i, more, unit)
    return with_pieces(design, run, pieces)


def _give(pieces: list[Piece], k: int, bend: int, more: float, unit: str) -> None:
    """Take what a bend needs out of the straight beside it. Raises EditError."""
    leg = pieces[k] if 0 <= k < len(pieces) else None
    if abs(more) < 1e-9:
        return
    if not isinstance(leg, Straight) or leg.locked:
        raise EditError(
            f"beside piece {bend + 1} there is no straight that could give {format_length(abs(more), unit)}", "clr"
        )
    long = float(leg.length_mm) - more
    if long < 0:
        lacks = format_length(-long, unit)
        raise EditError(f"the straight beside piece {bend + 1} (piece {k + 1}) is {lacks} too short for it", "clr")
    pieces[k] = leg.replace(length_mm=Length(long))


def sliced(bend: Bend, turn_deg: float) -> SegmentedBend:
    """A bend made of slices that each turn at most so much [degrees]."""
    slices = math.ceil(bend.angle_deg / turn_deg - 1e-9)
    turn = bend.angle_deg / slices
    clr = Length(float(bend.clr_mm) * math.cos(math.radians(turn) / 2))  # whole wedges end at CLR / cos(turn / 2)
    return SegmentedBend(
        id=bend.id,
        locked=bend.locked,
        tube=bend.tube,
        slices=slices,
        turn_each_deg=turn,
        clr_mm=clr,
        roll_deg=bend.roll_deg,
    )


def mitred(pieces: Sequence[Piece], trim_deg: float, least_mm: float) -> list[Piece]:
    """Pieces with every bend of less than `trim_deg` made a mitre, its corner where it was, where the straights beside
    it are each long enough to hold [mm] with what they gain.
    """
    out = list(pieces)
    for i, piece in enumerate(out):
        if not isinstance(piece, Bend) or piece.angle_deg >= trim_deg or not 0 < i < len(out) - 1:
            continue
        more = float(piece.clr_mm) * math.tan(math.radians(piece.angle_deg) / 2)
        beside = [out[k] for k in (i - 1, i + 1)]
        if all(isinstance(p, Straight) and not p.locked and float(p.length_mm) + more >= least_mm for p in beside):
            out[i] = Mitre(id=piece.id, tube=piece.tube, turn_deg=piece.angle_deg, roll_deg=piece.roll_deg)
            for k in (i - 1, i + 1):
                leg = out[k]
                assert isinstance(leg, Straight)  # looked at above
                out[k] = leg.replace(length_mm=Length(float(leg.length_mm) + more))
    return out


def in_one(pie: SegmentedBend) -> Bend | None:
    """Slices made one bend; None where they turn about each other, or more than half a turn."""
    if pie.roll_each_deg or pie.turn_deg > 180.0:
        return None
    clr = Length(float(pie.clr_mm) / math.cos(math.radians(pie.turn_each_deg) / 2))
    return Bend(id=pie.id, locked=pie.locked, tube=pie.tube, angle_deg=pie.turn_deg, clr_mm=clr, roll_deg=pie.roll_deg)


def otherwise(design: Design, run_id: str, piece_id: str) -> tuple[Design, str]:
    """A bend of a run made of slices that turn as the shop's rule says, or slices made one bend, its ends where they
    are; and that in words. Raises EditError.
    """
    run = design.run(run_id)
    piece = next((p for p in run.pieces if p.id == piece_id), None) if run else None
    if run is None or not isinstance(piece, Bend | SegmentedBend):
        raise EditError("only a bend is made of slices, and slices made one bend")
    if piece.locked:
        raise EditError("that piece is locked: unlock it first")
    made = sliced(piece, design.settings.rules.pie_turn_deg) if isinstance(piece, Bend) else in_one(piece)
    if made is None:
        raise EditError("slices that turn about each other, or more than half a turn, are no single bend")
    words = f"made of {made.slices} slices" if isinstance(made, SegmentedBend) else "made one bend"
    return with_pieces(design, run, [made if p.id == piece_id else p for p in run.pieces]), words
