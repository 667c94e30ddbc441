"""Find a way for a run in its design: several, each named by how it goes, each checked in every position.

The search itself (`way_search`) looks at solids at rest, keeping what the pipe swings and grows besides; what it finds
is laid, checked over all positions by the exact kernels, and put in order by what the person weighs.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from .bodies import System, system_of, tube_segments
from .closing import Answer, Change, Ways
from .editing import kept_pieces, last_tube
from .frame import Pose, Vector
from .moving import HUNG, Position, farthest, mover_behind, movers, system_positions
from .nearest import against, worst_over
from .obstacles import Obstacle, obstacles
from .own_gaps import solid_of
from .proposals import Proposal, Proposals, ready
from .records import Capsule, Design, HalfSpace, InLine, Run, Thing, Tube
from .remedies import ways_of
from .route import LaidPiece, LaidRun, lay_pieces, spaced
from .shifting import bounds
from .solids import solid_rows
from .units import Length
from .way_pieces import pieces_of
from .way_search import find
from .way_snap import Snapped, snapped
from .way_task import Task, Way, distinct, task_of

MOST_SHOWN = 6
USUAL_OD_MM = (38.1, 44.5, 50.8, 57.15, 63.5, 76.2, 88.9)  # common practice
WEIGHS = {"gentlest": "gentlest first", "welds": "fewest welds first", "highest": "highest first",
          "clear": "most clearance first"}  # fmt: skip
NEAR_MM = 260.0  # a thing further off than this does not name a way
DEAR = 1.8  # a way that costs this many times the best is none that anybody builds


@dataclass(frozen=True)
class _Asked:
    """One question in its design: where from and to, with what, among what, moved how."""

    design: Design
    run: Run
    start: Pose
    aim: Pose
    tube: Tube
    ways: Ways
    mover: str
    positions: tuple[Position, ...]
    around: list[Obstacle]
    own: Vector

    def task(self, more_mm: float = 0.0) -> Task:
        """The search's task; `more_mm` is kept over every needed gap."""
        things = against(self.around, self.mover).apart
        kept_more = replace(things, needed=things.needed + more_mm)
        task = task_of(self.start, self.aim, float(self.tube.od_mm), self.ways, kept_more)
        gap = float(self.tube.od_mm) / 2 + float(self.design.settings.rules.own_gap_mm)
        return _with_solids(task, self.own, gap)

    def proposal(self, answer: Answer) -> Proposal:
        """An answer laid and checked over every position."""
        here = lay_pieces(self.start, answer.pieces(), self.design, self.tube)
        rows = tube_segments(LaidRun(self.run, self.start, here, None)).rows
        worst = worst_over(rows, self.mover, self.around, self.positions)
        name, state = (worst.obstacle.thing.name, worst.obstacle.state) if worst.obstacle else ("", "")
        state = ", pipe ".join(s for s in (state, worst.position) if s)
        goes = how_it_goes(here, self.around)
        return Proposal(answer, answer.pieces(), here, worst.margin_mm, name, state, goes)


def seek(design: Design, run_id: str, keep: int | None = None, weigh: str = "gentlest") -> Proposals:
    """Ways from where a run is now to its aim, past everything. Raises EditError with nothing to start or aim for.

    Where there is none: what the nearest miss lacks, and changes that were solved and open a way.
    """
    run, laid = ready(design, run_id)
    kept = len(kept_pieces(run, len(run.pieces) if keep is None else keep))
    asked = _asked(design, run, laid, kept)
    found: list[Way] = []
    reach = np.array([asked.start.point, asked.aim.point])
    moves = max(farthest(reach, np.zeros(2), p) for p in asked.positions) if asked.mover == HUNG else 0.0
    for more in dict.fromkeys((moves, 0.0)):
        task = asked.task(more)
        found = find(task)
        if any(w.spare_mm >= 0 for w in found):
            break
    proposals = [asked.proposal(answer) for answer in _answers(task, found, asked.ways)]
    good = [p for p in proposals if p.keeps_gaps]
    if good:
        shown = _different(sorted(good, key=lambda p: _weighed(p, weigh)))
        return Proposals(kept, tuple(shown[:MOST_SHOWN]))
    return Proposals(kept, (), _nearest_miss(proposals, asked), tuple(_tighter(asked)))


def _asked(design: Design, run: Run, laid: LaidRun, kept: int) -> _Asked:
    assert laid.aim is not None  # ready saw to it
    system = system_of(design)
    mover = mover_behind(design, movers(design, system), run.id, kept)
    start = laid.pieces[kept - 1].outlet if kept else laid.start
    around = obstacles(design.survey, design.settings.rules)
    return _Asked(design, run, start, laid.aim, last_tube(run, kept), ways_of(design.settings), mover,
                  system_positions(design, system)[mover], around, _own_solids(design, system, run))  # fmt: skip


def _goes(asked: _Asked) -> bool:
    """Whether there is a way that keeps its gaps at rest."""
    return any(w.spare_mm >= 0 for w in find(asked.task()))


def _tighter(asked: _Asked) -> Iterator[Change]:
    """A tighter bend beside those of the job, where it opens a way."""
    tight = float(asked.tube.od_mm)
    if tight < min(asked.ways.clr_mm) - 0.5 and _goes(replace(asked, ways=replace(asked.ways, clr_mm=(tight,)))):
        ways = replace(asked.ways, clr_mm=(*asked.ways.clr_mm, tight))
        yield Change(f"use bends of {tight:.1f} mm radius as well", ways)


