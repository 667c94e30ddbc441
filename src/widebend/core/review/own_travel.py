"""The system against itself while it moves: what rocks with the engine against what hangs or is fixed to the body.

What goes the same way stays as far apart as it was drawn (`own_gaps`). A flex bends as it is moved and is not held
against what it joins. All metal grows alike here. What meets on purpose is passed over as at rest.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..geometry import travel, travel_bodies, travel_pipes
from ..laying import FLEX, HUNG, Movers, PartBody, Position, Segments, Stacked, System, body_reach, goes_as
from ..records import Design
from ..space import Vector
from .findings import Finding, point
from .gaps_over_travel import Mover, mover_of, place_on
from .own_gaps import Pipe, away_from, facing_of, finding_of, named, neighbours_of, skips_of, solid_of

COLD = np.zeros(4)


@dataclass(frozen=True)
class Going:
    """The rows of a pipe that move alike: its rows among the pipe's, and how."""

    rows: Vector
    kind: str
    mover: Mover


def own_travel_findings(
    design: Design,
    system: System,
    moves: Movers,
    positions: Mapping[str, tuple[Position, ...]],
    pipes: Sequence[Pipe],
    at_rest: Sequence[Finding],
) -> Iterator[Finding]:
    """Every pair that comes nearer on its way than the shop wants, where that is nearer than it is `at_rest`; `pipes`
    are `own_pipes`.
    """
    kinds = {goes_as(name) for name in (*moves.pieces.values(), *moves.parts.values())} - {FLEX}
    if len(kinds) < 2:
        return
    wanted = float(design.settings.rules.own_gap_mm)
    known: dict[frozenset[str], float] = {}
    for one in at_rest:
        pair = own_pair(one)
        known[pair] = min(known.get(pair, wanted), one.gap_mm if one.gap_mm is not None else wanted)
    going = [_going(pipe, moves, positions) for pipe in pipes]
    yield from _between_pipes(system, pipes, going, wanted, known)
    balls = _balls(system.bodies, moves, positions)
    yield from _pipes_and_parts(system, moves, positions, pipes, going, balls, wanted, known)
    yield from _between_parts(system, moves, positions, balls, wanted, known)


def own_pair(finding: Finding) -> frozenset[str]:
    """Which two of the system's pipes and parts a finding of theirs is about."""
    return _pair(finding.part or finding.run, finding.thing)


def _pair(one: str, other: str) -> frozenset[str]:
    return frozenset((one, other))


def _going(pipe: Pipe, moves: Movers, positions: Mapping[str, tuple[Position, ...]]) -> list[Going]:
    segments = Segments(pipe.rows, pipe.piece)
    return [
        Going(rows, goes_as(name), mover_of(positions[name]))
        for name, rows in moves.of_segments(pipe.run, segments).items()
        if goes_as(name) != FLEX
    ]


def _between_pipes(
    system: System,
    pipes: Sequence[Pipe],
    going: Sequence[list[Going]],
    wanted: float,
    known: Mapping[frozenset[str], float],
) -> Iterator[Finding]:
    facing = facing_of(system)
    for i, j in itertools.combinations_with_replacement(range(len(pipes)), 2):
        one, two = pipes[i], pipes[j]
        skips = np.array(list(skips_of(one, two, facing, wanted))).reshape(-1, 4)
        best, said = known.get(_pair(one.run.run.id, two.run.run.id), wanted), None
        for a, b in itertools.product(going[i], going[j]):
            if a.kind == b.kind or (a.mover.is_still and b.mover.is_still):
                continue
            found, where = np.full(4, -1, dtype=np.int64), np.zeros(3)
            gap = travel_pipes.pipe_travel_gap(
                one.rows[a.rows],
                one.starts[a.rows],
                two.rows[b.rows],
                two.starts[b.rows],
                skips,
                one.near_mm if one is two else -1.0,
                a.mover.sweeps.rows,
                b.mover.sweeps.rows,
                best,
                found,
                where,
            )
            if found[0] < 0:
                continue
            best = float(gap)
            place, theirs = a.mover.at(int(found[2]), where[1], 0.0), b.mover.at(int(found[3]), where[2], 0.0)
            row, other = int(a.rows[found[0]]), int(two.piece[b.rows[found[1]]])
            whose = "its own pipe" if one is two else two.name
            said = finding_of(
                best,
                wanted,
                f"{whose} at piece {other + 1}",
                point(place_on(one.rows[row], float(where[0]), place)),
                one.run.run.id,
                int(one.piece[row]),
                "",
                two.run.run.id,
                theirs.name,
                place.name,
                other,
            )
        if said is not None:
            yield said


