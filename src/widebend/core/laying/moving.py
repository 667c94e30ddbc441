"""How the system itself moves: ahead of the flex with the engine, behind it on its hangers; all of it grows when hot.

A position is x -> scale * turn x + shift. What is of one metal grows as a scaling: every straight, radius and diameter
by the same share, so a tube stays a tube and the kernel needs nothing new. Where metals are mixed each has a scaling of
its own (`growth`): what moves alike and has grown alike is one *mover*, named "hung", "hung 2" and so on.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import product

import numpy as np

from ..geometry import motion_of, rotation_about
from ..records import Design, InLine, Tap, Tube
from ..space import Vector, cross
from .bodies import PartBody, Segments, System
from .growth import NO_RISES, Grown, Rises, grown, grown_behind
from .motion import positions
from .route import LaidRun

ENGINE, HUNG, FLEX, BODY = "engine", "hung", "flex", "body"
ENGINE_GROUP = "engine"
ALIKE_MM = 0.5  # what goes so nearly alike is moved as one


@dataclass(frozen=True, eq=False)
class Position:
    """One position of a stretch of the system; `name` is empty at rest and cold. Like no other but itself."""

    name: str
    turn: Vector
    shift: Vector
    scale: float = 1.0

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
        return PartBody(
            body.part,
            turned,
            body.half_u * self.scale,
            body.half_v * self.scale,
            self.turn @ body.u,
            self.turn @ body.v,
        )


REST = Position("", np.eye(3), np.zeros(3))


@dataclass(frozen=True)
class Movers:
    """The mover of each piece (run id, index) and each part (id)."""

    pieces: dict[tuple[str, int], str]
    parts: dict[str, str]
    has_flex: bool

    def of_segments(self, run: LaidRun, segments: Segments) -> dict[str, Vector]:
        """The rows of a run's segments by what they move with: mover -> indices."""
        out: dict[str, list[int]] = {}
        for k, piece in enumerate(segments.piece):
            out.setdefault(self.pieces.get((run.run.id, int(piece)), HUNG), []).append(k)
        return {mover: np.array(rows) for mover, rows in out.items()}


def goes_as(mover: str) -> str:
    """Return a mover's kind, however it grows: engine, hung, flex or body."""
    return mover.partition(" ")[0]


def behind(
    design: Design, system: System, run: LaidRun, kept: int, tube: Tube, *, hung: bool = False
) -> tuple[str, tuple[Position, ...]]:
    """Return the mover of new pipe that follows the first `kept` pieces of a run, and every position of it, rest first;
    `hung`: as if a flex came before it.
    """
    moves = movers(design, system)
    if hung:
        mover = HUNG
    elif kept:
        mover = _onward(moves.pieces.get((run.run.id, kept - 1), HUNG))
    else:
        mover = _where_from(run.run.start, moves, system)
    rise = float(design.settings.rules.hot_rise_k)
    hot = _hot(grown_behind(design, system, rise, run, kept, tube)) if rise > 0 else REST
    return mover, tuple(_product(_moved(design)[mover], hot))


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
            _along(run, Movers(pieces, parts, has_flex=False), system, reach)
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


def _where_from(start: str | Tap, moves: Movers, system: System) -> str:
    """Return the mover of the first pipe of a run: its part, or (a branch) the piece it leaves."""
    if isinstance(start, Tap):
        main = next((r for r in system.runs if r.run.id == start.run), None)
        sits = next((p.index for p in main.pieces if p.piece.id == start.piece), None) if main else None
        return HUNG if sits is None else moves.pieces.get((start.run, sits), HUNG)
    return _onward(moves.parts.get(start.partition(".")[0], HUNG))


def _along(run: LaidRun, moves: Movers, system: System, reach: Callable[[str, str], None]) -> None:
    mover = _where_from(run.run.start, moves, system)
    for piece in run.pieces:
        if isinstance(piece.piece, InLine):
            reach(piece.piece.part, mover)
            moves.pieces[(run.run.id, piece.index)] = moves.parts[piece.piece.part]
            mover = _onward(moves.parts[piece.piece.part])
        else:
            moves.pieces[(run.run.id, piece.index)] = mover
    if run.run.aim:
        reach(run.run.aim.partition(".")[0], mover)


