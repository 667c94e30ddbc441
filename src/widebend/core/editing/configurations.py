"""One system driven several ways: a rear section swapped on its joint, an insert in or out."""

from __future__ import annotations

import numpy as np

from ..errors import EditError
from ..records import Configuration, Design, InLine, Part, Piece, Run, Settings, Straight, Tap
from ..units import Length


def configured(design: Design, configuration: Configuration) -> Design:
    """The design as it is in one configuration.

    Parts and runs that are left off are gone, with every run that starts from or aims for such a part. A part that a
    run carries is replaced by straight pipe of its length. Raises EditError where what is left does not hang together.
    """
    off = set(configuration.without)
    lost = {r.id for r in design.runs if r.id in off or _ends_off(r, off)}
    for _ in design.runs:  # what branches off a run that is gone is gone too
        lost |= {r.id for r in design.runs if isinstance(r.start, Tap) and r.start.run in lost}
    runs = tuple(_untwinned(_without(design, r, off), lost) for r in design.runs if r.id not in lost)
    left = design.replace(
        parts=tuple(p for p in design.parts if p.id not in off),
        runs=runs,
        attachments=tuple(a for a in design.attachments if a.run not in lost),
        hangers=tuple(h for h in design.hangers if h.run not in lost and h.part not in off),
        fitted=(),
        settings=_held_elsewhere(design, off),
    )
    try:
        return left.validated()
    except ValueError as exc:
        raise EditError(f"{configuration.name} cannot be made of what is left: {_reason(exc)}") from exc


def _reason(exc: ValueError) -> str:
    errors = getattr(exc, "errors", None)
    return str(errors()[0]["msg"]).removeprefix("Value error, ") if errors else str(exc)


def _held_elsewhere(design: Design, off: set[str]) -> Settings:
    """Where the system is held, unless that was left off."""
    held = design.settings.fixed_at or ""
    gone = held.partition(".")[0] in off
    return design.settings.replace(fixed_at=None) if gone else design.settings


def _ends_off(run: Run, off: set[str]) -> bool:
    ends = [run.start if isinstance(run.start, str) else f"{run.start.run}.", run.aim or ""]
    return any(end.partition(".")[0] in off for end in ends)


def _untwinned(run: Run, lost: set[str]) -> Run:
    return run.replace(twin_of=None) if run.twin_of in lost else run


def _without(design: Design, run: Run, off: set[str]) -> Run:
    pieces: list[Piece] = []
    for piece in run.pieces:
        part = design.part(piece.part) if isinstance(piece, InLine) and piece.part in off else None
        pieces.append(piece if part is None else Straight(id=piece.id, length_mm=Length(_through(part, piece))))
    return run.replace(pieces=tuple(pieces))


def _through(part: Part, piece: Piece) -> float:
    """From the port a run enters a part by to the one it leaves by [mm]."""
    assert isinstance(piece, InLine)  # asked by the caller
    enter, leave = part.port(piece.enter), part.port(piece.leave)
    if enter is None or leave is None:
        return 0.0
    return float(np.linalg.norm(np.asarray(enter.point, dtype=float) - np.asarray(leave.point, dtype=float)))
