"""The price of new pipe, where the shop has said what its tube, bends and joints cost."""

from __future__ import annotations

from collections.abc import Sequence

from ..laying import LaidPiece
from ..records import Bend, Mitre, Prices, SegmentedBend


def price_of(pieces: Sequence[LaidPiece], prices: Prices) -> float | None:
    """Tube by its metre, bends each, joints at every end of a piece or slice; None while one that counts is unknown."""
    turns = [p.piece for p in pieces if isinstance(p.piece, Bend)]
    slices = sum(p.piece.slices if isinstance(p.piece, SegmentedBend) else 0 for p in pieces)
    straight_m = sum(p.length_mm for p in pieces if not isinstance(p.piece, Bend | Mitre)) / 1000.0
    joints = len(pieces) + 1 + slices
    counted = [(straight_m, prices.tube_m), (float(len(turns)), prices.bend), (float(joints), prices.joint)]
    if any(number > 0 and price is None for number, price in counted):
        return None
    return sum(number * price for number, price in counted if price is not None)
