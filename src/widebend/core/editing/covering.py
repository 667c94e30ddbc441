"""Covers put over pipe or a part and taken off again."""

from __future__ import annotations

from ..errors import EditError
from ..records import Cover, CoverKind, Design
from ..units import Length


def add_cover(
    design: Design,
    kind: CoverKind,
    run: str,
    first: str = "",
    last: str = "",
    part: str = "",
    thick_mm: float | None = None,
) -> Design:
    """The design with a cover over pieces of a run (from the first to the last named, or all of it) or over a part.
    Raises EditError.
    """
    found = design.run(run) if run else None
    if found is None and design.part(part) is None:
        raise EditError("choose what it goes over: a run or a part", "over")
    if found is not None:
        ids = [p.id for p in found.pieces]
        named = [p for p in (first, last) if p]
        if any(p not in ids for p in named):
            raise EditError("that piece is no longer here", "first")
        if len(named) == 2 and ids.index(first) > ids.index(last):
            first, last = last, first
    taken = {c.id for c in design.covers}
    new = Cover(
        id=next(f"k{n}" for n in range(1, 100) if f"k{n}" not in taken),
        kind=kind,
        run=run or None,
        first=first or None,
        last=last or None,
        part=None if run else part,
        thick_mm=None if thick_mm is None else Length(thick_mm),
    )
    return design.replace(covers=(*design.covers, new)).validated()


def without_cover(design: Design, cover_id: str) -> Design:
    """The design with a cover taken off. Raises EditError for one that is not there."""
    left = tuple(c for c in design.covers if c.id != cover_id)
    if len(left) == len(design.covers):
        raise EditError("that cover is no longer here")
    return design.replace(covers=left).validated()