def movement(design: Design, system: System, rises: Rises = NO_RISES) -> tuple[Movers, dict[str, tuple[Position, ...]]]:
    """Return the mover of each piece and part, and every position of each mover, rest first: the product of how it is
    moved with cold and hot; by how much hotter each piece is, where that is known.
    """
    moves, moved = movers(design, system), _moved(design)
    pieces, parts = grown(design, system, float(design.settings.rules.hot_rise_k), rises)
    names: dict[tuple[str, object], str] = {}
    places = {mover: tuple(_product(at, REST)) for mover, at in moved.items()}

    def named(mover: str, body: Grown | None) -> str:
        """The mover of what grows so: the first of its kind keeps the plain name."""
        key = mover, body and (round(body.share, 9), *(round(v, 4) for v in body.shift))
        if key not in names:
            others = sum(kind == mover for kind, _ in names)
            names[key] = f"{mover} {others + 1}" if others else mover
            places[names[key]] = tuple(_product(moved[mover], _hot(body) if body else REST))
        return names[key]

    own = {key: named(mover, pieces.get(key)) for key, mover in moves.pieces.items()}
    hardware = {part: named(mover, parts.get(part)) for part, mover in moves.parts.items()}
    return Movers(own, hardware, moves.has_flex), places


@dataclass(frozen=True, eq=False)
class HungGoing:
    """How a hung piece or part goes in each state, as a rigid body; `ends` (k, 3) are places of it by which another's
    way of going is compared with its own. Compared by identity.
    """

    states: tuple[Position, ...]
    ends: Vector

    @cached_property
    def _stacked(self) -> tuple[Vector, Vector]:
        """The turns (k, 3, 3) and shifts (k, 3) of all states."""
        return np.array([s.turn for s in self.states]), np.array([s.shift for s in self.states])

    def carries(self, points: Vector) -> Vector:
        """Points (n, 3) where each state puts them: (k, n, 3)."""
        turns, shifts = self._stacked
        return np.asarray(points @ turns.transpose(0, 2, 1) + shifts[:, None])

    @classmethod
    def of(cls, names: Sequence[str], ends: Vector, moved: Sequence[Vector]) -> HungGoing:
        """The rigid motions in which both ends (2, 3) go so far (2, 3) in each state: what sags turns too."""
        return cls(tuple(_carried(name, ends, far) for name, far in zip(names, moved, strict=True)), ends)

    def is_as(self, other: HungGoing) -> bool:
        """Whether its ends would go as they do, to ALIKE_MM, if it went as another goes."""
        return float(np.abs(self.carries(self.ends) - other.carries(self.ends)).max(initial=0.0)) < ALIKE_MM


def _carried(name: str, ends: Vector, far: Vector) -> Position:
    """A body carried so that its two ends go so far (2, 3): turned across the line between them, and shifted."""
    long = ends[1] - ends[0]
    size = float(long @ long)
    vector = cross(long, far[1] - far[0]) / max(size, 1.0)
    angle = math.sqrt(float(vector @ vector))
    turn = rotation_about(vector / angle, math.degrees(angle)) if angle > 1e-12 else REST.turn
    middle = (ends[0] + ends[1]) / 2
    return Position(name, turn, middle + (far[0] + far[1]) / 2 - turn @ middle)


def hung_movement(
    moves: Movers, positions: Mapping[str, tuple[Position, ...]], goes: Mapping[object, HungGoing]
) -> tuple[Movers, dict[str, tuple[Position, ...]]]:
    """Movement where it is known how each hung piece (run id, index) and part (id) goes in each state: what goes alike
    is one mover, cold and hot, in place of the usual swing. What is not in `goes` moves as it did.
    """
    places = dict(positions)
    firsts: dict[str, list[tuple[str, HungGoing]]] = {}

    def named(key: object, mover: str) -> str:
        if key not in goes:
            return mover
        known = next((name for name, first in firsts.get(mover, []) if goes[key].is_as(first)), None)
        if known is not None:
            return known
        name = f"{goes_as(mover)} {len(places) + 1}"
        hot = next((p for p in positions[mover] if p.name == "hot"), REST)
        places[name] = tuple(_product([REST, *goes[key].states], hot))
        firsts.setdefault(mover, []).append((name, goes[key]))
        return name

    pieces = {key: named(key, mover) for key, mover in moves.pieces.items()}
    return Movers(pieces, {part: named(part, mover) for part, mover in moves.parts.items()}, moves.has_flex), places


