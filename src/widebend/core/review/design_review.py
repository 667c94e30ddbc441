"""Runs every check on a design and returns findings, worst first.

A pure function of the design (its survey inside): same in, same findings out. A finding is data: a code, a place,
figures. `words.say` puts it in the trade's words.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from ..errors import InputError
from ..hanging import goes_of, hung_states
from ..heat import obstacles_of, wanted_rises
from ..laying import (
    HUNG,
    VIEWS,
    LaidRun,
    Movers,
    Obstacle,
    Position,
    System,
    View,
    engine_positions,
    fitted_of,
    hung_movement,
    movement,
    open_ports,
    opened,
    positions,
    steps,
    system_of,
    tube_steps,
)
from ..records import Bend, Design, Group, InLine, MeshShape, Mitre, Straight
from .emissions import use_findings
from .findings import Finding, point
from .gaps import packed, point_gaps
from .making import making_findings
from .metals import metal_findings
from .nearest import MEETS_MM, Gap, nearest
from .own_gaps import own_findings, own_pipes
from .own_travel import own_pair, own_travel_findings
from .placement import placing_findings
from .section import section_findings

CLOSES_MM, CLOSES_DEG = 0.05, 0.05  # an end this near is on its aim: a page shows it as 0


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
    def obstacles_between(self) -> tuple[Obstacle, ...]:
        """Things where something comes nearest to them between two of their positions."""
        known = {(o.thing.id, o.state) for o in self.obstacles}
        return tuple(g.obstacle for g in self.gaps if (g.obstacle.thing.id, g.obstacle.state) not in known)

    def poses_between(self, mover: str) -> tuple[Position, ...]:
        """Where what goes with a mover comes nearest to something between two of its positions."""
        known = {place.name for place in self.positions.get(mover, ())}
        return tuple(g.pose for g in self.gaps if self.mover_of(g) == mover and g.position not in known)

    def mover_of(self, about: Gap | Finding) -> str:
        """Return the mover of the piece or part that a gap or a finding is about."""
        if about.part or about.piece is None:
            return self.moves.parts.get(about.part, HUNG)
        return self.moves.pieces.get((about.run, about.piece), HUNG)

    def of_piece(self, run: str, piece: int) -> list[Finding]:
        return [f for f in self.findings if f.run == run and f.piece == piece]


def review(design: Design, view: View = "coming", laid: System | None = None) -> Review:
    """Check a whole design, with the things that a view reckons with; `laid` is the design as it lies, where that is
    known.
    """
    system = laid or system_of(design)
    around = obstacles_of(design, view, system)
    moves, positions = _movement(design, system)
    gaps = tuple(nearest(system, around, moves, positions))
    findings = [f for gap in gaps if (f := gap_finding(gap))]
    findings += _inside(system, around)
    findings += [f for run in system.runs for f in _run_findings(design, run)]
    pipes = own_pipes(design, system)
    at_rest = list(own_findings(design, system, pipes))
    on_the_way = list(own_travel_findings(design, system, moves, positions, pipes, at_rest))
    worse = {own_pair(f) for f in on_the_way}
    findings += [*(f for f in at_rest if own_pair(f) not in worse), *on_the_way]
    findings += _gas(design, system)
    findings += placing_findings(design, system, around, moves)
    findings += metal_findings(design, system)
    findings += use_findings(design, system)
    findings += section_findings(design, system, around)
    findings += making_findings(design, system, {(f.run, f.piece) for f in findings if f.code == "short"})
    findings += _unset(design, system, view)
    findings.sort(key=lambda f: f.rank)
    return Review(system, tuple(around), gaps, tuple(findings), moves, positions)


def _movement(design: Design, system: System) -> tuple[Movers, dict[str, tuple[Position, ...]]]:
    """How all of it moves: what hangs as its hangers let it, by the usual swing where it has none that hold it."""
    moves, positions = movement(design, system, wanted_rises(design, system))
    if not design.hangers:
        return moves, positions
    try:
        states = hung_states(design, system, moves, engine_positions(design))
    except InputError:  # held by nothing: said on the Hang step
        return moves, positions
    return hung_movement(moves, positions, goes_of(states, moves, system))


def gap_finding(gap: Gap) -> Finding | None:
    """Return the finding of a gap that is too small; None for one that is large enough."""
    if gap.margin_mm >= -1e-6:
        return None
    code = "touches" if gap.gap_mm - gap.obstacle.plus_minus_mm < 0 else "tight"
    if gap.together and gap.gap_mm > -MEETS_MM - gap.obstacle.plus_minus_mm:
        code = "together"
    thing = gap.obstacle.thing
    return Finding(
        code,
        gap.run,
        gap.piece,
        gap.part,
        thing.id,
        thing.name,
        gap.obstacle.state,
        gap.gap_mm,
        gap.obstacle.needed_mm,
        gap.obstacle.plus_minus_mm,
        point(gap.at),
        position=gap.position,
    )


def _inside(system: System, around: list[Obstacle]) -> Iterator[Finding]:
    """A start that lies inside a thing makes every answer fail: say so by name."""
    things = packed([o for o in around if not o.is_low_line])
    if not system.runs or not things.obstacles:
        return
    depths = point_gaps(np.array([run.start.point for run in system.runs]), things)
    for run, depth in zip(system.runs, depths, strict=True):
        inside = np.flatnonzero(depth < 0)
        if len(inside):
            obstacle = things.obstacles[inside[0]]
            yield Finding(
                "inside",
                run.run.id,
                thing=obstacle.thing.id,
                thing_name=obstacle.thing.name,
                state=obstacle.state,
                at=point(run.start.point),
            )


def closes(design: Design, run: LaidRun) -> bool:
    """Whether a run meets its aim; where some of it is on the vehicle, as nearly as a joint takes up."""
    if not run.aim:
        return True
    rules, on = design.settings.rules, bool(fitted_of(design, run.run.id))
    most_mm, most_deg = (float(rules.fit_mm), rules.fit_deg) if on else (CLOSES_MM, CLOSES_DEG)
    return run.miss_mm <= most_mm and run.miss_deg <= most_deg


def _run_findings(design: Design, run: LaidRun) -> Iterator[Finding]:
    settings = design.settings
    fitted = fitted_of(design, run.run.id)
    if not closes(design, run):
        at = point(run.end.point)
        yield Finding("misses", run.run.id, miss_mm=run.miss_mm, miss_deg=run.miss_deg, at=at)
    between_bends = False
    for piece in run.pieces:
        p = piece.piece
        if p.offset and math.hypot(*p.offset.shift_mm) > settings.rules.fit_mm:
            yield Finding(
                "apart", run.run.id, piece.index, miss_mm=math.hypot(*p.offset.shift_mm), at=point(piece.inlet.point)
            )
        if p.id in fitted:  # it is on: what the drawing board asks of it is past
            between_bends = isinstance(p, Bend | Mitre) or (between_bends and isinstance(p, InLine))
            continue
        if (
            isinstance(p, Straight)
            and between_bends
            and p.length_mm < settings.shortest_straight_mm - 1e-6
            and _bends_next(run, piece.index)
        ):
            yield Finding(
                "short",
                run.run.id,
                piece.index,
                gap_mm=float(p.length_mm),
                needed_mm=float(settings.shortest_straight_mm),
                at=point(piece.middle),
            )
        if isinstance(p, Bend) and not any(abs(p.clr_mm - c) < 0.01 for c in settings.clr_mm):
            yield Finding("radius", run.run.id, piece.index, at=point(piece.middle), figures=(float(p.clr_mm),))
        between_bends = isinstance(p, Bend | Mitre) or (between_bends and isinstance(p, InLine))


def _bends_next(run: LaidRun, index: int) -> bool:
    """Whether a bend follows a piece, or hardware with a bend behind it: a straight onto a flange may be short."""
    behind = (p.piece for p in run.pieces[index + 1 :] if not isinstance(p.piece, InLine))
    return isinstance(next(behind, None), Bend | Mitre)


def _gas(design: Design, system: System) -> Iterator[Finding]:
    """Ports that lead nowhere, and diameters that do not meet."""
    for port in open_ports(design, system):
        yield Finding("open", part=port.part.id, names=(port.port.id,), at=point(port.pose.point))
    for step in steps(design, system):
        yield Finding(
            "step",
            step.run,
            part=step.port.part.id,
            names=(step.port.port.id,),
            figures=(step.port_mm, step.tube_mm),
            at=point(step.port.pose.point),
        )
    for run in system.runs:
        for index, before, after in tube_steps(run):
            at = point(run.pieces[index].inlet.point)
            yield Finding("step", run.run.id, index, figures=(after, before), at=at)


def _stands_still(group: Group, design: Design) -> bool:
    """Whether a group has no movement entered: every position of it is one place."""
    return len({(state.shift, state.turn) for state in positions(group, design.survey)}) < 2


def _unset(design: Design, system: System, view: View) -> Iterator[Finding]:
    """Yield findings of what is not there yet: said, because a clean review of nothing means nothing."""
    for run in design.runs:
        laid = next((r for r in system.runs if r.run.id == run.id), None)
        if laid is None:
            yield Finding("no-start", run.id)
        elif run.aim and laid.aim is None:
            yield Finding("no-aim", run.id)
    if design.survey.low_line is None:
        yield Finding("no-low-line")
    for group in design.survey.groups:
        carried = [t for t in design.survey.things if t.moves_with == group.id]
        if carried and _stands_still(group, design):
            yield Finding("no-travel", thing_name=group.name or group.id, names=(carried[0].name,))
    for thing in design.survey.things:
        if thing.state != "as found":
            here = thing.state in VIEWS[view]
            yield Finding("pending", thing=thing.id, thing_name=thing.name, names=(thing.state,), checked=here)
        if isinstance(thing.shape, MeshShape) and design.survey.mesh(thing.shape.sha256) is None:
            yield Finding("no-mesh", thing=thing.id, thing_name=thing.name)
        _, why_shut = opened(thing, design.survey)
        if why_shut:
            yield Finding("shut", thing=thing.id, thing_name=thing.name, names=(why_shut,))
