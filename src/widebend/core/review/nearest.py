"""The nearest that each piece and part comes to each thing, anywhere on the travels of both."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..geometry import moved
from ..laying import (
    ENGINE,
    ENGINE_GROUP,
    HUNG,
    REST,
    LaidRun,
    Movers,
    Obstacle,
    PartBody,
    Position,
    Segments,
    Stacked,
    System,
    body_reach,
    body_rods,
    goes_as,
    joint_segments,
)
from ..space import Vector
from .gaps import Around, packed, part_gap, point_gaps, tube_gaps, worst_margin
from .gaps_over_travel import (
    ByThing,
    Nearer,
    least_on_the_way,
    nearer_bodies_on_the_way,
    nearer_meshes_on_the_way,
    nearer_on_the_way,
)

NOT_WORTH_SAYING_MM = 80.0  # gaps this much over the wanted one are not searched exactly
# two things bolted to each other may meet; one of them deeper than this inside the other is no bracket
MEETS_MM = 3.0


@dataclass(frozen=True)
class Gap:
    """The nearest a body comes to one thing, over all positions of that thing and of the body.

    `pose` is the body's own position, `together` says that both go with the same group.
    """

    run: str
    piece: int | None
    part: str
    obstacle: Obstacle
    gap_mm: float
    at: Vector
    pose: Position = REST
    together: bool = False

    @property
    def position(self) -> str:
        """Return the name of the body's own position, empty at rest."""
        return self.pose.name

    @property
    def margin_mm(self) -> float:
        return self.gap_mm - self.obstacle.needed_mm - self.obstacle.plus_minus_mm


@dataclass(frozen=True)
class Worst:
    """The least margin [mm] of a chain of segments, against what, and in which of its own positions."""

    margin_mm: float
    obstacle: Obstacle | None
    position: str


@dataclass(frozen=True)
class Against:
    """Things a mover is checked against as they move apart, and those that go with it, at rest only."""

    apart: Around
    together: Around


def nearest(
    system: System,
    around: Sequence[Obstacle],
    moves: Movers,
    positions: dict[str, tuple[Position, ...]],
) -> list[Gap]:
    """For each piece or part and thing, the positions in which it comes nearest."""
    if not around:
        return []
    split = against_each(around, positions)
    worst: dict[tuple[str, int | None, str, str], Gap] = {}
    for gap in _all(system, split, moves, positions):
        key = (gap.run, gap.piece, gap.part, gap.obstacle.thing.id)
        if key not in worst or gap.gap_mm < worst[key].gap_mm:
            worst[key] = gap
    return list(worst.values())


def against_each(around: Sequence[Obstacle], movers: Collection[str]) -> dict[str, Against]:
    """Return the things each of some movers is checked against."""
    by_kind = {kind: against(around, kind) for kind in {goes_as(mover) for mover in movers}}
    return {mover: by_kind[goes_as(mover)] for mover in movers}


def against(around: Sequence[Obstacle], mover: str) -> Against:
    """Return the things a mover is checked against."""
    if goes_as(mover) != ENGINE:
        return Against(packed(around), packed([]))
    with_it = [o for o in around if o.thing.moves_with == ENGINE_GROUP]
    at_rest = {o.thing.id: o for o in reversed(with_it)}  # a group's first position is how it rests
    return Against(packed([o for o in around if o.thing.moves_with != ENGINE_GROUP]), packed(list(at_rest.values())))


def worst_over(rows: Vector, mover: str, around: Sequence[Obstacle], positions: Sequence[Position]) -> Worst:
    """The least margin of one chain of segments (n, 14) anywhere on its travels, capped at what is worth saying."""
    split, places = against(around, mover), tuple(positions)
    margin, j = worst_margin(places[0].rows(rows), split.apart, NOT_WORTH_SAYING_MM)
    worst = Worst(margin, split.apart.obstacles[j] if j >= 0 else None, places[0].name)
    things = split.apart.by_thing
    nearer = least_on_the_way(rows, places, things, worst.margin_mm)
    if nearer is not None:
        worst = _as_worst(nearer)
    for k in things.meshed:
        known = np.full(len(rows), things.needed[k] + worst.margin_mm)
        for one in nearer_meshes_on_the_way(rows, places, things.states[k], known):
            worst = min(worst, _as_worst(one), key=lambda each: each.margin_mm)
    for k, obstacle in enumerate(split.together.obstacles):
        margin, j = worst_margin(rows, split.together.only(np.array([k], dtype=np.intp)), 0.0)
        if j >= 0 and margin + obstacle.needed_mm < min(worst.margin_mm, -MEETS_MM):
            worst = Worst(margin + obstacle.needed_mm, obstacle, "")
    return worst


def _as_worst(nearer: Nearer) -> Worst:
    obstacle = nearer.obstacle
    return Worst(nearer.gap_mm - obstacle.needed_mm - obstacle.plus_minus_mm, obstacle, nearer.position.name)


