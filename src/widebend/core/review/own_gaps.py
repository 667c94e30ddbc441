"""The system against itself as it rests: pipe against pipe, pipe against hardware, hardware against hardware.

What meets on purpose is passed over, and no more than that: places of one pipe less than NEAR_A_PORT_OD diameters (and
the wanted gap) apart along it; of two pipes what is as near to a part that both touch, or to two parts that stand
face to face, or to where one leaves the other's side; of a pipe and a part it touches what is as near to its port.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from ..geometry import clearance, cylinder_row, least_between, length_of, prism_row, rows_of, stretch
from ..laying import MEETS_MM, LaidRun, PartBody, Segments, System, body_reach, tube_segments
from ..records import Design, InLine, Part, Tap
from ..space import Vector
from .findings import Finding, point

# how far pipe is passed over near what it is joined to, in diameters: bends of 1 x OD back to back have come clear of
# each other by then
NEAR_A_PORT_OD = 2.5


def own_pipes(design: Design, system: System) -> list[Pipe]:
    """The runs of a system as they are held against each other and against its parts."""
    wanted = float(design.settings.rules.own_gap_mm)
    return [pipe_of(run, wanted, tube) for run, tube in zip(system.runs, system.tubes, strict=True)]


def own_findings(design: Design, system: System, pipes: Sequence[Pipe]) -> Iterator[Finding]:
    """Every pair of pipes, and of pipe and hardware, that is nearer than the shop wants; `pipes` are `own_pipes`."""
    wanted = float(design.settings.rules.own_gap_mm)
    yield from _between_pipes(system, pipes, wanted)
    yield from _pipes_and_parts(system, pipes, wanted)
    yield from _between_parts(system, wanted)


@dataclass(frozen=True)
class Touch:
    """Where along a run [mm] a part sits: at its start, at its aim, or in its line."""

    part: str
    low: float
    high: float


@dataclass(frozen=True, eq=False)
class Pipe:
    """A run's segments with where along it each begins [mm], what it touches, and how far from a shared port what is
    joined is not held against each other: `near_mm`. Compared by identity.
    """

    run: LaidRun
    rows: Vector
    piece: Vector
    starts: Vector
    touches: tuple[Touch, ...]
    near_mm: float

    @property
    def name(self) -> str:
        return self.run.run.name or self.run.run.id


def pipe_of(run: LaidRun, wanted: float, tube: Segments | None = None) -> Pipe:
    """A run as it is held against others; `tube` its segments when they are at hand."""
    tube = tube or tube_segments(run)
    ends = np.cumsum([0.0, *(p.length_mm for p in run.pieces)])
    starts, at = np.zeros(len(tube.rows)), 0.0
    for k, (row, piece) in enumerate(zip(tube.rows, tube.piece, strict=True)):
        at = ends[piece] if not k or tube.piece[k - 1] != piece else at
        starts[k] = at
        at += length_of(row)
    touches = [Touch(p.piece.part, ends[p.index], ends[p.index + 1]) for p in run.pieces if isinstance(p.piece, InLine)]
    for end, where in ((run.run.start, 0.0), (run.run.aim, float(ends[-1]))):
        if isinstance(end, str):
            touches.append(Touch(end.partition(".")[0], where, where))
    widest = 2.0 * float(tube.radii_mm.max(initial=0.0))
    return Pipe(run, tube.rows, tube.piece, starts, tuple(touches), NEAR_A_PORT_OD * widest + wanted)


def _between_pipes(system: System, pipes: Sequence[Pipe], wanted: float) -> Iterator[Finding]:
    facing = facing_of(system)
    for i, one in enumerate(pipes):
        for two in pipes[i:]:
            if not len(one.rows) or not len(two.rows):
                continue
            skips = np.array(list(skips_of(one, two, facing, wanted))).reshape(-1, 4)
            # along one pipe only places well apart along it can clash
            least_apart = one.near_mm if one is two else -1.0
            gap, row, s, other = least_between(one.rows, one.starts, two.rows, two.starts, skips, least_apart, wanted)
            if row >= 0:
                whose = "its own pipe" if one is two else two.name
                here = np.empty(6)
                clearance.centre(one.rows[row], s, here)
                yield finding_of(
                    float(gap),
                    wanted,
                    f"{whose} at piece {int(two.piece[other]) + 1}",
                    point(here[:3]),
                    one.run.run.id,
                    int(one.piece[row]),
                    "",
                    two.run.run.id,
                    thing_piece=int(two.piece[other]),
                )


def facing_of(system: System) -> frozenset[frozenset[str]]:
    """Pairs of parts that stand face to face."""
    return frozenset(frozenset((a.part.id, b.part.id)) for a, b in system.faces)


def segments_apart(pipe: Pipe, other: Pipe, system: System, wanted: float) -> Vector:
    """A pipe's segments (n, 14) less what is near anything that it and another pipe both touch."""
    facing = facing_of(system)
    spans = [(skip[0], skip[1]) for skip in skips_of(pipe, other, facing, wanted)]
    return _less(pipe, spans).rows


