"""The system against itself: pipe against pipe, pipe against hardware, hardware against hardware, all at rest.

Pieces next to each other along the gas meet on purpose and are passed over, as is pipe near a port it is joined to.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from . import clearance
from .bodies import MEETS_MM, PartBody, System, body_reach
from .findings import Finding, point
from .frame import Vector
from .records import Design, InLine, Part, Tap
from .route import LaidRun, spaced
from .solids import CYLINDER, PRISM, WIDTH

SPACING_MM = 8.0


def own_findings(design: Design, system: System) -> Iterator[Finding]:
    """Every pair of pipes, and of pipe and hardware, that is nearer than the shop wants."""
    wanted = float(design.settings.rules.own_gap_mm)
    sampled = [(run, *_sampled(run)) for run in system.runs]
    yield from _between_tubes(sampled, wanted)
    yield from _tubes_and_parts(system, sampled, wanted)
    yield from _between_parts(system, wanted)


Sampled = tuple[LaidRun, Vector, Vector, Vector]


def _between_tubes(sampled: list[Sampled], wanted: float) -> Iterator[Finding]:
    for i, (run, points, owner, s) in enumerate(sampled):
        for other, points2, owner2, s2 in sampled[i:]:
            if not len(points) or not len(points2) or (other is not run and _share_a_part(run, other)):
                continue
            reach = float(run.run.tube.od_mm + other.run.tube.od_mm) / 2
            if _apart(points, points2) > reach + wanted:
                continue
            # along one pipe only places well apart along it can clash
            least_apart = 2.5 * run.run.tube.od_mm + wanted if other is run else -1.0
            distance, a, b = clearance.nearest_pair(points, points2, s, s2, least_apart)
            if distance - reach < wanted:
                whose = "its own pipe" if other is run else f"{other.run.name or other.run.id}"
                yield _finding(distance - reach, wanted, f"{whose} at piece {int(owner2[b]) + 1}", point(points[a]),
                               run.run.id, int(owner[a]), "", other.run.id)  # fmt: skip


def _apart(a: Vector, b: Vector) -> float:
    """How far apart the boxes round two clouds of points are, along one axis: never more than they are."""
    gap = np.maximum(a.min(axis=0) - b.max(axis=0), b.min(axis=0) - a.max(axis=0))
    return float(gap.max())


def _finding(
    gap: float, wanted: float, name: str, at: tuple[float, float, float], run: str, piece: int | None, part: str,
    thing: str,
) -> Finding:  # fmt: skip
    return Finding("touches" if gap < 0 else "own", run, piece, part, thing, name, gap_mm=gap, needed_mm=wanted, at=at)


def _share_a_part(a: LaidRun, b: LaidRun) -> bool:
    """Whether two runs meet: at a part, or one is a branch of the other."""
    if any(isinstance(x.run.start, Tap) and x.run.start.run == y.run.id for x, y in ((a, b), (b, a))):
        return True
    return bool(_joined_parts(a) & _joined_parts(b))


def _joined_parts(run: LaidRun) -> set[str]:
    return {str(e).partition(".")[0] for e in (run.run.start, run.run.aim) if isinstance(e, str)}


def _sampled(run: LaidRun) -> tuple[Vector, Vector, Vector]:
    """Points along a run (n, 3), the piece each is on (n,) and its distance along (n,)."""
    points, owner, along, s = [np.empty((0, 3))], [np.empty(0, dtype=int)], [np.empty(0)], 0.0
    for piece in run.pieces:
        if not isinstance(piece.piece, InLine):
            here = spaced(piece, SPACING_MM)
            points.append(here)
            owner.append(np.full(len(here), piece.index))
            along.append(s + np.linspace(0.0, piece.length_mm, len(here)))
        s += piece.length_mm
    return np.concatenate(points), np.concatenate(owner), np.concatenate(along)


def _tubes_and_parts(system: System, sampled: list[Sampled], wanted: float) -> Iterator[Finding]:
    """Pipe against the bodies of parts; within two and a half diameters of a port it is joined to it is passed over."""
    if not system.bodies:
        return
    rows = np.array([solid_of(body) for body in system.bodies])
    places = _port_places(system)
    for run, points, owner, _ in sampled:
        if not len(points):
            continue
        radius = float(run.run.tube.od_mm) / 2
        gaps = clearance.point_distances(points, rows) - radius
        joined = _joined_parts(run) | {p.piece.part for p in run.pieces if isinstance(p.piece, InLine)}
        worst: dict[str, tuple[float, int, PartBody]] = {}
        for j, body in enumerate(system.bodies):
            column = gaps[:, j].copy()
            if body.part.id in joined:
                off = [np.linalg.norm(points - port, axis=1) for port in places[body.part.id]]
                column[np.min(off, axis=0) < 5.0 * radius + wanted] = np.inf
            k = int(column.argmin())
            if column[k] < min(wanted, worst.get(body.part.id, (np.inf, 0, body))[0]):
                worst[body.part.id] = float(column[k]), k, body
        for gap, k, body in worst.values():
            yield _finding(gap, wanted, _named(body.part), point(points[k]), run.run.id, int(owner[k]), "",
                           body.part.id)  # fmt: skip


def _port_places(system: System) -> dict[str, Vector]:
    """The places of every part's ports, (n, 3)."""
    return {p.id: np.array([q.pose.point for q in system.ports if q.part.id == p.id]) for p, _ in system.parts}


