"""A piece that came out otherwise than drawn stays as it is: what is not cut yet takes it up, and the end stays."""

from __future__ import annotations

from collections.abc import Collection

from ..errors import EditError
from ..records import Design
from .edits import with_pieces
from .holding import hold_finish


def leave_as_it_came(
    design: Design, run_id: str, piece_id: str, values: dict[str, float], made: Collection[str]
) -> Design:
    """The design with one piece's values as they came out. What is `made` stays; first what stands behind the piece
    gives, then what is ahead of it too. Raises EditError saying what could give.
    """
    run = design.run(run_id)
    at = next((i for i, p in enumerate(run.pieces) if p.id == piece_id), None) if run else None
    if run is None or at is None:
        raise EditError("that piece is no longer in this run")
    held = [p.replace(locked=p.locked or p.id in made) for p in run.pieces]
    held[at] = run.pieces[at].replace(**values, locked=True)
    try:
        found = hold_finish(design, run, held, at)
    except EditError as first:
        try:
            found = hold_finish(design, run, held, -1)
        except EditError:
            raise first from None
    were = {p.id: p.locked for p in run.pieces}
    return with_pieces(design, run, [p.replace(locked=were[p.id]) for p in found])