def skips_of(one: Pipe, two: Pipe, facing: frozenset[frozenset[str]], wanted: float) -> Iterator[tuple[float, ...]]:
    """Yield the stretches of two pipes that are not checked against each other: near a part that both touch, or two
    that stand face to face; near where one leaves the other's side.
    """
    for a in one.touches:
        for b in two.touches:
            if (a.part == b.part and a is not b) or frozenset((a.part, b.part)) in facing:
                yield a.low - one.near_mm, a.high + one.near_mm, b.low - two.near_mm, b.high + two.near_mm
    if one is not two:
        yield from ((*main, *branch) for branch, main in _at_tap(two, one, wanted))
        yield from ((*branch, *main) for branch, main in _at_tap(one, two, wanted))


def _at_tap(branch: Pipe, main: Pipe, wanted: float) -> Iterator[tuple[tuple[float, float], tuple[float, float]]]:
    """The stretch of a branch that cannot be clear of the pipe it leaves yet, and that pipe's stretch beside it."""
    tap = branch.run.run.start
    if not isinstance(tap, Tap) or tap.run != main.run.run.id or not len(branch.rows):
        return
    sits = next((p for p in main.run.pieces if p.piece.id == tap.piece), None)
    if sits is None:
        return
    at = sum(p.length_mm for p in main.run.pieces[: sits.index]) + min(float(tap.along_mm), sits.length_mm)
    radii = float(sits.tube.od_mm) / 2 + float(branch.rows[0, 2])
    reach = max(branch.near_mm, (radii + wanted) / math.sin(math.radians(tap.angle_deg)))
    yield (0.0, reach), (at - reach - radii, at + reach + radii)


def finding_of(
    gap: float,
    wanted: float,
    name: str,
    at: tuple[float, float, float],
    run: str,
    piece: int | None,
    part: str,
    thing: str,
    state: str = "",
    position: str = "",
    thing_piece: int | None = None,
) -> Finding:
    """Return the finding of two things of the system that come too near; `state` is the other's position."""
    code = "touches" if gap < 0 else "own"
    return Finding(
        code,
        run,
        piece,
        part,
        thing,
        name,
        state,
        gap_mm=gap,
        needed_mm=wanted,
        at=at,
        position=position,
        thing_piece=thing_piece,
    )


def _pipes_and_parts(system: System, pipes: Sequence[Pipe], wanted: float) -> Iterator[Finding]:
    """Pipe against the bodies of parts; of a part it touches, or one that stands face to face with that, only what is
    not near its port there.
    """
    facing = facing_of(system)
    by_part: dict[str, list[Vector]] = {}
    for body in system.bodies:
        by_part.setdefault(body.part.id, []).append(solid_of(body))
    names = {part.id: named(part) for part, _ in system.parts}
    for pipe in pipes:
        for part, rows in by_part.items():
            away = away_from(pipe, part, facing)
            if not len(away.rows):
                continue
            gaps, along = clearance.all_gaps(away.rows, np.array(rows), np.full(len(rows), wanted))
            j, k = np.unravel_index(int(gaps.argmin()), gaps.shape)
            if along[j, k] >= 0.0:
                here = np.empty(6)
                clearance.centre(away.rows[k], along[j, k], here)
                yield finding_of(
                    float(gaps[j, k]),
                    wanted,
                    names[part],
                    point(here[:3]),
                    pipe.run.run.id,
                    int(away.piece[k]),
                    "",
                    part,
                )


@lru_cache(maxsize=256)  # asked for at rest and on the way
def away_from(pipe: Pipe, part: str, facing: frozenset[frozenset[str]]) -> Segments:
    """A pipe's segments less what is near a part that it touches, or that stands face to face with one it touches."""
    near = [t for t in pipe.touches if t.part == part or frozenset((t.part, part)) in facing]
    return _less(pipe, [(t.low - pipe.near_mm, t.high + pipe.near_mm) for t in near])


def _less(pipe: Pipe, spans: Sequence[tuple[float, float]]) -> Segments:
    """A pipe's segments less some stretches along it [mm]."""
    rows, pieces, starts = pipe.rows, pipe.piece, pipe.starts
    for low, high in spans:
        kept = [
            (part, piece, begins)
            for row, piece, start in zip(rows, pieces, starts, strict=True)
            for part, begins in _outside(row, float(start), low, high)
        ]
        rows = rows_of([part for part, _, _ in kept])
        pieces, starts = np.array([p for _, p, _ in kept], dtype=int), np.array([b for _, _, b in kept])
    return Segments(rows, pieces)


