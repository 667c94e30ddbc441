"""Searches for one question: what is found is laid and checked in every position of the pipe; what comes too near
there is kept further off, and looked for again.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

from ..closing import Answer
from ..pathfinding import ATTEMPTS, MISFITS_BELOW, RouteCandidate, Snapped, Task, distinct, find, pieces_of, snapped
from .proposals import Proposal, Proposals
from .question import RouteQuestion

DEAR = 1.8  # a way that costs this many times the best is none that anybody builds
AGAIN = 3  # how often what came too near in another position is kept further off
MOST_FROM_SET = 3  # ways that get angles from the set when there is time
ALIKE_MM = 60.0  # ways of one name that are nowhere further apart are one
LEAST_TRIES, MOST_TRIES, AGREEING = 4, 8, 2  # searches when there is time; this many at the best are enough
AGREE = 0.01  # costs this near to each other are the same: well within what a bench can make of them


@dataclass(frozen=True)
class Progress:
    """How far a long search is: in words, the share that is done, and the best so far."""

    words: str
    share: float
    best: Proposals | None = None


OnProgress = Callable[[Progress], None]


def say_nothing(_told: Progress) -> None:
    """Nobody waits for word."""


class ProgressBeat:
    """Tells, and tells the last again when it is asked to: within a step nothing new is known."""

    def __init__(self, tell: OnProgress) -> None:
        self._tell, self._last = tell, Progress("", 0.0)

    def __call__(self, told: Progress) -> None:
        self._last = told
        self._tell(told)

    def again(self) -> None:
        self._tell(self._last)


@dataclass(frozen=True)
class Found:
    """Return the answers to a question, which may have grown on the way."""

    asked: RouteQuestion
    proposals: list[Proposal]
    tries: tuple[float, ...] = ()


def again(
    asked: RouteQuestion, *, all_round: bool = False, attempts: int = ATTEMPTS, tell: OnProgress | None = None
) -> Found:
    """Answers checked, those that go with angles of the shop's set besides. With `tell` and time it is searched until
    it is sure.
    """
    asked, ways, proposals, tries = _kept_off(asked, attempts, tell)
    good = [(way, p) for way, p in zip(ways, proposals, strict=True) if p.keeps_gaps]
    return Found(asked, [*_from_set(asked, [way for way, _ in good], all_round), *proposals], tries)


def goes(asked: RouteQuestion) -> bool:
    """Whether there is a way that keeps its gaps in every position."""
    return any(p.keeps_gaps for p in _kept_off(asked, is_trial=True).proposals)


class _KeptOff(NamedTuple):
    asked: RouteQuestion
    ways: list[RouteCandidate]
    proposals: list[Proposal]
    tries: tuple[float, ...]


def _kept_off(
    asked: RouteQuestion, attempts: int = ATTEMPTS, tell: OnProgress | None = None, *, is_trial: bool = False
) -> _KeptOff:
    """Answers checked; what came too near as the pipe moves is kept further off, and looked for again. A trial asks of
    what is not in the design, and is not held against its review.
    """
    for _ in range(AGAIN):
        task = asked.task()
        sure = tell is not None and asked.wish.thorough
        found, tries = _until_sure(task, attempts, tell or say_nothing) if sure else _once(task, attempts)
        ways = _distinct(found)
        proposals = [asked.proposal(pieces_of(task, way)) for way in ways]
        proposals = proposals if is_trial else [asked.reviewed(p) for p in proposals]
        if all(w.spare_mm < 0 for w in found) or any(p.keeps_gaps for p in proposals):
            break
        asked = asked.further_off(proposals)
    return _KeptOff(asked, ways, proposals, tries)


def _once(task: Task, attempts: int) -> tuple[list[RouteCandidate], tuple[float, ...]]:
    found = find(task, attempts)
    return found, (_cheapest(found),)


def _until_sure(task: Task, attempts: int, tell: OnProgress) -> tuple[list[RouteCandidate], tuple[float, ...]]:
    """Return the ways of several independent searches, best first, and what the best of each costs: each has
    lots and corner points of its own. There are more of them until some agree on the best, or there are enough.
    """
    found, tries = _once(task, attempts)
    while len(tries) < MOST_TRIES and not (len(tries) >= LEAST_TRIES and agreeing(tries) >= AGREEING):
        tell(Progress(f"search {len(tries) + 1}: whether it finds better", 0.1 * len(tries) / MOST_TRIES))
        more = find(replace(task, seed=task.seed + len(tries)), attempts)
        tries = (*tries, _cheapest(more))
        found = sorted([*found, *more], key=lambda w: (w.spare_mm < 0, w.cost))
        if not any(math.isfinite(t) for t in tries) and len(tries) >= 2:
            break  # none found twice: what would open a way is of more use
    return found, tries


def _cheapest(found: Sequence[RouteCandidate]) -> float:
    """Return the cost of a search's best way; infinite where none goes."""
    return min((w.cost for w in found if w.spare_mm >= 0), default=math.inf)


def agreeing(tries: Sequence[float]) -> int:
    """How many searches came to the best that any came to."""
    best = min(tries)
    return sum(t <= best * (1.0 + AGREE) or t == best for t in tries)


def _distinct(found: Sequence[RouteCandidate]) -> list[RouteCandidate]:
    """Ways that are not alike and none of which is much dearer than the best; the nearest misses where none goes: those
    that meet both ends but are too near something.
    """
    whole = distinct(found, ALIKE_MM)
    if whole:
        return [w for w in whole if w.cost < DEAR * whole[0].cost][:4]
    return [w for w in found if w.spare_mm > -MISFITS_BELOW][:3]


def _from_set(asked: RouteQuestion, ways: Sequence[RouteCandidate], all_round: bool) -> Iterator[Proposal]:
    """The same with angles of the shop's set, where there are such; kept further off what they come too near to as the
    pipe moves.
    """
    for way in ways[: MOST_FROM_SET if asked.wish.thorough else 1]:
        here = asked
        for _ in range(AGAIN):
            task = here.task()
            set_angles = snapped(task, way, here.ways.angles_deg, thorough=all_round and way is ways[0])
            if set_angles is None:
                break
            proposal = here.reviewed(here.proposal(with_set_angles(task, set_angles)))
            if proposal.keeps_gaps:
                yield proposal
                break
            here = here.further_off([proposal])


def with_set_angles(task: Task, found: Snapped) -> Answer:
    """A way with angles of the set as pieces."""
    return replace(pieces_of(task, found.way, keep_angles=True), from_set=found.odd_deg is None)
