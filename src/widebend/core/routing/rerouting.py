"""Drawn pipe improved without changing its way, and mended with as little changed as can be."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..closing import Answer
from ..errors import EditError
from ..laying import LaidPiece
from ..pathfinding import FINE, WIDE, RouteCandidate, Task, all_polished, apart, fewer, find, judged, pieces_of, snapped
from ..records import Bend, Design, Straight
from ..review import review
from ..space import Vector
from .names import THROUGH
from .proposals import Proposal, Proposals, as_made, as_reviewed
from .question import RouteQuestion, asked_of
from .searching import AGAIN, DEAR, OnProgress, Progress, ProgressBeat, say_nothing, with_set_angles
from .wishes import Wish

MOST_DRAWN_DEG = 150.0  # beyond it a bend is taken as two halves: its tangents meet too far off
SAME_WAY_MM = 250.0  # a way that is further off than this somewhere is another way
MOST_SPAN = 6  # this many turns are found again at most when mending
MOST_MENDED = 4


def improve(design: Design, run_id: str, wish: Wish) -> Proposals:
    """Improve the pieces between those that stay: fewer bends, nicer angles, more gap; its way stays the same.

    `drawn` is how it stands now. Raises EditError when nothing better is found, or when it holds more than straights
    and bends.
    """
    asked = asked_of(design, run_id, wish)
    drawn, way = _drawn(asked)
    for _ in range(AGAIN):
        proposals = [p for p in _polished_as_it_goes(asked, way) if _goes_alike(p, drawn)]
        better = [p for p in proposals if p.keeps_gaps and _is_better(p, drawn)]
        if better or not proposals or any(p.keeps_gaps for p in proposals):
            break
        asked = asked.further_off(proposals)  # too near as it moves
    if not better:
        what = "better" if drawn.keeps_gaps else "that keeps every gap"
        raise EditError(
            f"nothing {what} was found that goes the same way from here on: "
            "choose a piece further forward, or find a way"
        )
    better.sort(key=lambda p: p.answer.rank)
    made = [as_made(design, asked.run.id, asked.first, asked.until, p) for p in (drawn, *_apart(better)[:4])]
    return Proposals(asked.first, tuple(made[1:]), until=asked.until, drawn=made[0])


def _polished_as_it_goes(asked: RouteQuestion, way: RouteCandidate) -> list[Proposal]:
    """A way polished where it is, with its bends and with one and two less, checked over every position."""
    task = asked.task()
    start = judged(task, way.points, way.radii)
    ways = all_polished(task, [(way.points, way.radii)], WIDE)
    for _ in range(2):  # with a bend less, and once more
        ways += [w for w in (fewer(task, w) for w in ways[-1:]) if w]
    ways += all_polished(task, [(w.points, w.radii) for w in ways], FINE)
    same = [w for w in ways if w.spare_mm >= 0 and apart(w, start) < SAME_WAY_MM]
    return [asked.reviewed(asked.proposal(a)) for a in _as_answers(task, same, asked)]


def _goes_alike(new: Proposal, drawn: Proposal) -> bool:
    """On the same side of whatever both pass; what was drawn through something may go past it on any side."""
    sides = {s.thing: s.side for s in drawn.sides if s.side != THROUGH}
    return all(sides.get(s.thing, s.side) == s.side for s in new.sides)


def _is_better(new: Proposal, drawn: Proposal) -> bool:
    return not drawn.keeps_gaps or new.answer.rank < drawn.answer.rank - 1.0


def _apart(proposals: list[Proposal]) -> list[Proposal]:
    kept: list[Proposal] = []
    for p in proposals:
        if not any(_alike(p.answer.steps, k.answer.steps) for k in kept):
            kept.append(p)
    return kept


def _alike(a: Vector, b: Vector) -> bool:
    return a.shape == b.shape and bool(np.abs(a[:, 1] - b[:, 1]).max() <= 2.0)


def _as_answers(task: Task, ways: list[RouteCandidate], asked: RouteQuestion) -> Iterator[Answer]:
    for way in sorted(ways, key=lambda w: w.cost)[:3]:
        set_angles = snapped(task, way, asked.ways.angles_deg)
        if set_angles and set_angles.way.cost < DEAR * way.cost:
            yield with_set_angles(task, set_angles)
        if asked.ways.free or set_angles is None:
            yield pieces_of(task, way)


def _drawn(asked: RouteQuestion) -> tuple[Proposal, RouteCandidate]:
    """How it stands now, and its corners. Raises EditError for what has none, or does not meet its end."""
    pieces = asked.laid.pieces[asked.first : asked.last]
    if not all(isinstance(p.piece, Straight | Bend) for p in pieces) or not pieces:
        raise EditError("only straights and bends can be made better: choose the piece to begin from behind the rest")
    end = pieces[-1].outlet
    if float(np.linalg.norm(end.point - asked.aim.point)) > 0.5:
        raise EditError("the end is not on its aim yet: close it, or find a way, and then make it better")
    points, radii = [asked.start.point], []
    for piece in pieces:
        for corner, clr in _corners(piece):
            points.append(corner)
            radii.append(clr)
    steps = np.array([_step(p) for p in pieces])
    answer = Answer(_alternating(steps), from_set=_all_of_set(asked, pieces))
    drawn = as_reviewed(
        asked.design, asked.run.id, asked.first, asked.until, asked.checked(answer, [p.piece for p in pieces])
    )
    return drawn, RouteCandidate(
        np.array([*points, asked.aim.point]), np.array(radii), drawn.answer.cost, drawn.worst_margin_mm
    )


def _all_of_set(asked: RouteQuestion, pieces: tuple[LaidPiece, ...]) -> bool:
    angles = [p.piece.angle_deg for p in pieces if isinstance(p.piece, Bend)]
    return all(any(abs(a - s) < 1e-3 for s in asked.ways.angles_deg) for a in angles)


def _step(piece: LaidPiece) -> tuple[float, float, float, float]:
    p = piece.piece
    return (1.0, p.angle_deg, float(p.clr_mm), p.roll_deg) if isinstance(p, Bend) else (0.0, piece.length_mm, 0.0, 0.0)


def _alternating(steps: Vector) -> Vector:
    """Steps with a straight, of nothing where there is none, before, between and behind the bends."""
    out, straight = [], 0.0
    for step in steps:
        if step[0] == 0.0:
            straight += float(step[1])
        else:
            out += [(0.0, straight, 0.0, 0.0), tuple(step)]
            straight = 0.0
    return np.array([*out, (0.0, straight, 0.0, 0.0)])


def _corners(piece: LaidPiece) -> Iterator[tuple[Vector, float]]:
    """A bend's corner, or those of its two halves."""
    p = piece.piece
    if not isinstance(p, Bend):
        return
    halves = 2 if p.angle_deg > MOST_DRAWN_DEG else 1
    tangent = float(p.clr_mm) * math.tan(math.radians(p.angle_deg / halves) / 2)
    yield piece.inlet.point + tangent * piece.inlet.flow, float(p.clr_mm)
    if halves == 2:
        yield piece.outlet.point - tangent * piece.outlet.flow, float(p.clr_mm)


