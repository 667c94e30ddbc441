"""One question about a run in its design: where from and to, with what, among what, moved how; and answers checked."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from .bodies import System, system_of, tube_segments
from .closing import Answer, Ways
from .editing import last_tube
from .errors import EditError
from .frame import Pose, Vector
from .gaps import Around, tube_gaps
from .moving import Position, mover_behind, movers, system_positions
from .nearest import against, worst_over
from .obstacles import Obstacle, obstacles
from .own_gaps import solid_of
from .placement import BURIED_SIDES, shut_sides
from .pricing import price_of
from .proposals import Proposal, named, ready
from .records import Bend, Capsule, Design, InLine, Pie, Piece, Run, Tube
from .remedies import ways_of
from .review import CLOSES_DEG, CLOSES_MM
from .route import LaidPiece, LaidRun, lay_pieces, spaced
from .solids import solid_rows
from .units import Length
from .way_names import how_it_goes, shut, sides_of
from .way_task import Task, task_of
from .wishes import Wish, span_of, vias_of

ITSELF = "pipe itself"
OWN_STEP_MM = 12.0


@dataclass(frozen=True)
class Asked:
    """A wish in its design: pieces [first, last) of the run are to be found anew, from `start` to `aim`.

    `more` (one for each thing in `around`) is kept besides what is needed [mm]; `pie_clr` is the radius of bends that
    may be made of slices, 0 for none.
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
    ways: Ways
    mover: str
    positions: tuple[Position, ...]
    around: tuple[Obstacle, ...]
    own: Vector
    vias: Vector
    more: Vector
    pie_clr: float = 0.0

    def task(self) -> Task:
        """The search's task."""
        things = self.things
        clrs = tuple(self.ways.clr_mm) + ((self.pie_clr,) if self.pie_clr else ())
        ways = replace(self.ways, clr_mm=clrs)
        task = task_of(self.start, self.aim, float(self.tube.od_mm), ways, things, vias=self.vias)
        radius = float(self.tube.od_mm) / 2
        task = _with_solids(task, self.own, radius + float(self.design.settings.rules.own_gap_mm))
        return _with_solids(task, shut(self.wish.avoid, self.around, self.design.survey.windows), radius)

    @property
    def things(self) -> Around:
        """Things that it is kept clear of, with what is kept."""
        apart = against(self.around, self.mover).apart
        more = dict(zip((id(o) for o in self.around), self.more, strict=True))
        return replace(apart, needed=apart.needed + np.array([more[id(o)] for o in apart.obstacles]))

    @property
    def until(self) -> int | None:
        """The first piece behind that stays, None where it goes to the aim."""
        return self.last if self.last < len(self.run.pieces) else None

    def proposal(self, answer: Answer) -> Proposal:
        """An answer laid and checked over every position."""
        return self.checked(answer, self.pieces(answer))

    def pieces(self, answer: Answer) -> tuple[Piece, ...]:
        """An answer's pieces; bends of the slices' radius are made of slices."""
        turn = self.design.settings.rules.pie_turn_deg
        return tuple(
            _sliced(p, turn) if self.pie_clr and isinstance(p, Bend) and p.clr_mm == self.pie_clr else p
            for p in answer.pieces()
        )

    def checked(self, answer: Answer, pieces: Sequence[Piece]) -> Proposal:
        """Pieces laid from the start and checked over every position."""
        here = lay_pieces(self.start, pieces, self.design, self.tube)
        rows = tube_segments(LaidRun(self.run, self.start, here, None)).rows
        worst = worst_over(rows, self.mover, self.around, self.positions)
        name, state = named(worst)
        margin, lacks = worst.margin_mm, self._lacks(rows)
        sides = sides_of(here, self.around, self.design.survey.windows)
        own = own_spare(here, float(self.design.settings.rules.own_gap_mm))
        if own < min(margin, 0.0):
            margin, name, state, lacks = own, ITSELF, "", ((ITSELF, -own), *lacks)
        return Proposal(
            answer, tuple(pieces), here, margin, name, state, how_it_goes(sides), sides,
            self._buried(here), price_of(here, self.design.settings.prices), lacks,
        )  # fmt: skip

    def _buried(self, pieces: Sequence[LaidPiece]) -> int:
        """How many joints a hand and a torch reach from less than half of all sides."""
        room, things = float(self.design.settings.rules.torch_room_mm), against(self.around, self.mover).apart
        if not things.obstacles or room <= 0:
            return 0
        ends = [self.start, *(p.outlet for p in pieces)]
        return sum(shut_sides(at, float(self.tube.od_mm) / 2, room, things)[0] > BURIED_SIDES for at in ends)

    def _lacks(self, rows: Vector) -> tuple[tuple[str, float], ...]:
        """The things that pipe comes too near to in any position, and by how much [mm], worst first."""
        things = against(self.around, self.mover).apart
        if not len(rows) or not things.obstacles:
            return ()
        lacks: dict[str, float] = {}
        for position in self.positions:
            gaps, _ = tube_gaps(position.rows(rows), things, 0.0)
            for obstacle, short in zip(things.obstacles, things.needed - gaps.min(axis=1), strict=True):
                if short > 1e-6:
                    lacks[obstacle.thing.name] = max(lacks.get(obstacle.thing.name, 0.0), float(short))
        return tuple(sorted(lacks.items(), key=lambda item: -item[1]))


