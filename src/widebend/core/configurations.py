"""One system driven several ways: a rear section swapped on its joint, an insert in or out."""

from __future__ import annotations

import numpy as np

from .records import Configuration, Design, InLine, Leg, Part, Piece, Run
from .units import Length


def configured(design: Design, configuration: Configuration) -> Design:
    """The design as it is in one configuration.

    Parts and runs that are left off are gone, with every run that starts from or aims for such a part. A part that a
    run carries is replaced by straight pipe of its length.
    """
    off = set(configuration.without)
    lost = {r.id for r in design.runs if r.id in off or _ends_off(r, off)}
    runs = tuple(_without(design, r, off) for r in design.runs if r.id not in lost)
    left = design.model_copy(update={
        "parts": tuple(p for p in design.parts if p.id not in off), "runs": runs,
        "attachments": tuple(a for a in design.attachments if a.run not in lost),
        "hangers": tuple(h for h in design.hangers if h.run not in lost),
        "fitted": (),
    })  # fmt: skip
    return left.validated()


def _ends_off(run: Run, off: set[str]) -> bool:
    ends = [run.start if isinstance(run.start, str) else f"{run.start.run}.", run.aim or ""]
    return any(end.partition(".")[0] in off for end in ends)


def _without(design: Design, run: Run, off: set[str]) -> Run:
    pieces: list[Piece] = []
    for piece in run.pieces:
        part = design.part(piece.part) if isinstance(piece, InLine) and piece.part in off else None
        pieces.append(piece if part is None else Leg(id=piece.id, length_mm=Length(_through(part, piece))))
    return run.model_copy(update={"pieces": tuple(pieces)})


def _through(part: Part, piece: Piece) -> float:
    """From the port a run enters a part by to the one it leaves by [mm]."""
    assert isinstance(piece, InLine)  # asked by the caller
    enter, leave = part.port(piece.enter), part.port(piece.leave)
    if enter is None or leave is None:
        return 0.0
    return float(np.linalg.norm(np.asarray(enter.point, dtype=float) - np.asarray(leave.point, dtype=float)))
