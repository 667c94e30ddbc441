"""One question about a run in its design: where from and to, with what, among what, moved how; and answers checked."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..closing import Answer, BendOptions
from ..cutting import price_of
from ..editing import last_tube, sliced
from ..errors import EditError
from ..geometry import WIDTH, bar_points, capsule_row, least_between
from ..heat import obstacles_of
from ..laying import (
    LaidPiece,
    LaidRun,
    Obstacle,
    Position,
    System,
    behind,
    lay_pieces,
    spaced,
    system_of,
    tube_segments,
)
from ..pathfinding import Task, task_of
from ..records import Bend, Design, InLine, Piece, Run, Tube
from ..review import (
    BURIED_SIDES,
    CLOSES_DEG,
    CLOSES_MM,
    Around,
    against,
    bare,
    both,
    pipe_of,
    segments_apart,
    shut_sides,
    solid_of,
    worst_over,
)
from ..space import Pose, Vector
from .names import how_it_goes, shut, sides_of
from .proposals import ITSELF, Proposal, as_reviewed, makeable, named, ready
from .remedy import ways_of
from .wishes import Wish, span_of, vias_of

EXTRA_MM = 0.3  # over what was lacking in another position
BAR_MM = 20.0  # a bend as bars of this length lies 0.5 mm off its arc at CLR 95: less than is kept besides


@dataclass(frozen=True)
class RouteQuestion:
    """A wish in its design: pieces [first, last) of the run are to be found again, from `start` to `aim`.

    `others` are the other runs' segments (n, 14), but for what is near a part that both runs touch; `own` those and
    what else of the system is in the way, as solids. `more` (one for each thing in `around`) is kept besides what is
    needed [mm], `own_more` besides what is wanted from the system itself; `pie_clr` is the radius of bends that may be
    made of slices, 0 for none. `pulse`: see `Task`.
    """

    design: Design
    run: Run
    laid: LaidRun
    wish: Wish
    first: int
    last: int
    start: Pose
    aim: Pose
    tube: Tube
    ways: BendOptions
    mover: str
    positions: tuple[Position, ...]
    around: tuple[Obstacle, ...]
    own: Vector
    others: tuple[Vector, ...]
    vias: Vector
    more: Vector
    own_more: float = 0.0
    pie_clr: float = 0.0
    pulse: Callable[[], None] = lambda: None

    def task(self) -> Task:
        """The search's task."""
        things = self.things
        clrs = tuple(self.ways.clr_mm) + ((self.pie_clr,) if self.pie_clr else ())
        ways = replace(self.ways, clr_mm=clrs)
        task = task_of(self.start, self.aim, float(self.tube.od_mm), ways, things, vias=self.vias)
        radius = float(self.tube.od_mm) / 2
        own_gap = float(self.design.settings.rules.own_gap_mm) + self.own_more
        task = _with_solids(task, self.own, radius + own_gap)
        task = _with_solids(task, shut(self.wish.avoid, self.around, self.design.survey.windows), radius)
        return replace(task, pulse=self.pulse)

    @property
    def things(self) -> Around:
        """Things that it is kept clear of, with what is kept; what goes with it may be met, not gone through."""
        split = against(self.around, self.mover)
        things = both(split.apart, bare(split.together))
        more = dict(zip((id(o) for o in self.around), self.more, strict=True))
        return replace(things, needed=things.needed + np.array([more[id(o)] for o in things.obstacles]))

    @property
    def until(self) -> int | None:
        """The first piece behind that stays, None where it goes to the aim."""
        return self.last if self.last < len(self.run.pieces) else None

    def proposal(self, answer: Answer) -> Proposal:
        """An answer laid and checked over every position."""
        return self.checked(answer, self.pieces(answer))

    def reviewed(self, proposal: Proposal) -> Proposal:
        """A proposal that keeps its gaps, held against the review of the design that it makes."""
        if not proposal.keeps_gaps:
            return proposal
        return as_reviewed(self.design, self.run.id, self.first, self.until, proposal)

    def further_off(self, proposals: Sequence[Proposal]) -> RouteQuestion:
        """The same with what the best of some proposals lacks of each thing kept besides, and a little."""
        best = max(proposals, key=lambda p: p.worst_margin_mm)
        lacks = dict(best.lacks)
        more = [lacks[o.thing.name] + EXTRA_MM if o.thing.name in lacks else 0.0 for o in self.around]
        own = max(0.0, -best.own_spare_mm)
        return replace(self, more=self.more + more, own_more=self.own_more + (own + EXTRA_MM if own else 0.0))

    def pieces(self, answer: Answer) -> tuple[Piece, ...]:
        """An answer's pieces; bends of the slices' radius are made of slices."""
        turn = self.design.settings.rules.pie_turn_deg
        pieces = [
            sliced(p, turn) if self.pie_clr and isinstance(p, Bend) and p.clr_mm == self.pie_clr else p
            for p in answer.pieces()
        ]
        return makeable(pieces, self.design.settings.rules)

    def checked(self, answer: Answer, pieces: Sequence[Piece]) -> Proposal:
        """Pieces laid from the start and checked over every position."""
        here = lay_pieces(self.start, pieces, self.design, self.tube)
        rows = tube_segments(LaidRun(self.run, self.start, here, None)).rows
        worst = worst_over(rows, self.mover, self.around, self.positions)
        name, state = named(worst)
        margin, lacks = worst.margin_mm, self._lacks(rows) if worst.margin_mm < 0.0 else ()
        sides = sides_of(here, self.around, self.design.survey.windows)
        own = self._own_spare(here, rows)
        if own < min(margin, 0.0):
            margin, name, state, lacks = own, ITSELF, "", ((ITSELF, -own), *lacks)
        return Proposal(
            answer,
            tuple(pieces),
            here,
            margin,
            name,
            state,
            how_it_goes(sides),
            sides,
            self._buried(here),
            price_of(here, self.design.settings.prices),
            lacks,
            own,
        )

    def _own_spare(self, here: Sequence[LaidPiece], rows: Vector) -> float:
        """Return the margin of found pipe over the wanted gap from its own run and from the others, 0 at most [mm]."""
        wanted = float(self.design.settings.rules.own_gap_mm)
        before, after = self.laid.pieces[: self.first], self.laid.pieces[self.last :]
        own = own_spare([*before, *here, *after], wanted, range(self.first, self.first + len(here)))
        none = np.zeros((0, 4))
        for other in self.others:
            gap, *_ = least_between(rows, np.zeros(len(rows)), other, np.zeros(len(other)), none, -1.0, wanted)
            own = min(own, float(gap) - wanted)
        return own

    def _buried(self, pieces: Sequence[LaidPiece]) -> int:
        """How many joints a hand and a torch reach from less than half of all sides."""
        room, things = float(self.design.settings.rules.torch_room_mm), against(self.around, self.mover).apart
        if not things.obstacles or room <= 0:
            return 0
        ends = [self.start, *(p.outlet for p in pieces)]
        return sum(shut_sides(at, float(self.tube.od_mm) / 2, room, things)[0] > BURIED_SIDES for at in ends)

    def _lacks(self, rows: Vector) -> tuple[tuple[str, float], ...]:
        """The things that pipe comes too near to anywhere on its way, and by how much [mm], worst first."""
        by_name: dict[str, list[Obstacle]] = {}
        for obstacle in self.around:
            by_name.setdefault(obstacle.thing.name, []).append(obstacle)
        shorts = [
            (name, -worst_over(rows, self.mover, some, self.positions).margin_mm) for name, some in by_name.items()
        ]
        return tuple(sorted(((name, short) for name, short in shorts if short > 1e-6), key=lambda item: -item[1]))