def _outside(row: Vector, start: float, low: float, high: float) -> Iterator[tuple[Vector, float]]:
    """Yield the parts of a segment, `start` mm along its pipe, outside a stretch: (segment, where it begins)."""
    end = start + length_of(row)
    if end <= low or start >= high:
        yield row, start
        return
    for a, b in ((start, min(end, low)), (max(start, high), end)):
        if b - a > 1e-6:
            yield stretch(row, a - start, b - start), a


def _port_places(system: System) -> dict[str, Vector]:
    """The places of every part's ports, (n, 3)."""
    places: dict[str, list[Vector]] = {p.id: [] for p, _ in system.parts}
    for port in system.ports:
        places[port.part.id].append(port.pose.point)
    return {part: np.array(some) for part, some in places.items()}


def named(part: Part) -> str:
    return part.name or part.item.kind


def _between_parts(system: System, wanted: float) -> Iterator[Finding]:
    worst: dict[tuple[str, str], tuple[float, PartBody]] = {}
    if len(system.bodies) < 2:
        return
    beside = neighbours_of(system)
    middles, reaches = (np.array(each) for each in zip(*(body_reach(body) for body in system.bodies), strict=True))
    off = np.linalg.norm(middles[:, None] - middles[None], axis=2) - reaches[:, None] - reaches[None]
    for i, j in np.argwhere(np.triu(off <= wanted, 1)):
        a, b = system.bodies[i], system.bodies[j]
        pair = (a.part.id, b.part.id)
        if beside.meet(a, b):
            continue
        gap = float(clearance.swept_gap(a.segment, a.half_u, a.half_v, a.u, a.v, solid_of(b), wanted))
        if gap < min(wanted, worst.get(pair, (np.inf, a))[0]):
            worst[pair] = gap, a
    for (_, other), (gap, body) in worst.items():
        name = next(named(b.part) for b in system.bodies if b.part.id == other)
        yield finding_of(gap, wanted, name, point(body_reach(body)[0]), "", None, body.part.id, other)


@dataclass(frozen=True)
class Neighbours:
    """Parts that follow each other with hardly any pipe between, and the places (n, 3) of every part's ports."""

    pairs: frozenset[frozenset[str]]
    ports: Mapping[str, Vector]

    def meet(self, a: PartBody, b: PartBody) -> bool:
        """Whether two bodies are of one part, or of parts that follow each other or are joined."""
        if a.part.id == b.part.id or frozenset((a.part.id, b.part.id)) in self.pairs:
            return True
        between = self.ports[a.part.id][:, None] - self.ports[b.part.id][None]
        return float(np.linalg.norm(between, axis=2).min()) < MEETS_MM


def neighbours_of(system: System) -> Neighbours:
    """Return the parts of a system that meet on purpose."""
    return Neighbours(frozenset(_neighbours(system)), _port_places(system))


def _neighbours(system: System) -> set[frozenset[str]]:
    """Parts that follow each other on a run with hardly any pipe between."""
    out = set()
    for run in system.runs:
        start, aim = run.run.start, run.run.aim
        last, since = (start.partition(".")[0] if isinstance(start, str) else ""), 0.0
        for piece in run.pieces:
            if isinstance(piece.piece, InLine):
                if since < 2.5 * run.run.tube.od_mm:
                    out.add(frozenset((last, piece.piece.part)))
                last, since = piece.piece.part, 0.0
            else:
                since += piece.length_mm
        if aim and since < 2.5 * run.run.tube.od_mm:
            out.add(frozenset((last, aim.partition(".")[0])))
    return out


def solid_of(body: PartBody) -> Vector:
    """A part's body as a row of the solids' kernel, (WIDTH,): a can as a cylinder, anything else as a prism whose
    rounded corners are four flats each, at most 2 % of the corner too big and never too small.
    """
    r = body.radius_mm
    if body.half_u < 1e-9 and body.half_v < 1e-9:
        return cylinder_row(body.start, body.end, r)
    turns = np.radians([11.25 + 22.5 * k for k in range(16)])
    around = np.column_stack([np.cos(turns), np.sin(turns)]) * (r / np.cos(np.radians(11.25)))
    corners = around + np.sign(around) * [body.half_u, body.half_v]
    return prism_row(body.middle, np.array([body.u, body.v, body.flow]), body.length_mm / 2, corners)
