"""How far each piece and part of a hot system has gone, metal by metal.

Every body of one metal grows by the same share in all directions, so it is scaled about a place that stays. Bodies are
strung together: where the next one joins, both have gone equally far. From the place that is held the whole system
follows, run by run and part by part, with no turn anywhere. Where a loop closes (two banks joined behind) metal would
be strained; the way first come by decides.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ...facts import METALS, Metal
from ..records import Design, InLine, Tap, Tube
from ..space import Vector
from .bodies import System
from .route import LaidPiece, LaidRun, along_piece, placed_port

ROOM_C = 20.0
NO_RISES: Mapping[object, float] = {}


def mean_growth(metal: Metal, rise_k: float) -> float:
    """The share [-] a metal grows for each kelvin, over a rise from room temperature: between the table's rows in
    proportion, beyond its last row as there.
    """
    temperatures, coefficients = zip(*METALS[metal].mean_growth, strict=True)
    return float(np.interp(ROOM_C + rise_k, temperatures, coefficients))


@dataclass(frozen=True)
class Grown:
    """Where a hot body has gone: x -> (1 + share) x + shift."""

    share: float
    shift: tuple[float, float, float]

    def goes(self, point: Vector) -> Vector:
        """How far a point of it has gone [mm], (3,)."""
        return np.asarray(self.share * point + np.array(self.shift))


def about(share: float, point: Vector, gone: Vector) -> Grown:
    """A body of which one point has gone so far."""
    shift = gone - share * point
    return Grown(share, (float(shift[0]), float(shift[1]), float(shift[2])))


# how much hotter than the room each piece (run id, index) and part (id) is [K]; the mean for what is not in it
Rises = Mapping[object, float]


@dataclass
class _Growth:
    """State while the system is followed."""

    rise: float
    pieces: dict[tuple[str, int], Grown]
    parts: dict[str, Grown]
    metals: dict[str, Metal]
    rises: Rises

    def share(self, metal: Metal, key: object) -> float:
        rise = self.rises.get(key, self.rise)
        return rise * mean_growth(metal, rise)

    def of_part(self, part: str) -> float:
        return self.share(self.metals[part], part)


def grown(
    design: Design, system: System, rise_k: float, rises: Rises = NO_RISES
) -> tuple[dict[tuple[str, int], Grown], dict[str, Grown]]:
    """Where each piece (run id, index) and each part (id) has gone at `rise_k` over room, or by its own rise."""
    known = _Growth(rise_k, {}, {}, _metals(system), rises)
    held = held_at(design, system)
    if (rise_k <= 0 and not rises) or held is None:
        return {}, {}
    first, place = held
    if first:
        known.parts[first] = about(known.of_part(first), place, np.zeros(3))
    else:
        _along(known, system.runs[0], np.zeros(3))
    while _one_more(known, system):
        pass
    for part, at in system.parts:  # what hangs by nothing that is held grows where it is
        known.parts.setdefault(part.id, about(known.of_part(part.id), at.point, np.zeros(3)))
    for run in system.runs:
        if run.pieces and (run.run.id, 0) not in known.pieces:
            _along(known, run, np.zeros(3))
    return known.pieces, known.parts


def held_at(design: Design, system: System) -> tuple[str, Vector] | None:
    """Return the held place (a part, or "" for the first run's start) and where: the port the job names, or the first
    start.
    """
    named = design.settings.fixed_at
    port = placed_port(design, named) if named else None
    if named and port is not None:
        return named.partition(".")[0], port.point
    if not system.runs:
        return None
    start = system.runs[0].run.start
    return (start.partition(".")[0] if isinstance(start, str) else ""), system.runs[0].start.point


def _metals(system: System) -> dict[str, Metal]:
    """Each part's metal; one that does not say is of the pipe it meets."""
    met: dict[str, Metal] = {}
    for run in system.runs:
        for part in _touched(run):
            met.setdefault(part, run.run.tube.material)
    return {part.id: part.item.metal or met.get(part.id, "304") for part, _ in system.parts}


def _touched(run: LaidRun) -> list[str]:
    ends = [e.partition(".")[0] for e in (run.run.start, run.run.aim) if isinstance(e, str)]
    return ends + [p.piece.part for p in run.pieces if isinstance(p.piece, InLine)]


def _one_more(known: _Growth, system: System) -> bool:
    """Follow the system one body on; whether there was one."""
    if any(_run_on(known, system, run) for run in system.runs):
        return True
    for a, b in system.faces:
        for one, other in ((a, b), (b, a)):
            if one.part.id in known.parts and other.part.id not in known.parts:
                _part_on(known, other.part.id, other.pose.point, known.parts[one.part.id])
                return True
    return False


def _run_on(known: _Growth, system: System, run: LaidRun) -> bool:
    """A run from what is known of its ends, or its ends' parts from the run; whether there was something to do."""
    if not run.pieces:
        return False
    if (run.run.id, 0) not in known.pieces:
        gone = _start_gone(known, system, run)
        if gone is None and any(part in known.parts for part in _touched(run)):
            gone = _back_to_start(known, run)
        if gone is not None:
            _along(known, run, gone)
        return gone is not None
    first, last = known.pieces[(run.run.id, 0)], known.pieces[(run.run.id, run.pieces[-1].index)]
    for end, pose, body in ((run.run.start, run.start, first), (run.run.aim, run.aim, last)):
        part = end.partition(".")[0] if isinstance(end, str) else ""
        if pose and part in known.metals and part not in known.parts:
            _part_on(known, part, pose.point, body)
            return True
    return False


def _part_on(known: _Growth, part: str, at: Vector, met: Grown) -> None:
    """A part that goes as far as what it meets there."""
    known.parts[part] = about(known.of_part(part), at, met.goes(at))


def _start_gone(known: _Growth, system: System, run: LaidRun) -> Vector | None:
    """How far a run's start has gone, where what it leaves is known."""
    start = run.run.start
    if not isinstance(start, Tap):
        part = known.parts.get(start.partition(".")[0])
        return part.goes(run.start.point) if part else None
    main = next((r for r in system.runs if r.run.id == start.run), None)
    sits = next((p for p in main.pieces if p.piece.id == start.piece), None) if main else None
    carries = known.pieces.get((start.run, sits.index)) if sits else None
    if sits is None or carries is None:
        return None
    point, _, _ = along_piece(sits, min(1.0, float(start.along_mm) / max(sits.length_mm, 1e-9)))
    return carries.goes(point) + known.share(sits.tube.material, (start.run, sits.index)) * (run.start.point - point)


def _along(known: _Growth, run: LaidRun, gone: Vector) -> None:
    """A run's pieces from its start on."""
    for piece in run.pieces:
        body = about(_share_of(known, run, piece), piece.inlet.point, gone)
        known.pieces[(run.run.id, piece.index)] = body
        if isinstance(piece.piece, InLine):
            known.parts.setdefault(piece.piece.part, body)
        gone = body.goes(piece.outlet.point)


def _share_of(known: _Growth, run: LaidRun, piece: LaidPiece) -> float:
    """The share that a piece of a run grows by."""
    if isinstance(piece.piece, InLine):
        return known.of_part(piece.piece.part)
    return known.share(piece.tube.material, (run.run.id, piece.index))


def _back_to_start(known: _Growth, run: LaidRun) -> Vector:
    """How far a run's start has gone, counted back from the first part along it that is known."""
    off = np.zeros(3)
    for piece in run.pieces:
        in_line = piece.piece.part if isinstance(piece.piece, InLine) else ""
        if in_line in known.parts:
            return known.parts[in_line].goes(piece.inlet.point) - off
        off = off + _share_of(known, run, piece) * (piece.outlet.point - piece.inlet.point)
    aim = known.parts[str(run.run.aim).partition(".")[0]]
    return aim.goes(run.end.point) - off


def grown_behind(design: Design, system: System, rise_k: float, run: LaidRun, kept: int, tube: Tube) -> Grown:
    """Where new pipe behind the first `kept` pieces of a run has gone."""
    pieces, parts = grown(design, system, rise_k)
    at = run.pieces[kept - 1].outlet.point if kept else run.start.point
    if kept:
        gone = pieces[(run.run.id, kept - 1)].goes(at) if (run.run.id, kept - 1) in pieces else np.zeros(3)
    else:
        found = _start_gone(_Growth(rise_k, pieces, parts, _metals(system), NO_RISES), system, run)
        gone = found if found is not None else np.zeros(3)
    return about(rise_k * mean_growth(tube.material, rise_k), at, gone)