def _named(part: Part) -> str:
    return part.name or part.item.kind


def _between_parts(system: System, wanted: float) -> Iterator[Finding]:
    ports = _port_places(system)
    neighbours = _neighbours(system)
    worst: dict[tuple[str, str], tuple[float, PartBody]] = {}
    if len(system.bodies) < 2:
        return
    middles, reaches = (np.array(each) for each in zip(*(body_reach(body) for body in system.bodies), strict=True))
    off = np.linalg.norm(middles[:, None] - middles[None], axis=2) - reaches[:, None] - reaches[None]
    for i, j in np.argwhere(np.triu(off <= wanted, 1)):
        a, b = system.bodies[i], system.bodies[j]
        pair = (a.part.id, b.part.id)
        if a.part.id == b.part.id or frozenset(pair) in neighbours:
            continue
        between = ports[a.part.id][:, None] - ports[b.part.id][None]
        if float(np.linalg.norm(between, axis=2).min()) < MEETS_MM:
            continue
        gap = float(clearance.swept_gap(a.segment, a.half_u, a.half_v, a.u, a.v, solid_of(b), wanted))
        if gap < min(wanted, worst.get(pair, (np.inf, a))[0]):
            worst[pair] = gap, a
    for (_, other), (gap, body) in worst.items():
        name = next(_named(b.part) for b in system.bodies if b.part.id == other)
        yield _finding(gap, wanted, name, point(body_reach(body)[0]), "", None, body.part.id, other)


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
    row, seg = np.zeros(WIDTH), body.segment
    r, long = float(seg[2]), float(seg[1])
    if body.half_u < 1e-9 and body.half_v < 1e-9:
        row[0], row[1:4], row[4:7], row[7] = CYLINDER, seg[3:6], seg[3:6] + seg[6:9] * long, r
        return row
    turns = np.radians([11.25 + 22.5 * k for k in range(16)])
    around = np.column_stack([np.cos(turns), np.sin(turns)]) * (r / np.cos(np.radians(11.25)))
    corners = around + np.sign(around) * [body.half_u, body.half_v]
    row[0], row[1:4], row[4], row[5] = PRISM, seg[3:6] + seg[6:9] * long / 2, long / 2, 16
    row[7:16] = np.array([body.u, body.v, seg[6:9]]).ravel()
    row[16:48] = corners.ravel()
    return row
