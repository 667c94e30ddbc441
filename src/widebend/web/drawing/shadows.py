"""What moves, drawn where it goes: a section on its way out, the pipe in the position a finding speaks of."""

from __future__ import annotations

import numpy as np

from ...core.laying import HUNG, LaidPiece, PartBody, Position, System, centre_line
from ...core.records import InLine
from ...core.review import Finding, Review, Section, bodies_of
from .strip import Shadow


def section_shadows(system: System, section: Section, place: Position) -> list[Shadow]:
    """A section in a place."""
    pieces = [p for run in system.runs for p in run.pieces if (run.run.id, p.index) in section.pieces]
    return [_piece(p, place) for p in pieces] + [_body(b, place) for b in bodies_of(system, section.parts)]


def position_shadows(found: Review, finding: Finding) -> list[Shadow]:
    """Everything that moves with what a finding is about, where it is when the finding holds."""
    mover = found.moves.parts.get(finding.part, HUNG) if finding.part else HUNG
    if finding.piece is not None:
        mover = found.moves.pieces.get((finding.run, finding.piece), HUNG)
    place = next((p for p in found.positions.get(mover, ()) if p.name == finding.position), None)
    if place is None or not finding.position:
        return []
    out = [_piece(p, place) for run in found.system.runs for p in run.pieces
           if not isinstance(p.piece, InLine) and found.moves.pieces.get((run.run.id, p.index)) == mover]  # fmt: skip
    return out + [_body(b, place) for b in found.system.bodies if found.moves.parts.get(b.part.id, HUNG) == mover]


def _piece(piece: LaidPiece, place: Position) -> Shadow:
    return Shadow(place.points(centre_line(piece)), float(piece.tube.od_mm))


def _body(body: PartBody, place: Position) -> Shadow:
    moved = place.body(body)
    return Shadow(np.array([moved.start, moved.end]), 2 * (body.half_u + body.radius_mm), "shadow body")