def _all(
    system: System, split: dict[str, Against], moves: Movers, positions: dict[str, tuple[Position, ...]]
) -> Iterator[Gap]:
    for run, tube in zip(system.runs, system.tubes, strict=True):
        for segments in (tube, joint_segments(run)):
            for mover, rows in moves.of_segments(run, segments).items():
                some = Segments(segments.rows[rows], segments.piece[rows])
                yield from _tube(run, some, split[mover].apart, positions[mover])
                for gap in _tube(run, some, split[mover].together, (REST,)):
                    yield _with_it(gap)
    of_mover: dict[str, list[PartBody]] = {}
    for body in system.bodies:
        of_mover.setdefault(moves.parts.get(body.part.id, HUNG), []).append(body)
    for mover, bodies in of_mover.items():
        yield from _parts(bodies, split[mover].apart, positions[mover])
        for gap in _parts(bodies, split[mover].together, (REST,)):
            yield _with_it(gap)


def _with_it(gap: Gap) -> Gap:
    return Gap(gap.run, gap.piece, gap.part, gap.obstacle, gap.gap_mm, gap.at, together=True)


def _tube(run: LaidRun, segments: Segments, around: Around, positions: tuple[Position, ...]) -> Iterator[Gap]:
    """At rest everything that is worth saying; on the way to the other positions what they can make worse."""
    if not around.obstacles or not len(segments.rows):
        return
    at_rest, along = tube_gaps(segments.rows, around, NOT_WORTH_SAYING_MM)
    yield from _found(run, segments, around, (REST,), at_rest[None], along[None])
    things = around.by_thing
    known = things.least_of_states(at_rest)
    for one in nearer_on_the_way(segments.rows, segments.piece, positions, things, known):
        piece = int(segments.piece[one.segment])
        yield Gap(run.run.id, piece, "", one.obstacle, one.gap_mm, one.at, one.position)
    for k in things.meshed:
        for one in nearer_meshes_on_the_way(segments.rows, positions, things.states[k], known[k]):
            piece = int(segments.piece[one.segment])
            yield Gap(run.run.id, piece, "", one.obstacle, one.gap_mm, one.at, one.position)


def _found(
    run: LaidRun, segments: Segments, around: Around, positions: tuple[Position, ...], gaps: Vector, along: Vector
) -> Iterator[Gap]:
    """Yield gaps found in k positions, for m things, n segments: gaps and along (k, m, n), -1 where nothing was."""
    found = np.argwhere(along >= 0.0)
    if not len(found):
        return
    places = moved.centres_moved(segments.rows, *Stacked.of(positions).arrays[:3], found, along)
    pieces = segments.piece.tolist()
    for (p, j, k), at in zip(found.tolist(), places, strict=True):
        yield Gap(run.run.id, pieces[k], "", around.obstacles[j], float(gaps[p, j, k]), at, positions[p])


def _parts(bodies: Sequence[PartBody], around: Around, positions: tuple[Position, ...]) -> Iterator[Gap]:
    """Nothing is drawn along a part: only what comes nearer than needed is looked for, at rest and on the way."""
    if not around.obstacles:
        return
    things, meshes = around.by_thing, around.only(around.meshed)
    for body in bodies:
        gaps = _at(body, around)
        for j in np.flatnonzero(gaps < around.needed).tolist():
            yield Gap("", None, body.part.id, around.obstacles[j], float(gaps[j]), body.middle)
        known = np.minimum(things.needed, things.least_of_states(gaps))
        for one in nearer_bodies_on_the_way(body, positions, things, known):
            yield Gap("", None, body.part.id, one.obstacle, one.gap_mm, one.at, one.position)
        yield from _bodies_and_meshes(body, things, positions, gaps)
        for position in positions[1:] if meshes.obstacles else ():
            gaps = _at(position.body(body), meshes)
            for j in np.flatnonzero(gaps < meshes.needed).tolist():
                place = position.points(body.middle)
                yield Gap("", None, body.part.id, meshes.obstacles[j], float(gaps[j]), place, position)


def _bodies_and_meshes(body: PartBody, things: ByThing, positions: tuple[Position, ...], gaps: Vector) -> Iterator[Gap]:
    """Yield where bodies come nearer to triangles on the way, of rods that fill a body."""
    if not things.meshed:
        return
    rods, at_rest = body_rods(body), things.least_of_states(gaps)
    for j in things.meshed:
        known = np.full(len(rods), min(things.needed[j], at_rest[j]))
        for one in nearer_meshes_on_the_way(rods, positions, things.states[j], known):
            yield Gap("", None, body.part.id, one.obstacle, one.gap_mm, one.at, one.position)


def _at(body: PartBody, around: Around) -> Vector:
    """Gap of a body to things (m): (m,) [mm], exact below what they need, endless for what is farther."""
    middle, reach = body_reach(body)
    near = point_gaps(middle[None], around)[0] - around.needed <= reach
    gaps = np.full(len(around.obstacles), np.inf)
    for j in np.flatnonzero(near).tolist():
        gaps[j] = part_gap(body, around.obstacles[j], float(around.needed[j]))
    return gaps
