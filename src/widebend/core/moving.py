"""How the system itself moves: ahead of the flex with the engine, behind it on its hangers; all of it grows when hot.

A position is x -> scale * turn x + shift. Growth is a scaling about the point where the system is held: every straight,
radius and diameter grows by the same share, so a tube stays a tube and the kernel needs nothing new. Where metals are
mixed the one that grows most counts for all: never too little.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import product

import numpy as np

from .bodies import PartBody, Segments, System
from .frame import Vector
from .motion import positions
from .records import Design, InLine, Tap
from .route import LaidRun, placed_port
from .solids import motion_of

# mean growth for each kelvin between room and about 400 C: EN 10088-1 for 304 and 409, handbook values for the others
# (docs/sources.md)
GROWTH_PER_K = {"mild": 13.5e-6, "aluminised": 13.5e-6, "409": 12.0e-6, "304": 17.5e-6, "titanium": 9.4e-6}
ENGINE, HUNG, FLEX, BODY = "engine", "hung", "flex", "body"
ENGINE_GROUP = "engine"


@dataclass(frozen=True)
class Position:
    """One position of a stretch of the system; `name` is empty at rest and cold."""

    name: str
    turn: Vector
    shift: Vector
    scale: float = 1.0

    @cached_property
    def stretch(self) -> float:
        """The most that this position moves the end of an arm of length one whose other end stays.

        The norm of scale * turn - 1: a turn by t about an axis leaves scale - 1 along it, |scale e^(it) - 1| across it.
        """
        cosine = (float(np.trace(self.turn)) - 1.0) / 2.0
        across = math.sqrt(max(0.0, self.scale**2 - 2.0 * self.scale * cosine + 1.0))
        return max(across, abs(self.scale - 1.0))

    def points(self, points: Vector) -> Vector:
        """Points (..., 3) where this position puts them."""
        return np.asarray(self.scale * points @ self.turn.T + self.shift)

    def rows(self, rows: Vector) -> Vector:
        """Kernel segments (n, 14) where this position puts them."""
        out = rows.copy()
        out[:, 3:6] = self.points(rows[:, 3:6])
        for first in (6, 9):
            out[:, first : first + 3] = rows[:, first : first + 3] @ self.turn.T
        out[:, (1, 2, 12)] *= self.scale
        return np.asarray(out)

    def body(self, body: PartBody) -> PartBody:
        turned = self.rows(body.segment[None])[0]
        return PartBody(body.part, turned, body.half_u * self.scale, body.half_v * self.scale,
                        self.turn @ body.u, self.turn @ body.v)  # fmt: skip


REST = Position("", np.eye(3), np.zeros(3))


@dataclass(frozen=True)
class Movers:
    """What each piece (run id, index) and each part (id) moves with."""

    pieces: dict[tuple[str, int], str]
    parts: dict[str, str]
    has_flex: bool

    def of_segments(self, run: LaidRun, segments: Segments) -> dict[str, Vector]:
        """The rows of a run's segments by what they move with: mover -> indices."""
        out: dict[str, list[int]] = {}
        for k, piece in enumerate(segments.piece):
            out.setdefault(self.pieces.get((run.run.id, int(piece)), HUNG), []).append(k)
        return {mover: np.array(rows) for mover, rows in out.items()}


def mover_behind(design: Design, moves: Movers, run_id: str, kept: int) -> str:
    """What new pipe moves with that follows the first `kept` pieces of a run."""
    run = design.run(run_id)
    if run is None:
        return HUNG
    if kept:
        return _onward(moves.pieces.get((run_id, kept - 1), HUNG))
    return _where_from(run.start, moves.parts, moves.pieces)


def movers(design: Design, system: System) -> Movers:
    """Follows the gas from every part that nothing feeds: with the engine until the first flex, hung behind it.

    A part's own `moves` goes before. Without any flex everything goes with the engine. What the gas does not reach from
    the engine is hung.
    """
    parts: dict[str, str] = {p.id: p.moves for p, _ in system.parts if p.moves != "worked out"}
    kinds = {p.id: p.item.kind for p, _ in system.parts}
    pieces: dict[tuple[str, int], str] = {}
    own = dict(parts)
    faces = system.faces
    ahead = [(a.part.id, b.part.id) if a.port.role != "in" else (b.part.id, a.part.id) for a, b in faces]
    fed = {after for _, after in ahead} | _fed(system)
    parts |= {p.id: ENGINE for p, _ in system.parts if p.id not in fed and p.id not in own}

    def reach(part_id: str, mover: str) -> None:
        if part_id in own:
            return
        mover = FLEX if kinds.get(part_id) == "flex" and mover == ENGINE else mover
        if parts.get(part_id) != ENGINE:  # where two ways meet, the one that rocks with the engine carries the other
            parts[part_id] = mover

    for _ in range(len(system.runs) + len(faces) + 1):
        before = dict(parts), dict(pieces)
        for run in system.runs:
            _along(run, parts, pieces, reach)
        for front, back in ahead:
            if front in parts:
                reach(back, _onward(parts[front]))
        if before == (parts, pieces):
            break
    return Movers(pieces, parts, any(k == "flex" for k in kinds.values()))