def asked_of(design: Design, run_id: str, wish: Wish) -> Asked:
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
    mover = mover_behind(design, movers(design, system), run.id, first)
    tube = last_tube(run, first)
    around = tuple(obstacles(design.survey, design.settings.rules))
    return Asked(design, run, laid, wish, first, last, start, aim, tube, ways_of(design.settings), mover,
                 system_positions(design, system)[mover], around, _own_solids(design, system, run, (first, last)),
                 vias_of(design, wish.through, float(tube.od_mm)), np.zeros(len(around)))  # fmt: skip


def own_spare(pieces: Sequence[LaidPiece], gap_mm: float) -> float:
    """What pipe keeps from itself over `gap_mm`, by points along it [mm]; places near each other along it are one."""
    if not pieces:
        return 0.0
    points = np.concatenate([spaced(p, OWN_STEP_MM) for p in pieces])
    steps = np.linalg.norm(np.diff(points, axis=0), axis=1)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    od = max(float(p.tube.od_mm) for p in pieces)
    # going half round, a bend as tight as the tube itself comes back no nearer than this along
    apart = np.abs(along[:, None] - along) > np.pi * (od + gap_mm)
    if not apart.any():
        return 0.0
    gaps = np.linalg.norm(points[:, None] - points, axis=2)[apart]
    return min(0.0, float(gaps.min()) - od - gap_mm)


def _sliced(bend: Bend, turn_deg: float) -> Pie:
    """A bend made of slices that each turn at most so much."""
    slices = int(np.ceil(bend.angle_deg / turn_deg - 1e-9))
    return Pie(id=bend.id, slices=slices, turn_each_deg=bend.angle_deg / slices, clr_mm=bend.clr_mm,
               roll_deg=bend.roll_deg)  # fmt: skip


# --- the system itself is in the way too ------------------------------------------------------------------------------


def _own_solids(design: Design, system: System, run: Run, span: tuple[int, int]) -> Vector:
    """Other runs' pipe, hardware that is not joined here, and this run's own pieces that stay, not next to what is
    found, as solids (n, WIDTH).
    """
    joined = {str(e).partition(".")[0] for e in (run.start, run.aim) if isinstance(e, str)}
    joined |= {p.part for p in run.pieces if isinstance(p, InLine)}
    rows = [solid_of(body) for body in system.bodies if body.part.id not in joined]
    for other in system.runs:
        ends = {str(e).partition(".")[0] for e in (other.run.start, other.run.aim) if isinstance(e, str)}
        if other.run.id != run.id and ends & joined:
            continue
        for piece in (p for p in other.pieces if not isinstance(p.piece, InLine)):
            if other.run.id != run.id or not span[0] - 2 <= piece.index < span[1] + 2:
                rows += [_bar(a, b, float(piece.tube.od_mm) / 2) for a, b in itertools.pairwise(spaced(piece, 50.0))]
    return np.array(rows).reshape(-1, rows[0].shape[0] if rows else 0)


def _bar(a: Vector, b: Vector, radius: float) -> Vector:
    one, two = ((Length(float(p[0])), Length(float(p[1])), Length(float(p[2]))) for p in (a, b))
    return np.asarray(solid_rows(Capsule(a=one, b=two, radius=Length(radius)))[0])


def _with_solids(task: Task, rows: Vector, keep: float) -> Task:
    """The task with solids that have no thing."""
    if not len(rows):
        return task
    n = len(task.rows)
    kept = np.concatenate([task.keep[:n], np.full(len(rows), keep), task.keep[n:]])
    return replace(task, rows=np.concatenate([task.rows, rows]), keep=kept)
