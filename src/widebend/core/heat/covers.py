"""Covers: wraps, double skins, coatings, as a layer round the pipe."""

from __future__ import annotations

from collections.abc import Callable

from ..gas import Stretch
from ..records import Cover, CoverKind, Design

# how thick [mm], how well it conducts when hot [W/m K], how black its outside is. Wrap: two layers of glass or basalt
# tape; a double skin's gap counts radiation across it; a ceramic coat is thin and dull. Common practice, from memory.
USUAL: dict[CoverKind, tuple[float, float, float]] = {
    "wrap": (3.0, 0.12, 0.9),
    "double skin": (6.0, 0.25, 0.45),
    "coating": (0.3, 1.0, 0.4),
}


def covered(design: Design) -> Callable[[Stretch], tuple[float, float, float] | None]:
    """Return the cover of a stretch: thickness [mm], conductivity, emissivity; None where it is bare."""
    by_piece: dict[tuple[str, str], Cover] = {}
    by_part: dict[str, Cover] = {}
    for cover in design.covers:
        if cover.part is not None:
            by_part[cover.part] = cover
        run = design.run(cover.run or "")
        if run is not None:
            ids = [p.id for p in run.pieces]
            first = ids.index(cover.first) if cover.first in ids else 0
            last = ids.index(cover.last) if cover.last in ids else len(ids) - 1
            for piece in ids[min(first, last) : max(first, last) + 1]:
                by_piece[(run.id, piece)] = cover

    def of(stretch: Stretch) -> tuple[float, float, float] | None:
        cover = by_piece.get((stretch.run, stretch.piece.piece.id)) if stretch.piece is not None else None
        if stretch.part is not None:
            cover = by_part.get(stretch.part.id)
        if cover is None:
            return None
        thick, conducts, black = USUAL[cover.kind]
        return float(cover.thick_mm or thick), conducts, black

    return of
