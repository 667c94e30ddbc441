"""Edits of the fit log: a piece goes on, is measured, welded, comes off again. Each gives a new design."""

from __future__ import annotations

from collections.abc import Iterable

from ..errors import EditError
from ..laying import fitted_of, lay_run
from ..records import Design, Fitted, Measured, Placed, Run
from ..units import Length
from .log import as_found, extent


def put_on(design: Design, run_id: str, piece_id: str, by: str, when: str, *, from_finish: bool = False) -> Design:
    """A piece tacked on, and with it all that is not yet on between it and the start, or the finish. Raises
    EditError.
    """
    run, at = _place(design, run_id, piece_id)
    front, tail = extent(design, run)
    if not front <= at < tail:
        raise EditError(f"piece {at + 1} is on already: measure it, or take it off first", "piece")
    if from_finish and run.aim is None:
        raise EditError("this run ends in the open: nothing holds a piece there, tack from the start", "side")
    ids = [p.id for p in (run.pieces[at:tail] if from_finish else run.pieces[front : at + 1])]
    finish = _finish(design, run) if run.aim is None and not fitted_of(design, run_id) else None
    new = [
        Fitted(run=run_id, piece=p.id, planned=p, by=by, when=when, finish=finish if k == 0 else None)
        for k, p in enumerate(p for p in run.pieces if p.id in ids)
    ]
    return _kept(design, [*design.fitted, *new])


def _finish(design: Design, run: Run) -> Placed | None:
    """Where a run that aims for nothing ends."""
    laid = lay_run(design, run)
    if laid is None:
        return None
    (x, y, z), flow, up = laid.end.point, laid.end.flow, laid.end.reference
    return Placed(
        point=(Length(x), Length(y), Length(z)),
        axis=(float(flow[0]), float(flow[1]), float(flow[2])),
        reference=(float(up[0]), float(up[1]), float(up[2])),
    )


def take_off(design: Design, run_id: str, piece_id: str) -> Design:
    """A piece comes off, and with it what hangs on it alone: each is again as it was drawn. Raises EditError."""
    run, at = _place(design, run_id, piece_id)
    _fitted(design, run_id, piece_id)
    front, tail = extent(design, run)
    off = range(at, front) if at < front else range(tail, at + 1)
    return _off(design, run, {run.pieces[k].id for k in off})


def _off(design: Design, run: Run, ids: set[str]) -> Design:
    was = {one.piece: one.planned for one in design.fitted if one.run == run.id and one.piece in ids}
    bare = run.replace(pieces=tuple(was.get(p.id, p) for p in run.pieces))
    runs = tuple(bare if r.id == run.id else r for r in design.runs)
    left = [one for one in design.fitted if one.run != run.id or one.piece not in ids]
    return _kept(design.replace(runs=runs), left)


def weld(design: Design, run_id: str, piece_id: str) -> Design:
    """The joint ahead of a piece welded through. Raises EditError."""
    return _changed(design, run_id, piece_id, {"state": "welded"})


def noted(design: Design, run_id: str, piece_id: str, note: str, photo: str) -> Design:
    """Return the design with a note at a fitted piece, in words or a picture; what is empty stays as it was. Raises
    EditError.
    """
    said: dict[str, object] = {key: value for key, value in (("note", note), ("photo", photo)) if value}
    return _changed(design, run_id, piece_id, said)


def measure(design: Design, run_id: str, piece_id: str, measures: Iterable[Measured]) -> Design:
    """Measures taken at a fitted piece's end, added. Raises EditError."""
    one = _fitted(design, run_id, piece_id)
    return _changed(design, run_id, piece_id, {"measured": (*one.measured, *measures)})


def unmeasure(design: Design, run_id: str, piece_id: str, which: int) -> Design:
    """One measure taken out again. Raises EditError."""
    one = _fitted(design, run_id, piece_id)
    if not 0 <= which < len(one.measured):
        raise EditError("that measure is no longer there", "which")
    return _changed(design, run_id, piece_id, {"measured": one.measured[:which] + one.measured[which + 1 :]})


def _changed(design: Design, run_id: str, piece_id: str, update: dict[str, object]) -> Design:
    one = _fitted(design, run_id, piece_id)
    return _kept(design, [one.replace(**update) if f is one else f for f in design.fitted])


def _kept(design: Design, fitted: Iterable[Fitted]) -> Design:
    return as_found(design.replace(fitted=tuple(fitted))).validated()


def _fitted(design: Design, run_id: str, piece_id: str) -> Fitted:
    run, at = _place(design, run_id, piece_id)
    found = fitted_of(design, run.id).get(piece_id)
    if found is None:
        raise EditError(f"piece {at + 1} is not on the vehicle yet: say that it is tacked first", "piece")
    return found


def _place(design: Design, run_id: str, piece_id: str) -> tuple[Run, int]:
    run = design.run(run_id)
    at = next((k for k, p in enumerate(run.pieces) if p.id == piece_id), None) if run else None
    if run is None or at is None:
        raise EditError("that piece is no longer in the run", "piece")
    return run, at