def _different(proposals: Sequence[Proposal]) -> list[Proposal]:
    """At most two of each way of going, and none that goes as a better one does with more bends."""
    kept: list[Proposal] = []
    for p in proposals:
        alike = [k for k in kept if k.goes == p.goes]
        if len(alike) < 2 and not any(k.bends < p.bends for k in alike):
            kept.append(p)
    return kept


def _answers(task: Task, found: Sequence[Way], ways: Ways) -> Iterator[Answer]:
    """Every distinct way as found, and, where there is one, with angles of the shop's set."""
    whole = distinct(found, 60.0)
    told: list[Vector] = []
    for way in [w for w in whole if w.cost < DEAR * whole[0].cost][:5] or list(found[:1]):
        # the best of all is worth a bend more
        longer = [w for w in found if w.bends == way.bends + 1 and w.spare_mm >= 0][:2] if way is found[0] else []
        set_angles = snapped(task, [way, *longer], ways.angles_deg)
        answers = [_with_set_angles(task, set_angles)] if set_angles else []
        if ways.free or not answers:
            answers.append(pieces_of(task, way))
        for answer in answers:
            if not any(_same(answer.steps, t) for t in told):
                told.append(answer.steps)
                yield answer


def _with_set_angles(task: Task, found: Snapped) -> Answer:
    return replace(pieces_of(task, found.way, keep_angles=True), from_set=found.odd_deg is None)


def _same(a: Vector, b: Vector) -> bool:
    """Bends within a degree and straights within 3 mm: the same way to a fabricator."""
    if a.shape != b.shape:
        return False
    off = np.abs(a[:, 1] - b[:, 1])
    return bool(off.max() < 3.0 and off[1::2].max(initial=0.0) < 1.0)


# --- the system itself is in the way too ------------------------------------------------------------------------------


def _own_solids(design: Design, system: System, run: Run) -> Vector:
    """Other runs' pipe and hardware that this run is not joined to, as solids (n, WIDTH)."""
    joined = {str(e).partition(".")[0] for e in (run.start, run.aim) if isinstance(e, str)}
    joined |= {p.part for p in run.pieces if isinstance(p, InLine)}
    rows = [solid_of(body) for body in system.bodies if body.part.id not in joined]
    for other in system.runs:
        ends = {str(e).partition(".")[0] for e in (other.run.start, other.run.aim) if isinstance(e, str)}
        if other.run.id == run.id or ends & joined:
            continue
        for piece in (p for p in other.pieces if not isinstance(p.piece, InLine)):
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


# --- naming and weighing ----------------------------------------------------------------------------------------------


def how_it_goes(laid: Sequence[LaidPiece], around: Sequence[Obstacle]) -> str:
    """How a way goes past the things it comes near, in words: over or under, left or right of each."""
    points = np.concatenate([spaced(p, 15.0) for p in laid]) if laid else np.zeros((0, 3))
    said = []
    for obstacle in {o.thing.id: o for o in reversed(around)}.values():
        words = _past(points, obstacle.thing)
        if words:
            said.append(words)
    said.sort(reverse=True)
    return ", ".join(words for _, words in said[:3])


def _past(points: Vector, thing: Thing) -> tuple[float, str] | None:
    """How big a thing is that a way passes, and on which side of it."""
    box = bounds(thing.shape) if not isinstance(thing.shape, HalfSpace) else None
    if box is None or not len(points):
        return None
    low, high = box
    beside = points[(points[:, 0] > low[0]) & (points[:, 0] < high[0])]
    if not len(beside):
        return None
    middle = beside[len(beside) // 2]
    off = np.maximum(np.maximum(low - middle, middle - high), 0.0)
    if np.linalg.norm(off) > NEAR_MM:
        return None
    size = float(np.prod(np.maximum(high - low, 1.0)))
    if off[1] == off[2] == 0.0:
        return size, f"through the {thing.name}"
    if off[1] >= off[2]:
        return size, f"{'left' if middle[1] < low[1] else 'right'} of the {thing.name}"
    return size, f"{'under' if middle[2] < low[2] else 'over'} the {thing.name}"


def _weighed(proposal: Proposal, weigh: str) -> tuple[float, ...]:
    if weigh == "welds":
        return len(proposal.pieces), proposal.answer.rank
    if weigh == "highest":
        lowest = min(float(p.middle[2]) for p in proposal.laid)
        return -lowest, proposal.answer.rank
    if weigh == "clear":
        return -proposal.worst_margin_mm, proposal.answer.rank
    return proposal.answer.rank, 0.0


def _nearest_miss(proposals: Sequence[Proposal], asked: _Asked) -> str:
    """What is missing where, and what would open a way: each was solved."""
    if not proposals:
        return "Nothing was found that meets both ends: move one, or allow other radii."
    best = max(proposals, key=lambda p: p.worst_margin_mm)
    where = best.worst_thing or "straights between its bends"
    said = [f"No way was found that keeps every gap. The nearest lacks {-best.worst_margin_mm:.0f} mm at the {where}."]
    smaller = [od for od in USUAL_OD_MM if od < asked.tube.od_mm - 1.0]
    if smaller and _goes(replace(asked, tube=asked.tube.model_copy(update={"od_mm": Length(smaller[-1])}))):
        said.append(f"A tube of {smaller[-1]:g} mm would go through.")
    names = list(dict.fromkeys(p.worst_thing for p in proposals if p.worst_thing))[:2]
    for name in names:
        without = [o for o in asked.around if o.thing.name != name]
        if len(without) < len(asked.around) and _goes(replace(asked, around=without)):
            said.append(f"With the {name} moved or off, there is a way.")
    return " ".join(said)