def _pipes_and_parts(
    system: System,
    moves: Movers,
    positions: Mapping[str, tuple[Position, ...]],
    pipes: Sequence[Pipe],
    going: Sequence[list[Going]],
    balls: Vector,
    wanted: float,
    known: Mapping[frozenset[str], float],
) -> Iterator[Finding]:
    facing = facing_of(system)
    by_part: dict[str, list[Vector]] = {}
    for body in system.bodies:
        by_part.setdefault(body.part.id, []).append(solid_of(body))
    names = {part.id: named(part) for part, _ in system.parts}
    near = [
        {system.bodies[k].part.id for k in np.flatnonzero(_near(some, balls) <= wanted).tolist()}
        for some in zip(pipes, going, strict=True)
    ]
    for (pipe, close), part in itertools.product(zip(pipes, near, strict=True), by_part):
        mover = moves.parts.get(part, HUNG)
        if goes_as(mover) == FLEX or part not in close:
            continue
        away = away_from(pipe, part, facing)
        if not len(away.rows):
            continue
        theirs, rows = mover_of(positions[mover]), np.array(by_part[part])
        best = known.get(_pair(pipe.run.run.id, part), wanted)
        for name, some in moves.of_segments(pipe.run, away).items():
            if goes_as(name) in (FLEX, goes_as(mover)):
                continue
            ours, shape = mover_of(positions[name]), (1, len(some))
            gaps, along = np.full(shape, best), np.full(shape, -1.0)
            which, where = np.zeros((*shape, 2), dtype=np.int64), np.zeros((*shape, 3))
            travel.travel_gaps(
                away.rows[some],
                ours.sweeps.rows,
                COLD,
                rows,
                np.array([0, len(rows)]),
                theirs.sweeps.rows,
                np.array([0, len(theirs.sweeps.rows)]),
                np.array([wanted]),
                gaps,
                along,
                which,
                where,
                True,
            )
            k = int(np.where(along >= 0.0, gaps, np.inf).argmin())
            if along[0, k] < 0.0:
                continue
            best = float(gaps[0, k])
            place = ours.at(int(which[0, k, 0]), float(where[0, k, 0]), 0.0)
            state = theirs.at(int(which[0, k, 1]), float(where[0, k, 2]), 0.0)
            at = point(place_on(away.rows[some[k]], float(along[0, k]), place))
            yield finding_of(
                best,
                wanted,
                names[part],
                at,
                pipe.run.run.id,
                int(away.piece[some[k]]),
                "",
                part,
                state.name,
                place.name,
            )


def _near(pipe: tuple[Pipe, Sequence[Going]], balls: Vector) -> Vector:
    """From a pipe, wherever it goes, to some balls (n, 4): no less than that (n,) [mm]."""
    rows = pipe[0].rows
    if not len(rows):
        return np.full(len(balls), np.inf)
    middle, reach = rows[:, 3:6].mean(axis=0), 0.0
    reach = float((np.linalg.norm(rows[:, 3:6] - middle, axis=1) + rows[:, 1] + rows[:, 2]).max())
    goes = max(
        (float(Stacked.of(one.mover.cold).farthest(middle[None], np.array([reach]))[0]) for one in pipe[1]), default=0.0
    )
    off = np.linalg.norm(rows[:, None, 3:6] - balls[None, :, :3], axis=2) - (rows[:, 1] + rows[:, 2])[:, None]
    return np.asarray(off.min(axis=0) - balls[:, 3] - goes)


def _between_parts(
    system: System,
    moves: Movers,
    positions: Mapping[str, tuple[Position, ...]],
    balls: Vector,
    wanted: float,
    known: Mapping[frozenset[str], float],
) -> Iterator[Finding]:
    beside = neighbours_of(system)
    kinds = [goes_as(moves.parts.get(body.part.id, HUNG)) for body in system.bodies]
    off = np.linalg.norm(balls[:, None, :3] - balls[None, :, :3], axis=2) - balls[:, None, 3] - balls[None, :, 3]
    for i, j in np.argwhere(np.triu(off <= wanted, 1)).tolist():
        a, b = system.bodies[i], system.bodies[j]
        if kinds[i] == kinds[j] or FLEX in (kinds[i], kinds[j]) or beside.meet(a, b):
            continue
        ours, theirs = (moves.parts.get(body.part.id, HUNG) for body in (a, b))
        best = known.get(_pair(a.part.id, b.part.id), wanted)
        found = _bodies_gap(a, b, mover_of(positions[ours]), mover_of(positions[theirs]), best)
        if found is not None:
            gap, place, state = found
            at = point(place.points(a.middle))
            yield finding_of(gap, wanted, named(b.part), at, "", None, a.part.id, b.part.id, state.name, place.name)


def _balls(bodies: Sequence[PartBody], moves: Movers, positions: Mapping[str, tuple[Position, ...]]) -> Vector:
    """A ball round each body that holds it wherever it goes: middle 3, radius (n, 4) [mm]."""
    of_mover: dict[str, list[int]] = {}
    for k, body in enumerate(bodies):
        of_mover.setdefault(moves.parts.get(body.part.id, HUNG), []).append(k)
    balls = np.array([(*middle, reach) for middle, reach in map(body_reach, bodies)]).reshape(-1, 4)
    for mover, some in of_mover.items():
        balls[some, 3] += Stacked.of(positions[mover]).farthest(balls[some, :3], balls[some, 3])
    return balls


def _bodies_gap(
    a: PartBody, b: PartBody, ours: Mover, theirs: Mover, best: float
) -> tuple[float, Position, Position] | None:
    """The least gap of two bodies on their ways below `best`, with both positions."""
    gaps, which, where = np.array([best]), np.full((1, 2), -1, dtype=np.int64), np.zeros((1, 3))
    travel_bodies.body_travel_gaps(
        a.segment,
        a.half_u,
        a.half_v,
        a.u,
        a.v,
        ours.sweeps.rows,
        COLD,
        solid_of(b)[None],
        np.array([0, 1]),
        theirs.sweeps.rows,
        np.array([0, len(theirs.sweeps.rows)]),
        gaps,
        which,
        where,
    )
    if which[0, 0] < 0:
        return None
    place = ours.at(int(which[0, 0]), float(where[0, 0]), 0.0)
    return float(gaps[0]), place, theirs.at(int(which[0, 1]), float(where[0, 2]), 0.0)
