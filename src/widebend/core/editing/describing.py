"""Properties of a part besides its shape: how a can is made inside, what it was measured to take."""

from __future__ import annotations

from ..errors import EditError
from ..records import BenchLoss, Design, Inside


def described_part(design: Design, part_id: str, inside: Inside, *, packed: bool, measured: BenchLoss | None) -> Design:
    """The design with a part described again. Raises EditError for one that is not there."""
    part = design.part(part_id)
    if part is None:
        raise EditError("that part is no longer here")
    item = part.item.replace(inside=inside, packed=packed, measured=measured)
    parts = tuple(p.replace(item=item) if p.id == part_id else p for p in design.parts)
    return design.replace(parts=parts).validated()