def engine_positions(design: Design) -> list[Position]:
    """Every position of the engine, at rest first."""
    return _moved(design)[ENGINE]


def _moved(design: Design) -> dict[str, list[Position]]:
    """How each kind of mover is moved, cold."""
    group = design.survey.group(ENGINE_GROUP)
    rocked = [Position(s.name, *motion_of(s)) for s in positions(group, design.survey)] if group else [REST]
    rest = next((p for p in rocked if np.allclose(p.turn, np.eye(3)) and np.allclose(p.shift, 0.0)), REST)
    engine = [REST, *(p for p in rocked if p is not rest)]
    swing = float(design.settings.rules.hanger_swing_mm)
    hung = [REST]
    if swing > 0:
        hung += [
            Position(f"swung {side}", REST.turn, np.array([0.0, y, 0.0]))
            for side, y in (("left", -swing), ("right", swing))
        ]
    return {ENGINE: engine, HUNG: hung, BODY: [REST], FLEX: engine + hung[1:]}


def _hot(body: Grown) -> Position:
    return Position("hot", REST.turn, np.array(body.shift), 1.0 + body.share)


def _product(moved: list[Position], hot: Position) -> list[Position]:
    """Hot first grows where it is held, then is moved."""
    warmth = [REST] if hot.scale == 1.0 else [REST, hot]
    out = []
    for warm, at in product(warmth, moved):
        name = f"{at.name}, {warm.name}" if at.name and warm.name else at.name or warm.name
        shift = at.shift if warm is REST else at.turn @ warm.shift + at.shift
        out.append(Position(name, at.turn, shift, warm.scale))
    return out


@dataclass(frozen=True)
class Stacked:
    """All positions (k) of a mover, as the kernels take them: turn (k, 3, 3), shift (k, 3), scale (k,)."""

    turn: Vector
    shift: Vector
    scale: Vector

    @cached_property
    def stretch(self) -> Vector:
        """The most that each position moves the end of an arm of length one whose other end stays: (k,).

        The norm of scale * turn - 1: a turn by t about an axis leaves scale - 1 along it, |scale e^(it) - 1| across it.
        """
        cosine = (np.trace(self.turn, axis1=1, axis2=2) - 1.0) / 2.0
        across = np.sqrt(np.maximum(0.0, self.scale**2 - 2.0 * self.scale * cosine + 1.0))
        return np.asarray(np.maximum(across, np.abs(self.scale - 1.0)))

    @staticmethod
    @lru_cache(maxsize=256)  # asked for a mover's positions by every piece and part that moves so
    def of(positions: tuple[Position, ...]) -> Stacked:
        return Stacked(
            np.array([p.turn for p in positions]).reshape(-1, 3, 3),
            np.array([p.shift for p in positions], dtype=float).reshape(-1, 3),
            np.array([p.scale for p in positions]),
        )

    @property
    def arrays(self) -> tuple[Vector, Vector, Vector, Vector]:
        return self.turn, self.shift, self.scale, self.stretch

    def farthest(self, middles: Vector, reaches: Vector) -> Vector:
        """At most how far (n,) [mm] any position moves anything within `reaches` (n,) of points (n, 3)."""
        at = np.einsum("kij,nj->kni", self.turn, middles) * self.scale[:, None, None] + self.shift[:, None]
        moved = np.sqrt(((at - middles) ** 2).sum(axis=2)) + self.stretch[:, None] * reaches
        return np.asarray(moved.max(axis=0))


def farthest(points: Vector, reach: Vector, position: Position) -> float:
    """At most how far [mm] a position moves anything within `reach` (n,) of points (n, 3)."""
    off = position.points(points) - points
    moved = np.sqrt(np.einsum("ij,ij->i", off, off))
    return float((moved + Stacked.of((position,)).stretch * reach).max(initial=0.0))
