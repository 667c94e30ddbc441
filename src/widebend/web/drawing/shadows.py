"""Moving things drawn where they go: a section on its way out, the pipe in the position a finding speaks of."""

from __future__ import annotations

import numpy as np

from ...core.laying import HUNG, LaidPiece, PartBody, Position, System, centre_line, goes_as
from ...core.records import InLine
from ...core.review import Finding, Review, Section, bodies_of
from .strip import Shadow


def section_shadows(system: System, section: Section, place: Position) -> list[Shadow]:
    """A section in a place."""
    pieces = [p for run in system.runs for p in run.pieces if (run.run.id, p.index) in section.pieces]
    return [_piece(p, place) for p in pieces] + [_body(b, place) for b in bodies_of(system, section.parts)]


def position_shadows(found: Review, finding: Finding) -> list[Shadow]:
    """Everything that moves with what a finding is about, where it is when the finding holds."""
    if not finding.position:
        return []
    mover = found.mover_of(finding)
    at = {
        name: place
        for name, places in found.positions.items()
        if goes_as(name) == goes_as(mover)
        for place in (*places, *found.poses_between(name))
        if place.name == finding.position
    }
    out = []
    for run in found.system.runs:
        for piece in run.pieces:
            place = at.get(found.moves.pieces.get((run.run.id, piece.index), ""))
            if place is not None and not isinstance(piece.piece, InLine):
                out.append(_piece(piece, place))
    for body in found.system.bodies:
        place = at.get(found.moves.parts.get(body.part.id, HUNG))
        if place is not None:
            out.append(_body(body, place))
    return out


def _piece(piece: LaidPiece, place: Position) -> Shadow:
    return Shadow(place.points(centre_line(piece)), float(piece.tube.od_mm))


def _body(body: PartBody, place: Position) -> Shadow:
    moved = place.body(body)
    return Shadow(np.array([moved.start, moved.end]), 2 * (body.half_u + body.radius_mm), "shadow body")
