"""Fitted pipe as it was drawn when it went on."""

from __future__ import annotations

from dataclasses import replace

from ..records import Design, Fitted, Piece, Run
from .route import LaidRun

# a run that is being fitted and ends this near to its aim is on its way there: what is open will be cut to fit
ON_ITS_WAY_MM = 100.0


def fitted_of(design: Design, run_id: str) -> dict[str, Fitted]:
    """Return the fitted pieces of a run, by piece id."""
    return {one.piece: one for one in design.fitted if one.run == run_id}


def planned_pieces(design: Design, run: Run) -> tuple[Piece, ...]:
    """A run's pieces as they were drawn: what is fitted as it was when it went on."""
    fitted = fitted_of(design, run.id)
    return tuple(fitted[piece.id].planned if piece.id in fitted else piece for piece in run.pieces)


def as_drawn(design: Design, laid: LaidRun) -> LaidRun:
    """A laid run whose fitted pieces are made as they were drawn, each where it was found: what the bench cut."""
    planned = planned_pieces(design, laid.run)
    pieces = tuple(replace(one, piece=piece) for one, piece in zip(laid.pieces, planned, strict=True))
    return replace(laid, pieces=pieces)
