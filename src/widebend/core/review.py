"""Runs every check on a design and returns findings, worst first.

A pure function of the design (its survey inside): same in, same findings out. A finding is data: a code, a place,
figures. `words.say` puts it in the trade's words.

    touches    a body is inside a thing, or nearer than the tape's doubt            rank 0
    inside     the run starts inside a thing                                        rank 0
    misses     a run's end is not on its aim                                        rank 1
    tight      the gap is less than wanted                                          rank 2
    short      a straight is shorter than the shortest the shop can make            rank 3
    radius     a bend's radius is not one the job may use                           rank 3
    open       a port leads nowhere                                                 rank 3
    step       a pipe meets a port of another diameter, with no reducer             rank 3
    no-start, no-aim, no-low-line, pending, no-mesh, shut, low-stock                rank 4: said, not wrong
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from . import clearance
from .bodies import System, system_of
from .frame import Vector
from .gaps import distances
from .gas_path import open_ports, steps
from .mesh import recall
from .moving import Movers, Position, movers, system_positions
from .nearest import MEETS_MM, Gap, nearest
from .obstacles import VIEWS, Obstacle, View, obstacles, opened
from .records import Bend, Design, InLine, Leg, MeshShape, Mitre
from .route import LaidRun, spaced

CLOSES_MM, CLOSES_DEG = 0.01, 0.01  # an end this near is on its aim: a hundredth of what a tape shows
RANK = {"touches": 0, "inside": 0, "misses": 1, "tight": 2, "own": 2, "short": 3, "radius": 3, "open": 3, "step": 3}


@dataclass(frozen=True)
class Finding:
    """One thing a fabricator must know. Lengths mm, angles deg; fields that do not apply are None or empty."""

    code: str
    run: str = ""
    piece: int | None = None
    part: str = ""
    thing: str = ""
    thing_name: str = ""
    state: str = ""
    gap_mm: float | None = None
    needed_mm: float | None = None
    plus_minus_mm: float = 0.0
    at: tuple[float, float, float] | None = None
    miss_mm: float | None = None
    miss_deg: float | None = None
    detail: str = ""
    checked: bool = True
    position: str = ""

    @property
    def margin_mm(self) -> float | None:
        """Gap less needed less doubt; negative is a finding."""
        if self.gap_mm is None or self.needed_mm is None:
            return None
        return self.gap_mm - self.needed_mm - self.plus_minus_mm

    @property
    def rank(self) -> tuple[float, float]:
        margin = self.margin_mm
        worst = margin if margin is not None else -(self.miss_mm or 0.0)
        return (RANK.get(self.code, 4), worst)

    @property
    def spoils(self) -> bool:
        """Whether the design cannot be built as it stands."""
        return self.code in ("touches", "inside", "misses")


@dataclass(frozen=True)
class Review:
    """All findings, worst first, and every gap near enough to matter."""

    system: System
    obstacles: tuple[Obstacle, ...]
    gaps: tuple[Gap, ...]
    findings: tuple[Finding, ...]
    moves: Movers = field(default_factory=lambda: Movers({}, {}, has_flex=False))
    positions: Mapping[str, tuple[Position, ...]] = field(default_factory=dict)

    @property
    def worst_gap(self) -> Gap | None:
        return min(self.gaps, key=lambda g: g.margin_mm, default=None)

    def of_piece(self, run: str, piece: int) -> list[Finding]:
        return [f for f in self.findings if f.run == run and f.piece == piece]


def review(design: Design, view: View = "coming") -> Review:
    """Check a whole design, with the things that a view reckons with."""
    system = system_of(design)
    around = obstacles(design.survey, design.settings.rules, view)
    moves, positions = movers(design, system), system_positions(design, system)
    gaps = tuple(nearest(system, around, moves, positions))
    findings = [f for gap in gaps if (f := _gap_finding(gap))]
    findings += _inside(system, around)
    findings += [f for run in system.runs for f in _own_findings(design, run)]
    findings += _between_own_tubes(design, system)
    findings += _gas(design, system)
    findings += _unset(design, system, view)
    findings.sort(key=lambda f: f.rank)
    return Review(system, tuple(around), gaps, tuple(findings), moves, positions)


def _gap_finding(gap: Gap) -> Finding | None:
    if gap.margin_mm >= -1e-6:
        return None
    code = "touches" if gap.gap_mm - gap.obstacle.plus_minus_mm < 0 else "tight"
    if gap.together and gap.gap_mm > -MEETS_MM - gap.obstacle.plus_minus_mm:
        code = "together"
    thing = gap.obstacle.thing
    return Finding(
        code, gap.run, gap.piece, gap.part, thing.id, thing.name, gap.obstacle.state, gap.gap_mm,
        gap.obstacle.needed_mm, gap.obstacle.plus_minus_mm, _point(gap.at), position=gap.position,
    )  # fmt: skip


def _point(p: Vector) -> tuple[float, float, float]:
    return float(p[0]), float(p[1]), float(p[2])


def _inside(system: System, around: list[Obstacle]) -> Iterator[Finding]:
    """A start that lies inside a thing makes every answer fail: say so by name."""
    for run in system.runs:
        for obstacle in around:
            if not obstacle.is_low_line and distances(run.start.point[None], obstacle)[0] < 0:
                yield Finding("inside", run.run.id, thing=obstacle.thing.id, thing_name=obstacle.thing.name,
                              state=obstacle.state, at=_point(run.start.point))  # fmt: skip
                break


def _own_findings(design: Design, run: LaidRun) -> Iterator[Finding]:
    settings = design.settings
    if run.aim and (run.miss_mm > CLOSES_MM or run.miss_deg > CLOSES_DEG):
        at = _point(run.end.point)
        yield Finding("misses", run.run.id, miss_mm=run.miss_mm, miss_deg=run.miss_deg, at=at)
    between_bends = False
    for piece in run.pieces:
        p = piece.piece
        if isinstance(p, Leg) and between_bends and p.length_mm < settings.shortest_straight_mm - 1e-6:
            yield Finding("short", run.run.id, piece.index, gap_mm=float(p.length_mm),
                          needed_mm=float(settings.shortest_straight_mm), at=_point(piece.middle))  # fmt: skip
        if isinstance(p, Bend) and not any(abs(p.clr_mm - c) < 0.01 for c in settings.clr_mm):
            yield Finding("radius", run.run.id, piece.index, at=_point(piece.middle), detail=f"{p.clr_mm:g}")
        between_bends = isinstance(p, Bend | Mitre) or (between_bends and isinstance(p, InLine))


def _between_own_tubes(design: Design, system: System) -> Iterator[Finding]:
    """Pipe against pipe: pieces of the system that are not neighbours, by points along both centre lines."""
    wanted = float(design.settings.rules.own_gap_mm)
    sampled = [(run, *_sampled(run)) for run in system.runs]
    for i, (run, points, owner, s) in enumerate(sampled):
        for other, points2, owner2, s2 in sampled[i:]:
            if not len(points) or not len(points2) or (other is not run and _share_a_part(run, other)):
                continue
            reach = float(run.run.tube.od_mm + other.run.tube.od_mm) / 2
            # along one pipe only places well apart along it can clash
            least_apart = 2.5 * run.run.tube.od_mm + wanted if other is run else -1.0
            distance, a, b = clearance.nearest_pair(points, points2, s, s2, least_apart)
            gap = distance - reach
            if gap < wanted:
                yield Finding("touches" if gap < 0 else "own", run.run.id, int(owner[a]), thing=other.run.id,
                              thing_name=f"its own pipe at piece {int(owner2[b]) + 1}", gap_mm=gap,
                              needed_mm=wanted, at=_point(points[a]))  # fmt: skip


def _share_a_part(a: LaidRun, b: LaidRun) -> bool:
    def ends(run: LaidRun) -> set[str]:
        return {str(e).partition(".")[0] for e in (run.run.start, run.run.aim) if isinstance(e, str)}

    return bool(ends(a) & ends(b))


def _sampled(run: LaidRun, spacing: float = 8.0) -> tuple[Vector, Vector, Vector]:
    """Points along a run (n, 3), the piece each is on (n,) and its distance along (n,)."""
    points, owner, along, s = [np.empty((0, 3))], [np.empty(0, dtype=int)], [np.empty(0)], 0.0
    for piece in run.pieces:
        if not isinstance(piece.piece, InLine):
            here = spaced(piece, spacing)
            points.append(here)
            owner.append(np.full(len(here), piece.index))
            along.append(s + np.linspace(0.0, piece.length_mm, len(here)))
        s += piece.length_mm
    return np.concatenate(points), np.concatenate(owner), np.concatenate(along)


def _gas(design: Design, system: System) -> Iterator[Finding]:
    """Ports that lead nowhere, and diameters that do not meet."""
    for port in open_ports(design, system):
        yield Finding("open", part=port.part.id, detail=port.port.id, at=_point(port.pose.point))
    for step in steps(design, system):
        detail = f"{step.port.port.id} {step.tube_mm:g} {step.port_mm:g}"
        yield Finding("step", step.run, part=step.port.part.id, detail=detail, at=_point(step.port.pose.point))


def _unset(design: Design, system: System, view: View) -> Iterator[Finding]:
    """What is not there yet: said, because a clean review of nothing means nothing."""
    for run in design.runs:
        laid = next((r for r in system.runs if r.run.id == run.id), None)
        if laid is None:
            yield Finding("no-start", run.id)
        elif run.aim and laid.aim is None:
            yield Finding("no-aim", run.id)
    if design.survey.low_line is None:
        yield Finding("no-low-line")
    for thing in design.survey.things:
        if thing.state != "as found":
            here = thing.state in VIEWS[view]
            yield Finding("pending", thing=thing.id, thing_name=thing.name, detail=thing.state, checked=here)
        if isinstance(thing.shape, MeshShape) and recall(thing.shape.sha256) is None:
            yield Finding("no-mesh", thing=thing.id, thing_name=thing.name)
        _, why_shut = opened(thing, design.survey)
        if why_shut:
            yield Finding("shut", thing=thing.id, thing_name=thing.name, detail=why_shut)
