"""The nearest that moving pipe comes to things over the whole of both travels, between the named positions too."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry import WIDTH, centre, moved_solids, pose_at, travel, travel_bodies
from ..laying import REST, Obstacle, PartBody, PlacedMesh, Position, Sweeps, part_way, sweeps_between
from ..space import Vector

GROWN = 1.0 - 1e-9  # what is this far on its way from cold to hot is hot


@dataclass(frozen=True)
class ByThing:
    """Things packed for the kernel of travels: each once, as it was measured. `states` are its obstacles; its solids
    are rows[firsts[j] : firsts[j + 1]], its sweeps sweeps[sweep_firsts[j] : sweep_firsts[j + 1]]. A thing of triangles
    has no row here.
    """

    states: tuple[tuple[Obstacle, ...], ...]
    rows: Vector
    firsts: Vector
    sweeps: Vector
    sweep_firsts: Vector
    needed: Vector
    order: NDArray[np.intp]  # the obstacles sorted by thing, and where each thing's begin among them
    order_firsts: NDArray[np.intp]

    def least_of_states(self, values: Vector) -> Vector:
        """Of values (k, ...) of every obstacle the least of each thing: (m, ...)."""
        return np.asarray(np.minimum.reduceat(values[self.order], self.order_firsts, axis=0))

    @property
    def meshed(self) -> list[int]:
        """Which of the things are triangles."""
        return [j for j, states in enumerate(self.states) if states[0].mesh is not None]

    @property
    def any_moves(self) -> bool:
        return any(states[0].travel is not None for states in self.states)


def by_thing(obstacles: Sequence[Obstacle]) -> ByThing:
    """Obstacles, each in one position, as the things they are."""
    states: dict[str, list[Obstacle]] = {}
    places: dict[str, list[int]] = {}
    for place, one in enumerate(obstacles):
        states.setdefault(one.thing.id, []).append(one)
        places.setdefault(one.thing.id, []).append(place)
    firsts = [some[0] for some in states.values()]
    solids = [one.travel.solids if one.travel else one.solids for one in firsts]
    ways = [one.travel.sweeps.rows if one.travel else STILL.rows for one in firsts]
    return ByThing(
        tuple(tuple(some) for some in states.values()),
        np.concatenate(solids) if solids else np.zeros((0, WIDTH)),
        np.cumsum([0, *(len(rows) for rows in solids)]),
        np.concatenate(ways) if ways else STILL.rows,
        np.cumsum([0, *(len(rows) for rows in ways)]),
        np.array([one.needed_mm + one.plus_minus_mm for one in firsts], dtype=float),
        np.array([place for some in places.values() for place in some], dtype=np.intp),
        np.cumsum([0, *(len(some) for some in places.values())])[:-1],
    )


STILL = sweeps_between([(np.eye(3), np.zeros(3))])


@dataclass(frozen=True, eq=False)
class Mover:
    """How a stretch of the system goes from position to position: its cold positions, the ways between them, and its
    growth from cold to hot as the kernel takes it (share, shift). Compared by identity.
    """

    cold: tuple[Position, ...]
    sweeps: Sweeps
    growth: Vector

    @property
    def is_still(self) -> bool:
        return len(self.cold) == 1 and not self.growth.any()

    def at(self, way: int, t: float, warmth: float) -> Position:
        """The position at t of one of its ways, and so far from cold to hot."""
        first, last = self.sweeps.ends[way]
        turn, shift = pose_at(self.sweeps.rows[way], t)
        name = _named(self.cold[first].name, self.cold[last].name, t)
        warm = "" if warmth == 0.0 else "hot" if warmth > GROWN else "warming"
        words = ", ".join(word for word in (name, warm) if word)
        grown = shift + turn @ (warmth * self.growth[1:])
        return Position(words, turn, grown, 1.0 + warmth * float(self.growth[0]))


def _named(first: str, last: str, t: float) -> str:
    return first if t == 0.0 else last if t == 1.0 else part_way(first, last)


@lru_cache(maxsize=256)  # asked for a mover's positions by every piece and part that moves so
def mover_of(positions: tuple[Position, ...]) -> Mover:
    """How positions, rest first and each cold and then hot, hang together."""
    cold = tuple(p for p in positions if p.scale == 1.0)
    hot = positions[len(cold)] if len(positions) > len(cold) else REST
    ways = sweeps_between([(p.turn, p.shift) for p in cold])
    return Mover(cold, ways, np.array([hot.scale - 1.0, *hot.shift]))


@dataclass(frozen=True)
class Nearer:
    """Where a segment comes nearer to a thing than was known: the gap and how far along the segment [mm], the place of
    its centre, and both positions.
    """

    segment: int
    gap_mm: float
    along_mm: float
    at: Vector
    obstacle: Obstacle
    position: Position


def nearer_on_the_way(
    rows: Vector, piece: Vector, positions: tuple[Position, ...], things: ByThing, known: Vector
) -> Iterator[Nearer]:
    """Yield where a chain of segments (n, 14) comes nearer, anywhere on the travels of both, to things (m) than is
    `known` (m, n) [mm]: of each of its pieces (n,) the nearest.
    """
    mover = mover_of(positions)
    if mover.is_still and not things.any_moves:
        return
    best, along, which, where = _searched(rows, mover, things, known, is_shared=False)
    said: set[tuple[int, int]] = set()
    found = np.argwhere(along >= 0.0)
    for j, k in found[np.argsort(best[along >= 0.0], kind="stable")].tolist():
        if (j, int(piece[k])) not in said:
            said.add((j, int(piece[k])))
            yield _nearer(rows, mover, things, j, k, float(best[j, k]), float(along[j, k]), which[j, k], where[j, k])


def least_on_the_way(rows: Vector, positions: tuple[Position, ...], things: ByThing, margin_mm: float) -> Nearer | None:
    """Return the least margin, anywhere on the travels, if that is less than `margin_mm`."""
    mover = mover_of(positions)
    if (mover.is_still and not things.any_moves) or not len(rows) or not len(things.needed):
        return None
    known = np.repeat((things.needed + margin_mm)[:, None], len(rows), axis=1)
    best, along, which, where = _searched(rows, mover, things, known, is_shared=True)
    margins = np.where(along >= 0.0, best, np.inf) - things.needed[:, None]
    j, k = np.unravel_index(int(margins.argmin()), margins.shape)
    if not margins[j, k] < margin_mm:
        return None
    return _nearer(rows, mover, things, int(j), int(k), float(best[j, k]), float(along[j, k]), which[j, k], where[j, k])


def nearer_meshes_on_the_way(
    rows: Vector, positions: tuple[Position, ...], states: Sequence[Obstacle], known: Vector
) -> Iterator[Nearer]:
    """As `nearer_on_the_way`, of one thing of triangles in all its positions; `known` (n,)."""
    mover, one = mover_of(positions), states[0]
    mesh = one.travel.mesh if one.travel else one.mesh
    if mesh is None or (mover.is_still and one.travel is None):
        return
    best, along = known.copy(), np.full(len(known), -1.0)
    which, where = np.zeros((len(known), 2), dtype=np.int64), np.zeros((len(known), 3))
    travel_bodies.mesh_travel_gaps(
        rows,
        mover.sweeps.rows,
        mover.growth,
        mesh.mesh.rows,
        mesh.mesh.low,
        mesh.mesh.high,
        mesh.mesh.closed,
        mesh.turn,
        mesh.shift,
        one.travel.sweeps.rows if one.travel else STILL.rows,
        best,
        along,
        which,
        where,
    )
    for k in np.flatnonzero(along >= 0.0).tolist():
        position = mover.at(int(which[k, 0]), float(where[k, 0]), float(where[k, 1]))
        obstacle = _obstacle_at(states, int(which[k, 1]), float(where[k, 2]))
        yield Nearer(
            k, float(best[k]), float(along[k]), place_on(rows[k], float(along[k]), position), obstacle, position
        )


def nearer_bodies_on_the_way(
    body: PartBody, positions: tuple[Position, ...], things: ByThing, known: Vector
) -> Iterator[Nearer]:
    """As `nearer_on_the_way`, of a part's body; `known` (m,)."""
    mover = mover_of(positions)
    if mover.is_still and not things.any_moves:
        return
    best = known.copy()
    which, where = np.full((len(best), 2), -1, dtype=np.int64), np.zeros((len(best), 3))
    travel_bodies.body_travel_gaps(
        body.segment,
        body.half_u,
        body.half_v,
        body.u,
        body.v,
        mover.sweeps.rows,
        mover.growth,
        things.rows,
        things.firsts,
        things.sweeps,
        things.sweep_firsts,
        best,
        which,
        where,
    )
    for j in np.flatnonzero(which[:, 0] >= 0).tolist():
        position = mover.at(int(which[j, 0]), float(where[j, 0]), float(where[j, 1]))
        obstacle = _obstacle_at(things.states[j], int(which[j, 1]), float(where[j, 2]))
        yield Nearer(0, float(best[j]), 0.0, position.points(body.middle), obstacle, position)


