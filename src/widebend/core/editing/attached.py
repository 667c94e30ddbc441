"""Bosses, taps and hangers on a run when its pieces change: it stays at its distance along the run."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import TypeVar

from ..errors import EditError
from ..laying import LaidPiece, lay_run
from ..records import Attachment, Cover, Design, Hanger, InLine, Piece, Run, Straight, Tap
from ..space import wrapped
from ..units import Length

T = TypeVar("T", Attachment, Hanger, Tap)
R = TypeVar("R", Attachment, Tap)  # these stand on a side of the pipe


def resited(design: Design, before: Run, after: Run) -> Design:
    """The design, with `after` in place of `before`, and what sat on pieces that are gone set on the piece that is
    now at the same distance from the run's start. Raises EditError when no piece is left to sit on.
    """
    runs = tuple(after if r.id == after.id else r for r in design.runs)
    changed = design.replace(runs=runs, covers=_covers(design, before, after))
    left = {p.id for p in after.pieces}
    if not any(a.piece not in left for a in _sitting(design, before.id)):
        return changed
    old, new = lay_run(design, before), lay_run(changed, after)
    if old is None or new is None or not new.pieces:
        raise EditError("a boss, a branch or a hanger sits on this pipe: take that out first")

    was, now = old.pieces, new.pieces

    def moved(sits: T) -> T:
        return sits if sits.run != after.id or sits.piece in left else _moved(sits, was, now)

    return changed.replace(
        attachments=tuple(moved(a) for a in design.attachments),
        hangers=tuple(moved(h) for h in design.hangers),
        runs=tuple(r.replace(start=moved(r.start)) if isinstance(r.start, Tap) else r for r in runs),
    )


def _covers(design: Design, before: Run, after: Run) -> tuple[Cover, ...]:
    """The covers, those of the run from the next piece that is left to the last before that is; none for none."""
    old, left = [p.id for p in before.pieces], {p.id for p in after.pieces}
    out = []
    for cover in design.covers:
        if cover.run != before.id:
            out.append(cover)
            continue
        first = old.index(cover.first) if cover.first in old else 0
        last = old.index(cover.last) if cover.last in old else len(old) - 1
        under = [p for p in old[first : last + 1] if p in left]
        if cover.first is None and cover.last is None:
            out.append(cover)
        elif under:
            ends = {"first": cover.first and under[0], "last": cover.last and under[-1]}
            out.append(cover.replace(**ends))
    return tuple(out)


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
    return sits.replace(piece=piece.piece.id, along_mm=along)


def stays(design: Design, run: Run, pieces: Sequence[Piece], tail: Sequence[Piece]) -> tuple[Design, Run, list[Piece]]:
    """Other pieces before the run's last ones (`tail`), those rolled so that they and what sits on them stay where they
    are: the design with what sits there turned, the run, and all its pieces.
    """
    before = lay_run(design, run)
    after = lay_run(design, run.replace(pieces=tuple(pieces)))
    assert before is not None and after is not None  # nothing is found for a run that cannot be laid
    roll = after.end.roll_of(before.pieces[len(run.pieces) - len(tail)].inlet.reference)
    turned = {p.id for p in itertools.takewhile(lambda p: not isinstance(p, InLine), tail)}

    def rolled(sits: R) -> R:
        if sits.run != run.id or sits.piece not in turned:
            return sits
        return sits.replace(roll_deg=wrapped(sits.roll_deg + roll))

    runs = [r.replace(start=rolled(r.start)) if isinstance(r.start, Tap) else r for r in design.runs]
    sitting = {"attachments": tuple(rolled(a) for a in design.attachments), "runs": tuple(runs)}
    return design.replace(**sitting), run, [*pieces, *carried_on(tail, roll)]


def carried_on(pieces: Sequence[Piece], roll: float) -> list[Piece]:
    """Rolls counted from a reference that has turned; behind hardware the reference is its port's again."""
    out: list[Piece] = []
    for i, piece in enumerate(pieces):
        if isinstance(piece, Straight):
            out.append(piece)
            continue
        out.append(piece.replace(roll_deg=wrapped(piece.roll_deg + roll)))
        if isinstance(piece, InLine):
            return out + list(pieces[i + 1 :])
    return out