def _fed(system: System) -> set[str]:
    """Parts that a run leads to or carries."""
    aims = {r.run.aim.partition(".")[0] for r in system.runs if r.run.aim}
    return aims | {p.piece.part for r in system.runs for p in r.pieces if isinstance(p.piece, InLine)}


def _onward(mover: str) -> str:
    return HUNG if mover == FLEX else mover


def _where_from(start: str | Tap, parts: dict[str, str], pieces: dict[tuple[str, int], str]) -> str:
    """What the first pipe of a run moves with: its part, or (a branch) the front of the run it leaves."""
    if isinstance(start, Tap):
        return next((mover for (run, _), mover in pieces.items() if run == start.run), HUNG)
    return _onward(parts.get(start.partition(".")[0], HUNG))


def _along(
    run: LaidRun, parts: dict[str, str], pieces: dict[tuple[str, int], str], reach: Callable[[str, str], None]
) -> None:
    mover = _where_from(run.run.start, parts, pieces)
    for piece in run.pieces:
        if isinstance(piece.piece, InLine):
            reach(piece.piece.part, mover)
            pieces[(run.run.id, piece.index)] = parts[piece.piece.part]
            mover = _onward(parts[piece.piece.part])
        else:
            pieces[(run.run.id, piece.index)] = mover
    if run.run.aim:
        reach(run.run.aim.partition(".")[0], mover)


def system_positions(design: Design, system: System) -> dict[str, tuple[Position, ...]]:
    """Every position of each mover, rest first: the product of how it is moved with cold and hot."""
    hot = _growth(design, system)
    group = design.survey.group(ENGINE_GROUP)
    rocked = [Position(s.name, *motion_of(s)) for s in positions(group, design.survey)] if group else [REST]
    rest = next((p for p in rocked if np.allclose(p.turn, np.eye(3)) and np.allclose(p.shift, 0.0)), REST)
    engine = [REST, *(p for p in rocked if p is not rest)]
    swing = float(design.settings.rules.hanger_swing_mm)
    hung = [REST]
    if swing > 0:
        hung += [Position(f"swung {side}", np.eye(3), np.array([0.0, y, 0.0]))
                 for side, y in (("left", -swing), ("right", swing))]  # fmt: skip
    by_mover = {ENGINE: engine, HUNG: hung, BODY: [REST], FLEX: engine + hung[1:]}
    return {mover: tuple(_product(moved, hot)) for mover, moved in by_mover.items()}


def _product(moved: list[Position], hot: Position) -> list[Position]:
    """Hot first grows where it is held, then is moved."""
    warmth = [REST] if hot.scale == 1.0 else [REST, hot]
    out = []
    for warm, at in product(warmth, moved):
        name = ", ".join(n for n in (at.name, warm.name) if n)
        out.append(Position(name, at.turn, at.turn @ warm.shift + at.shift, warm.scale))
    return out


def _growth(design: Design, system: System) -> Position:
    rise = design.settings.rules.hot_rise_k
    held = held_at(design, system)
    if rise <= 0 or held is None:
        return REST
    share = 1.0 + rise * max((GROWTH_PER_K[r.run.tube.material] for r in system.runs), default=0.0)
    return Position("hot", np.eye(3), (1.0 - share) * held, share)


def held_at(design: Design, system: System) -> Vector | None:
    """The place the hot system grows from: the port the job names, else where the first run starts."""
    named = placed_port(design, design.settings.fixed_at) if design.settings.fixed_at else None
    if named is not None:
        return named.point
    return system.runs[0].start.point if system.runs else None


@dataclass(frozen=True)
class Reaches:
    """All positions of a mover stacked: how far each moves what is within a ball, in one go."""

    matrix: Vector
    shift: Vector
    stretch: Vector

    @classmethod
    def of(cls, positions: Sequence[Position]) -> Reaches:
        matrix = np.array([p.scale * p.turn - np.eye(3) for p in positions])
        return cls(matrix, np.array([p.shift for p in positions]), np.array([p.stretch for p in positions]))

    def ball(self, middle: Vector, reach: float) -> Vector:
        """At most how far (k,) [mm] each of k positions moves anything within `reach` of a point."""
        off = self.matrix @ middle + self.shift
        return np.asarray(np.sqrt(np.einsum("ij,ij->i", off, off)) + self.stretch * reach)


def farthest(points: Vector, reach: Vector, position: Position) -> float:
    """At most how far [mm] a position moves anything within `reach` (n,) of points (n, 3)."""
    off = position.points(points) - points
    moved = np.sqrt(np.einsum("ij,ij->i", off, off))
    return float((moved + position.stretch * reach).max(initial=0.0))