def place_on(row: Vector, along: float, position: Position) -> Vector:
    """The centre of a segment's section at `along` mm of it, where a position puts it."""
    here = np.empty(6)
    centre(row, along, here)
    return position.points(here[:3])


def _searched(
    rows: Vector, mover: Mover, things: ByThing, known: Vector, *, is_shared: bool
) -> tuple[Vector, Vector, Vector, Vector]:
    best, along = known.copy(), np.full(known.shape, -1.0)
    which, where = np.zeros((*known.shape, 2), dtype=np.int64), np.zeros((*known.shape, 3))
    travel.travel_gaps(
        rows,
        mover.sweeps.rows,
        mover.growth,
        things.rows,
        things.firsts,
        things.sweeps,
        things.sweep_firsts,
        things.needed,
        best,
        along,
        which,
        where,
        is_shared,
    )
    return best, along, which, where


@lru_cache(maxsize=1024)  # most of what comes nearer does so at the same end of the way
def _position_at(mover: Mover, way: int, t: float, warmth: float) -> Position:
    return mover.at(way, t, warmth)


def _nearer(
    rows: Vector, mover: Mover, things: ByThing, j: int, k: int, gap: float, along: float, which: Vector, where: Vector
) -> Nearer:
    position = _position_at(mover, int(which[0]), float(where[0]), float(where[1]))
    obstacle = _obstacle_at(things.states[j], int(which[1]), float(where[2]))
    return Nearer(k, gap, along, place_on(rows[k], along, position), obstacle, position)


def _obstacle_at(states: Sequence[Obstacle], way: int, t: float) -> Obstacle:
    """A thing at t of one of its ways: the obstacle of that position, where it is a named one."""
    one = states[0]
    if one.travel is None:
        return one
    first, last = one.travel.sweeps.ends[way]
    name = _named(one.travel.states[first], one.travel.states[last], t)
    named = next((other for other in states if other.state == name), None)
    if named is not None:
        return named
    turn, shift = pose_at(one.travel.sweeps.rows[way], t)
    mesh = one.travel.mesh
    there = mesh and PlacedMesh(mesh.mesh, turn @ mesh.turn, turn @ mesh.shift + shift)
    return replace(one, state=name, solids=moved_solids(one.travel.solids, turn, shift), mesh=there)
