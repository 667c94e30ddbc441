"""The nearest that each piece and part comes to each thing, over all positions of both."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..geometry import clearance, moved
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
    farthest,
    goes_as,
    joint_segments,
)
from ..space import Vector
from .gaps import Around, packed, part_gap, point_gaps, tube_gaps, worst_margin

NOT_WORTH_SAYING_MM = 80.0  # gaps this much over the wanted one are not searched exactly
# two things bolted to each other may meet; one of them deeper than this inside the other is no bracket
MEETS_MM = 3.0


@dataclass(frozen=True)
class Gap:
    """The nearest a body comes to one thing, over all positions of that thing and of the body.

    `position` is the body's own, empty at rest; `together` says that both go with the same group.
    """

    run: str
    piece: int | None
    part: str
    obstacle: Obstacle
    gap_mm: float
    at: Vector
    position: str = ""
    together: bool = False

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
    by_kind = {kind: against(around, kind) for kind in {goes_as(mover) for mover in positions}}
    split = {mover: by_kind[goes_as(mover)] for mover in positions}
    worst: dict[tuple[str, int | None, str, str], Gap] = {}
    for gap in _all(system, split, moves, positions):
        key = (gap.run, gap.piece, gap.part, gap.obstacle.thing.id)
        if key not in worst or gap.gap_mm < worst[key].gap_mm:
            worst[key] = gap
    return list(worst.values())


def against(around: Sequence[Obstacle], mover: str) -> Against:
    """What a mover is checked against."""
    if goes_as(mover) != ENGINE:
        return Against(packed(around), packed([]))
    with_it = [o for o in around if o.thing.moves_with == ENGINE_GROUP]
    at_rest = {o.thing.id: o for o in reversed(with_it)}  # a group's first position is how it rests
    return Against(packed([o for o in around if o.thing.moves_with != ENGINE_GROUP]), packed(list(at_rest.values())))


def worst_over(rows: Vector, mover: str, around: Sequence[Obstacle], positions: Sequence[Position]) -> Worst:
    """The least margin of one chain of segments (n, 14) over all positions, capped at what is worth saying."""
    split = against(around, mover)
    worst = Worst(NOT_WORTH_SAYING_MM, None, "")
    for position in positions:
        margin, j = worst_margin(position.rows(rows), split.apart, worst.margin_mm)
        if j >= 0:
            worst = Worst(margin, split.apart.obstacles[j], position.name)
    for k, obstacle in enumerate(split.together.obstacles):
        margin, j = worst_margin(rows, split.together.only(np.array([k], dtype=np.intp)), 0.0)
        if j >= 0 and margin + obstacle.needed_mm < min(worst.margin_mm, -MEETS_MM):
            worst = Worst(margin + obstacle.needed_mm, obstacle, "")
    return worst


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


def _tube(run: LaidRun, segments: Segments, around: Around, positions: Sequence[Position]) -> Iterator[Gap]:
    """At rest everything that is worth saying; in the other positions what they can make worse."""
    if not around.obstacles or not len(segments.rows):
        return
    at_rest, along = tube_gaps(segments.rows, around, NOT_WORTH_SAYING_MM)
    yield from _found(run, segments.rows, segments.piece, around, at_rest, along, "")
    least = at_rest.min(axis=1) - around.needed
    worst = max(0.0, float(least.min()))
    others = positions[1:]
    if not others:
        return
    gaps, where = moved.chain_gaps_moved(segments.rows, *Stacked.of(others).arrays, around.rows, around.owner,
                                         around.needed, least, worst, NOT_WORTH_SAYING_MM)  # fmt: skip
    for p in np.flatnonzero((where >= 0.0).any(axis=(1, 2))).tolist():
        rows = others[p].rows(segments.rows)
        yield from _found(run, rows, segments.piece, around, gaps[p], where[p], others[p].name)
    if len(around.meshed):
        yield from _to_meshes(run, segments, around.only(around.meshed), least[around.meshed], worst, others)


def _to_meshes(
    run: LaidRun, segments: Segments, meshes: Around, least: Vector, worst: float, others: Sequence[Position]
) -> Iterator[Gap]:  # fmt: skip
    """The same where a thing is triangles, position by position."""
    for position in others:
        reach = farthest(segments.starts, segments.lengths_mm + segments.radii_mm, position)
        near = least - reach < worst if worst + reach < NOT_WORTH_SAYING_MM else least < np.inf
        if near.any():
            some, rows = meshes.only(np.flatnonzero(near)), position.rows(segments.rows)
            gaps, where = tube_gaps(rows, some, worst)
            yield from _found(run, rows, segments.piece, some, gaps, where, position.name)


def _found(
    run: LaidRun, rows: Vector, piece: Vector, around: Around, gaps: Vector, along: Vector, position: str
) -> Iterator[Gap]:
    here = np.empty(6)
    for j, k in zip(*np.nonzero(along >= 0.0), strict=True):
        clearance.centre(rows[k], along[j, k], here)
        found = around.obstacles[j], float(gaps[j, k]), here[:3].copy()
        yield Gap(run.run.id, int(piece[k]), "", *found, position)


def _parts(bodies: Sequence[PartBody], around: Around, positions: Sequence[Position]) -> Iterator[Gap]:
    """Nothing is drawn along a part: only what comes nearer than needed is looked for."""
    if not around.obstacles:
        return
    reaches = Stacked.of(positions)
    balls = [body_reach(body) for body in bodies]
    gaps = point_gaps(np.array([middle for middle, _ in balls]), around) - around.needed
    for body, (middle, reach), spare in zip(bodies, balls, gaps, strict=True):
        far = reaches.ball(middle, reach)
        for k in np.flatnonzero(spare.min() - reach <= far):
            position, moved = positions[int(k)], positions[int(k)].body(body)
            for j in np.flatnonzero(spare - reach <= far[k]):
                gap = part_gap(moved, around.obstacles[j], float(around.needed[j]))
                if gap < around.needed[j]:
                    at = position.points(middle)
                    yield Gap("", None, body.part.id, around.obstacles[j], gap, at, position.name)
