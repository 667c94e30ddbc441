"""Find a way for a run in its design: several, each named by how it goes, each checked in every position.

Other sides are looked for by shutting the side that a way takes. What is found is put in order by what the person
weighs.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ..cutting import least_slice_clr
from ..errors import EditError
from ..laying import spaced
from ..pathfinding import (
    ATTEMPTS,
    at_equal_shares,
)
from ..records import Design
from .no_way import nearest_miss, once_measured, unmet, what_opens
from .proposals import Proposal, Proposals, Side, as_made
from .question import RouteQuestion, asked_of
from .searching import ALIKE_MM, DEAR, Found, OnProgress, Progress, ProgressBeat, again, agreeing, say_nothing
from .wishes import BURIED_MM, Wish

MOST_SHOWN = 6
FEW_SIDES, MOST_SIDES = 3, 8  # sides shut to look for another at once, and when there is time


def seek(design: Design, run_id: str, wish: Wish | None = None, tell: OnProgress = say_nothing) -> Proposals:
    """Ways between what stays of a run, past everything, in the order of the wish.

    Where there is none: the nearest miss and what it lacks; when thorough also what would open a way, each solved.
    `tell` is called every fraction of a second and may raise to stop. Raises EditError with nothing to start or aim
    for.
    """
    wish = wish or Wish()
    heard = ProgressBeat(tell)
    asked = replace(asked_of(design, run_id, wish), pulse=heard.again)
    found = _with_slices(asked, heard)
    good = _allowed(asked, found.proposals)
    if not good:
        return _none(asked, found.proposals, heard)
    heard(Progress("one way found", 0.2, _shown(asked, good, found.tries)))
    for share, more in _other_sides(asked, good):
        good += _allowed(asked, more)
        heard(Progress(f"{len(_different(good))} ways found", share, _shown(asked, good, found.tries)))
    return _shown(asked, good, found.tries)


def _allowed(asked: RouteQuestion, proposals: Sequence[Proposal]) -> list[Proposal]:
    """Those that keep their gaps; where the shop wants angles of its set only, those, if there are any."""
    good = [p for p in proposals if p.keeps_gaps]
    own = [p for p in good if p.answer.from_set]
    kept = own if own and not asked.ways.free else good
    made = [as_made(asked.design, asked.run.id, asked.first, asked.until, p) for p in kept]
    return [p for p in made if not p.cannot] or made


def _shown(asked: RouteQuestion, good: Sequence[Proposal], tries: Sequence[float]) -> Proposals:
    shown = _in_order(good, asked.wish.weigh)
    return Proposals(asked.first, shown, until=asked.until, tries=len(tries), agreeing=agreeing(tries) if tries else 0)


def _in_order(good: Sequence[Proposal], weigh: str) -> tuple[Proposal, ...]:
    return tuple(_different(sorted(good, key=lambda p: weighed(p, weigh)))[:MOST_SHOWN])


def together(known: Proposals | None, found: Proposals, weigh: str) -> Proposals:
    """Return ways known and found since, each way once, in the order of the wish."""
    if known is None or not known.found:
        return found
    return replace(found if found.found else known, found=_in_order((*known.found, *found.found), weigh))


def _with_slices(asked: RouteQuestion, tell: OnProgress) -> Found:
    """With the bends on hand; where none goes, with bends of slices where they are needed."""
    tell(Progress("looking for a way with the bends on hand", 0.0))
    found = again(asked, all_round=asked.wish.thorough, tell=tell)
    rules = asked.design.settings.rules
    tight = least_slice_clr(rules, float(asked.tube.od_mm)) / math.cos(math.radians(rules.pie_turn_deg) / 2)
    sensible = [p for p in found.proposals if p.keeps_gaps and not p.answer.goes_round]
    if sensible or tight > min(asked.ways.clr_mm) - 1.0:
        return found
    tell(Progress("none so far: trying slices where bends do not go", 0.1))
    sliced = again(replace(asked, pie_clr=tight))
    return Found(sliced.asked, [*sliced.proposals, *found.proposals])


def _other_sides(asked: RouteQuestion, good: Sequence[Proposal]) -> Iterator[tuple[float, list[Proposal]]]:
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
        proposals = again(replace(asked, wish=wish), attempts=ATTEMPTS if asked.wish.thorough else 1).proposals
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


def _same(a: Proposal, b: Proposal) -> bool:
    """The same way to a fabricator: as many bends, both from the set or both not, and nowhere far from each other."""
    if (a.bends, a.answer.from_set) != (b.bends, b.answer.from_set):
        return False
    one, two = (at_equal_shares(np.concatenate([spaced(piece, 15.0) for piece in p.laid])) for p in (a, b))
    return bool(np.linalg.norm(one - two, axis=1).max() < ALIKE_MM)


def weighed(proposal: Proposal, weigh: str) -> tuple[float, ...]:
    """Return the sort key of a way."""
    gentle = proposal.answer.rank + BURIED_MM * proposal.buried
    if weigh == "welds":
        return proposal.made.weld_mm if proposal.made else np.inf, gentle
    if weigh == "highest":
        lowest = min((float(p.middle[2]) for p in proposal.laid), default=0.0)
        return -lowest, gentle
    if weigh == "cheapest":  # while prices are not known: what it takes
        weld = proposal.made.weld_mm if proposal.made else np.inf
        return proposal.price if proposal.price is not None else weld + proposal.answer.length_mm, gentle
    if weigh == "clear":
        return -proposal.worst_margin_mm, gentle
    return gentle, 0.0


def _none(asked: RouteQuestion, proposals: Sequence[Proposal], tell: OnProgress) -> Proposals:
    if not proposals:
        raise EditError(unmet(asked))
    miss = max(proposals, key=lambda p: p.worst_margin_mm)
    why, changes = nearest_miss(asked, miss)
    so_far = Proposals(asked.first, (), why, changes, asked.until, miss)
    if not asked.wish.thorough:
        return replace(so_far, opens=tuple(trial.words for trial in once_measured(asked) if trial.opens()))
    opens: list[str] = []
    for share, words in what_opens(asked, miss):
        tell(Progress(f"trying what would open a way: {words.tried}", share, replace(so_far, opens=tuple(opens))))
        if words.opens():
            opens.append(words.words)
    return replace(so_far, opens=tuple(opens))
