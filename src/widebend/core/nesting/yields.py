"""The yield of a bar before it is ordered: how many equal pieces come out."""

from __future__ import annotations

from ..errors import InputError
from .bars import Saw


def yield_of(length_mm: float, piece_mm: float, saw: Saw) -> int:
    """How many equal pieces a bar gives with the saw's kerf between them and facing on each."""
    if length_mm <= 0 or piece_mm <= 0:
        raise InputError("a bar and a piece need a length of more than nothing")
    each = piece_mm + saw.facing_mm
    return max(0, int((length_mm + saw.kerf_mm + 1e-9) // (each + saw.kerf_mm)))
