"""What sits on a run (bosses, taps, hangers) when its pieces change: it stays at its distance along the run."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from .errors import EditError
from .records import Attachment, Design, Hanger, Run, Tap
from .route import LaidPiece, lay_run
from .units import Length

T = TypeVar("T", Attachment, Hanger, Tap)


def resited(design: Design, before: Run, after: Run) -> Design:
    """The design, with `after` in place of `before`, and what sat on pieces that are gone set on the piece that is
    now at the same distance from the run's start. Raises EditError when no piece is left to sit on.
    """
    runs = tuple(after if r.id == after.id else r for r in design.runs)
    changed = design.model_copy(update={"runs": runs})
    left = {p.id for p in after.pieces}
    if not any(a.piece not in left for a in _sitting(design, before.id)):
        return changed
    old, new = lay_run(design, before), lay_run(changed, after)
    if old is None or new is None or not new.pieces:
        raise EditError("a boss, a branch or a hanger sits on this pipe: take that out first")

    was, now = old.pieces, new.pieces

    def moved(sits: T) -> T:
        return sits if sits.run != after.id or sits.piece in left else _moved(sits, was, now)

    return changed.model_copy(update={
        "attachments": tuple(moved(a) for a in design.attachments),
        "hangers": tuple(moved(h) for h in design.hangers),
        "runs": tuple(r.model_copy(update={"start": moved(r.start)}) if isinstance(r.start, Tap) else r for r in runs),
    })  # fmt: skip


def _sitting(design: Design, run_id: str) -> list[Attachment | Hanger | Tap]:
    taps = [r.start for r in design.runs if isinstance(r.start, Tap)]
    everything: list[Attachment | Hanger | Tap] = [*design.attachments, *design.hangers, *taps]
    return [s for s in everything if s.run == run_id]


def _moved(sits: T, before: Sequence[LaidPiece], after: Sequence[LaidPiece]) -> T:
    at = 0.0
    for piece in before:
        if piece.piece.id == sits.piece:
            at += float(sits.along_mm)
            break
        at += piece.length_mm
    for piece in after[:-1]:
        if at <= piece.length_mm:
            break
        at -= piece.length_mm
    else:
        piece = after[-1]
    along = Length(min(max(at, 0.0), piece.length_mm))
    return sits.model_copy(update={"piece": piece.piece.id, "along_mm": along})