def asked_of(design: Design, run_id: str, wish: Wish) -> RouteQuestion:
    """The question. Raises EditError with nothing to start or aim for, or nothing to find."""
    run, laid = ready(design, run_id)
    assert laid.aim is not None  # ready saw to it
    first, last = span_of(run, wish)
    start = laid.pieces[first - 1].outlet if first else laid.start
    aim = laid.pieces[last].inlet if last < len(run.pieces) else laid.aim
    if first == last == len(run.pieces) and first and laid.miss_mm < CLOSES_MM and laid.miss_deg < CLOSES_DEG:
        raise EditError("the end is on its aim already: choose the piece from which to find another way")
    if first == last < len(run.pieces):
        raise EditError(f"piece {first + 1} stays, so nothing is left to find there: unlock it, or start elsewhere")
    system = system_of(design)
    tube = last_tube(run, first)
    mover, positions = behind(design, system, laid, first, tube)
    around = tuple(obstacles_of(design))
    others = _others(design, system, run)
    return RouteQuestion(
        design,
        run,
        laid,
        wish,
        first,
        last,
        start,
        aim,
        tube,
        ways_of(design.settings),
        mover,
        positions,
        around,
        _own_solids(system, laid, others, (first, last)),
        others,
        vias_of(design, wish.through, float(tube.od_mm)),
        np.zeros(len(around)),
    )


