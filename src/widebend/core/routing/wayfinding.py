"""Find a way for a run in its design: several, each named by how it goes, each checked in every position.

The search itself (`way_search`) keeps the pipe at rest from things in all their positions. What it finds is laid and
checked over the pipe's own positions too; what comes too near there is kept further off, and found again. Other sides
are looked for by shutting the side that a way takes. What is found is put in order by what the person weighs.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..closing import Answer
from ..errors import EditError
from ..laying import spaced
from ..pathfinding import (
    ATTEMPTS,
    MISFITS_BELOW,
    Snapped,
    Task,
    Way,
    at_equal_shares,
    distinct,
    find,
    pieces_of,
    snapped,
)
from ..records import Design
from ..space import Vector
from .no_way import nearest_miss, unmet, what_opens
from .proposals import LOOP_DEG, Proposal, Proposals, Side
from .question import Asked, asked_of
from .wishes import BURIED_MM, Wish

MOST_SHOWN = 6
DEAR = 1.8  # a way that costs this many times the best is none that anybody builds
AGAIN = 3  # how often what came too near in another position is kept further off
FEW_SIDES, MOST_SIDES = 3, 8  # sides shut to look for another at once, and when there is time
MOST_FROM_SET = 3  # ways that get angles from the set when there is time
ALIKE_MM = 60.0  # ways of one name that are nowhere further apart are one
LEAST_TRIES, MOST_TRIES, AGREEING = 4, 8, 2  # searches when there is time; so many at the best are enough
AGREE = 0.01  # costs this near to each other are the same: well within what a bench can make of them
EXTRA_MM = 0.3  # over what was lacking in another position


@dataclass(frozen=True)
class Told:
    """How far a long search is: in words, the share that is done, and the best so far."""

    words: str
    share: float
    best: Proposals | None = None


Tell = Callable[[Told], None]


def say_nothing(_told: Told) -> None:
    """Nobody waits for word."""


def seek(design: Design, run_id: str, wish: Wish | None = None, tell: Tell = say_nothing) -> Proposals:
    """Ways between what stays of a run, past everything, in the order of the wish.

    Where there is none: the nearest miss and what it lacks; when thorough also what would open a way, each solved.
    `tell` is called now and then and may raise to stop. Raises EditError with nothing to start or aim for.
    """
    wish = wish or Wish()
    asked = asked_of(design, run_id, wish)
    found = _with_slices(asked, tell)
    good = _allowed(asked, found.proposals)
    if not good:
        return _none(found.asked, found.proposals, tell)
    tell(Told("one way found", 0.2, _shown(asked, good, found.tries)))
    for share, more in _other_sides(asked, good):
        good += _allowed(asked, more)
        tell(Told(f"{len(_different(good))} ways found", share, _shown(asked, good, found.tries)))
    return _shown(asked, good, found.tries)


def _allowed(asked: Asked, proposals: Sequence[Proposal]) -> list[Proposal]:
    """Those that keep their gaps; where the shop wants angles of its set only, those, if there are any."""
    good = [p for p in proposals if p.keeps_gaps]
    own = [p for p in good if p.answer.from_set]
    return own if own and not asked.ways.free else good


def _shown(asked: Asked, good: Sequence[Proposal], tries: Sequence[float]) -> Proposals:
    shown = _in_order(good, asked.wish.weigh)
    return Proposals(asked.first, shown, until=asked.until, tries=len(tries), agreeing=agreeing(tries) if tries else 0)


def _in_order(good: Sequence[Proposal], weigh: str) -> tuple[Proposal, ...]:
    return tuple(_different(sorted(good, key=lambda p: weighed(p, weigh)))[:MOST_SHOWN])


def together(known: Proposals | None, found: Proposals, weigh: str) -> Proposals:
    """What was known already and what has been found since, each way once, in the order of the wish."""
    if known is None or not known.found:
        return found
    return replace(found if found.found else known, found=_in_order((*known.found, *found.found), weigh))


@dataclass(frozen=True)
class _Found:
    """What was found for a question, which may have grown on the way."""

    asked: Asked
    proposals: list[Proposal]
    tries: tuple[float, ...] = ()


def _with_slices(asked: Asked, tell: Tell) -> _Found:
    """With the bends on hand; where none goes, with bends of slices where they are needed."""
    tell(Told("looking for a way with the bends on hand", 0.0))
    found = _again(asked, all_round=asked.wish.thorough, tell=tell)
    rules = asked.design.settings.rules
    tight = float(rules.pie_clr_od) * float(asked.tube.od_mm)
    sensible = [p for p in found.proposals if p.keeps_gaps and float(p.answer.angles_deg.sum()) < LOOP_DEG]
    if sensible or tight > min(asked.ways.clr_mm) - 1.0:
        return found
    tell(Told("none so far: trying slices where bends do not go", 0.1))
    sliced = _again(replace(asked, pie_clr=tight))
    return _Found(sliced.asked, [*sliced.proposals, *found.proposals])


def _again(asked: Asked, *, all_round: bool = False, attempts: int = ATTEMPTS, tell: Tell | None = None) -> _Found:
    """Answers checked; what came too near as the pipe moves is kept further off, and looked for again. With `tell` and
    time it is searched until it is sure.
    """
    for _ in range(AGAIN):
        task = asked.task()
        sure = tell is not None and asked.wish.thorough
        found, tries = _until_sure(task, attempts, tell or say_nothing) if sure else _once(task, attempts)
        ways = _distinct(found)
        proposals = [asked.proposal(pieces_of(task, way)) for way in ways]
        if all(w.spare_mm < 0 for w in found) or any(p.keeps_gaps for p in proposals):
            break
        asked = replace(asked, more=asked.more + lacking(asked, proposals))
    good = [(way, p) for way, p in zip(ways, proposals, strict=True) if p.keeps_gaps]
    return _Found(asked, [*_from_set(asked, [way for way, _ in good], all_round), *proposals], tries)


def _once(task: Task, attempts: int) -> tuple[list[Way], tuple[float, ...]]:
    found = find(task, attempts)
    return found, (_cheapest(found),)


def _until_sure(task: Task, attempts: int, tell: Tell) -> tuple[list[Way], tuple[float, ...]]:
    """What several searches find that do not know of each other, best first, and what the best of each costs: each has
    lots and corner points of its own. There are more of them until some agree on the best, or there are enough.
    """
    found, tries = _once(task, attempts)
    while len(tries) < MOST_TRIES and not (len(tries) >= LEAST_TRIES and agreeing(tries) >= AGREEING):
        tell(Told(f"search {len(tries) + 1}: whether it finds better", 0.1 * len(tries) / MOST_TRIES))
        more = find(replace(task, seed=task.seed + len(tries)), attempts)
        tries = (*tries, _cheapest(more))
        found = sorted([*found, *more], key=lambda w: (w.spare_mm < 0, w.cost))
        if not any(math.isfinite(t) for t in tries) and len(tries) >= 2:
            break  # none found twice: what would open a way is of more use
    return found, tries


def _cheapest(found: Sequence[Way]) -> float:
    """What the best way of a search costs; infinite where none goes."""
    return min((w.cost for w in found if w.spare_mm >= 0), default=math.inf)


def agreeing(tries: Sequence[float]) -> int:
    """How many searches came to the best that any came to."""
    best = min(tries)
    return sum(t <= best * (1.0 + AGREE) or t == best for t in tries)


def _distinct(found: Sequence[Way]) -> list[Way]:
    """Ways that are not alike and none of which is much dearer than the best; the nearest misses where none goes: those
    that meet both ends but are too near something.
    """
    whole = distinct(found, ALIKE_MM)
    if whole:
        return [w for w in whole if w.cost < DEAR * whole[0].cost][:4]
    return [w for w in found if w.spare_mm > -MISFITS_BELOW][:3]


def _from_set(asked: Asked, ways: Sequence[Way], all_round: bool) -> Iterator[Proposal]:
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
            proposal = here.proposal(with_set_angles(task, set_angles))
            if proposal.keeps_gaps:
                yield proposal
                break
            lacks = lacking(here, [proposal])
            if not lacks.any():  # too near itself: no thing can be kept further off
                break
            here = replace(here, more=here.more + lacks)


def lacking(asked: Asked, proposals: Sequence[Proposal]) -> Vector:
    """What the best of them lacks of each thing, and a little [mm]."""
    best = max(proposals, key=lambda p: p.worst_margin_mm)
    lacks = dict(best.lacks)
    return np.array([lacks[o.thing.name] + EXTRA_MM if o.thing.name in lacks else 0.0 for o in asked.around])


def _other_sides(asked: Asked, good: Sequence[Proposal]) -> Iterator[tuple[float, list[Proposal]]]:
    """Ways that go past something on another side: each side that is taken is shut in turn, and a way looked for."""
    most = MOST_SIDES if asked.wish.thorough else FEW_SIDES
    todo = list(_sides(good))
    tried: set[str] = set()
    while todo and len(tried) < most:
        side = todo.pop(0)
        named = f"{side.side}:{side.thing}"
        if named in tried:
            continue
        tried.add(named)
        wish = replace(asked.wish, avoid=(*asked.wish.avoid, named))
        proposals = _again(replace(asked, wish=wish), attempts=ATTEMPTS if asked.wish.thorough else 1).proposals
        todo += _sides([p for p in proposals if p.keeps_gaps])
        yield 0.2 + 0.8 * len(tried) / most, proposals


def _sides(proposals: Sequence[Proposal]) -> Iterator[Side]:
    for proposal in proposals[:3]:
        yield from proposal.sides


def _different(proposals: Sequence[Proposal]) -> list[Proposal]:
    """At most two of each way of going, none much dearer than the best or as a better one with more bends."""
    kept: list[Proposal] = []
    cheapest = min(p.answer.rank for p in proposals)
    for p in proposals:
        alike = [k for k in kept if k.goes == p.goes]
        dear = p.answer.rank > DEAR * cheapest
        same = any(_same(k, p) for k in kept)
        if len(alike) < 2 and not dear and not same and not any(k.bends < p.bends for k in alike):
            kept.append(p)
    return kept


def with_set_angles(task: Task, found: Snapped) -> Answer:
    """A way with angles of the set as pieces."""
    return replace(pieces_of(task, found.way, keep_angles=True), from_set=found.odd_deg is None)


def _same(a: Proposal, b: Proposal) -> bool:
    """The same way to a fabricator: as many bends, both from the set or both not, and nowhere far from each other."""
    if (a.bends, a.answer.from_set) != (b.bends, b.answer.from_set):
        return False
    one, two = (at_equal_shares(np.concatenate([spaced(piece, 15.0) for piece in p.laid])) for p in (a, b))
    return bool(np.linalg.norm(one - two, axis=1).max() < ALIKE_MM)


def weighed(proposal: Proposal, weigh: str) -> tuple[float, ...]:
    """What puts a way before another."""
    gentle = proposal.answer.rank + BURIED_MM * proposal.buried
    if weigh == "welds":
        return len(proposal.pieces), gentle
    if weigh == "highest":
        lowest = min((float(p.middle[2]) for p in proposal.laid), default=0.0)
        return -lowest, gentle
    if weigh == "cheapest":  # while prices are not known: what it takes
        return proposal.price if proposal.price is not None else proposal.weld_mm + proposal.answer.length_mm, gentle
    if weigh == "clear":
        return -proposal.worst_margin_mm, gentle
    return gentle, 0.0


def _none(asked: Asked, proposals: Sequence[Proposal], tell: Tell) -> Proposals:
    if not proposals:
        raise EditError(unmet(asked))
    miss = max(proposals, key=lambda p: p.worst_margin_mm)
    why, changes = nearest_miss(asked, miss)
    so_far = Proposals(asked.first, (), why, changes, asked.until, miss)
    if not asked.wish.thorough:
        return so_far
    opens: list[str] = []
    for share, words in what_opens(asked, miss):
        tell(Told(f"trying what would open a way: {words.tried}", share, replace(so_far, opens=tuple(opens))))
        if words.opens():
            opens.append(words.words)
    return replace(so_far, opens=tuple(opens))