def mend(design: Design, run_id: str, wish: Wish, tell: OnProgress = say_nothing) -> Proposals:
    """Something that is too near, or an end that is off its aim, mended with as few pieces changed as can be.

    Spans of turns round the trouble are found again, shortest first, the rest stays where it is. Raises EditError with
    nothing to mend, or when nothing does.
    """
    run = design.run(run_id)
    near = [f for f in review(design).findings if f.run == run_id and f.code in ("touches", "tight", "own")]
    troubled = sorted({f.piece for f in near if f.piece is not None})
    if run is None or not troubled:
        raise EditError("nothing of this run is too near: there is nothing to mend")
    heard = ProgressBeat(tell)
    found: list[Proposals] = []
    spans = _spans(design, run_id, troubled)
    for k, (first, last) in enumerate(spans):
        heard(Progress(f"pieces {first + 1} to {last} again", k / len(spans)))
        until = run.pieces[last].id if last < len(run.pieces) else ""
        try:
            asked = asked_of(design, run_id, replace(wish, keep=first, until=until))
        except EditError:
            continue  # something between them is locked
        if asked.last != last:
            continue
        task = replace(asked, pulse=heard.again).task()
        ways = [w for w in find(task) if w.spare_mm >= 0][:1]
        checked = [asked.reviewed(asked.proposal(a)) for a in _as_answers(task, ways, asked)]
        good = [p for p in checked if p.keeps_gaps]
        if good:
            made = tuple(as_made(design, run_id, first, asked.until, p) for p in good[:MOST_MENDED])
            found.append(Proposals(first, made, until=asked.until))
            break
    if not found:
        raise EditError("nothing mends it with the rest left as it is: find a way from further ahead")
    return found[0]


def _spans(design: Design, run_id: str, troubled: list[int]) -> list[tuple[int, int]]:
    """Spans of pieces that hold what is troubled, from straight to straight, fewest pieces first."""
    run = design.run(run_id)
    assert run is not None  # mend saw to it
    ends = [i for i, p in enumerate(run.pieces) if isinstance(p, Straight)]
    firsts = [i for i in (0, *ends) if i <= troubled[0]]
    lasts = [i + 1 for i in (*ends, len(run.pieces) - 1) if i >= troubled[-1]]
    spans = {(a, b) for a in firsts for b in lasts if sum(isinstance(p, Bend) for p in run.pieces[a:b]) <= MOST_SPAN}
    return sorted(spans, key=lambda s: (s[1] - s[0], s))