def own_spare(pieces: Sequence[LaidPiece], gap_mm: float, found: range | None = None) -> float:
    """Return the margin between a run's own pieces over `gap_mm` [mm], 0 at most; what is near along the pipe is one.

    With `found` only what those pieces keep from all: what was there before is not this one's fault.
    """
    if not pieces:
        return 0.0
    run = Run(id="own", start="own.out", tube=pieces[0].tube)
    numbered = tuple(replace(p, index=k) for k, p in enumerate(pieces))
    pipe = pipe_of(LaidRun(run, pieces[0].inlet, numbered, None), gap_mm)
    some = np.isin(pipe.piece, list(found)) if found is not None else np.ones(len(pipe.rows), dtype=bool)
    gap, *_ = least_between(
        pipe.rows[some], pipe.starts[some], pipe.rows, pipe.starts, np.zeros((0, 4)), pipe.near_mm, gap_mm
    )
    return min(0.0, float(gap) - gap_mm)


# --- the system itself is in the way too ------------------------------------------------------------------------------


def _others(design: Design, system: System, run: Run) -> tuple[Vector, ...]:
    """The other runs' segments, less what is near a part that this run touches too, or where one leaves the other."""
    wanted = float(design.settings.rules.own_gap_mm)
    pipes = [pipe_of(laid, wanted) for laid in system.runs]
    this = next(p for p in pipes if p.run.run.id == run.id)
    return tuple(segments_apart(pipe, this, system, wanted) for pipe in pipes if pipe is not this)


def _own_solids(system: System, laid: LaidRun, others: tuple[Vector, ...], span: tuple[int, int]) -> Vector:
    """Other runs' pipe, hardware that is not joined here, and this run's own pieces that stay, not next to what is
    found, as solids (n, WIDTH).
    """
    run = laid.run
    joined = {str(e).partition(".")[0] for e in (run.start, run.aim) if isinstance(e, str)}
    joined |= {p.part for p in run.pieces if isinstance(p, InLine)}
    rows = [solid_of(body) for body in system.bodies if body.part.id not in joined]
    rows += [bar for other in others for row in other for bar in _bars(row)]
    for piece in laid.pieces:
        if not isinstance(piece.piece, InLine) and not span[0] - 2 <= piece.index < span[1] + 2:
            rows += [
                capsule_row(a, b, float(piece.tube.od_mm) / 2) for a, b in itertools.pairwise(spaced(piece, BAR_MM))
            ]
    return np.array(rows).reshape(-1, WIDTH)


def _bars(row: Vector) -> list[Vector]:
    """A segment as round-ended bars; a heel as a ball of its size."""
    points, radius = bar_points(row, BAR_MM)
    return [capsule_row(a, b, radius) for a, b in itertools.pairwise(points)]


def _with_solids(task: Task, rows: Vector, keep: float) -> Task:
    """The task with solids that have no thing."""
    if not len(rows):
        return task
    n = len(task.rows)
    kept = np.concatenate([task.keep[:n], np.full(len(rows), keep), task.keep[n:]])
    return replace(task, rows=np.concatenate([task.rows, rows]), keep=kept)
