"""Another item in a part's place: its inlet stays where it is, the straight behind it gives or takes the difference."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..errors import EditError
from ..laying import port_pose
from ..records import Design, InLine, Item, Part, Piece, Placed, Run, Straight
from ..space import Vector
from ..units import Length, format_length
from .edits import with_pieces
from .standing import moved_along, standing


def with_other_item(design: Design, part_id: str, item: Item, unit: str = "mm") -> Design:
    """The design with another item for a part, held at its inlet; the first straight behind it, where there is one in
    line with its outlet, is so much shorter or longer that the rest stays. Raises EditError for an item that lacks a
    port in use, or a straight that is too short.
    """
    part = design.part(part_id)
    if part is None:
        raise EditError("that part is no longer here", "part")
    _same_ports(design, part, item)
    new = part.replace(item=item, placed=_held(part, item))
    changed = moved_along(design, part, new)
    for run in design.runs:
        for k, piece in enumerate(run.pieces):
            if isinstance(piece, InLine) and piece.part == part_id:
                longer = _through(new, piece.enter, piece.leave) - _through(part, piece.enter, piece.leave)
                changed = _given(changed, run, k + 1, longer, unit)
        if isinstance(run.start, str) and run.start.partition(".")[0] == part_id and part.placed and new.placed:
            port = run.start.partition(".")[2]
            changed = _given(changed, run, 0, _further(part, new, port), unit)
    return changed.validated()


def _same_ports(design: Design, part: Part, item: Item) -> None:
    """Raises EditError where a port that is in use is none of the other item's."""
    names = [name for run in design.runs for name in (run.start, run.aim) if isinstance(name, str)]
    used = {name.partition(".")[2] for name in names if name.partition(".")[0] == part.id}
    for run in design.runs:
        for piece in run.pieces:
            if isinstance(piece, InLine) and piece.part == part.id:
                used |= {piece.enter, piece.leave}
    lacks = sorted(used - {port.id for port in item.ports})
    if lacks:
        raise EditError(f"the other one has no “{lacks[0]}”, and pipe is joined to that here", "item")


def _held(part: Part, item: Item) -> Placed | None:
    """Where the other item stands so that its inlet is where the part's is."""
    if part.placed is None:
        return None
    old = next((p for p in part.item.ports if p.role != "out"), part.item.ports[0])
    want = port_pose(part, part.placed.pose(), old)
    new = next((p for p in item.ports if p.id == old.id), item.ports[0])
    return standing(item, new, want)


def _through(part: Part, enter: str, leave: str) -> float:
    """From one port to the other [mm]."""
    a, b = (np.array(port.point) for name in (enter, leave) if (port := part.port(name)))
    return float(np.linalg.norm(b - a))


def _further(part: Part, new: Part, port_id: str) -> float:
    """How much further along its own direction an outlet stands than it did [mm]; 0 where it looks elsewhere."""
    placed = [(one, one.placed, one.port(port_id)) for one in (part, new)]
    old, now = (port_pose(one, at.pose(), port) for one, at, port in placed if at and port)
    moved: Vector = now.point - old.point
    along = float(moved @ old.flow)
    straight = float(old.flow @ now.flow) > 1 - 1e-9 and float(np.linalg.norm(moved - along * old.flow)) < 0.05
    return along if straight else 0.0


def _given(design: Design, run: Run, k: int, longer_mm: float, unit: str) -> Design:
    """The design with the straight at place k of a run shorter by so much. Raises EditError where it is too short."""
    pieces: Sequence[Piece] = run.pieces
    leg = pieces[k] if k < len(pieces) else None
    if abs(longer_mm) < 1e-6 or not isinstance(leg, Straight) or leg.locked:
        return design
    left = float(leg.length_mm) - longer_mm
    if left < 0:
        raise EditError(f"it is {format_length(-left, unit)} too long for the straight behind it", "item")
    now = design.run(run.id)
    assert now is not None
    return with_pieces(design, now, [*pieces[:k], leg.replace(length_mm=Length(left)), *pieces[k + 1 :]])
