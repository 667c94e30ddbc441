"""What is not tacked yet, solved anew from where things really are: the least change first.

Straights are cut longer or shorter; then clocks are turned; then one bend is cut shorter; then one is another bend.
What is tacked stays as it was found. The kernel is the one that holds a finish (`space/chain`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..space import Vector, chain
from .built import Chain
from .finding import Found

# what a joint takes up when it is tacked: common practice, no source
FITS_MM, FITS_DEG = 0.8, 0.5
LEAST_ANGLE_DEG, MOST_ANGLE_DEG, LONGEST_MM, MOST_CLOCK_DEG = 2.0, 180.0, 6000.0, 45.0
LITTLE_MM, LITTLE_DEG = 0.05, 0.02
ROUNDS = 120
Way = Literal["as planned", "lengths", "clocks", "one bend cut shorter", "another bend"]


@dataclass(frozen=True)
class Change:
    """One value of a piece (from 0) that changes: what, from and to [mm or deg]; of a clock, how far round the tube
    [mm], clockwise seen against the flow.
    """

    piece: int
    what: Literal["length", "clock", "angle"]
    was: float
    now: float
    round_mm: float = 0.0


@dataclass(frozen=True)
class Correction:
    """One answer: how, the chain with it, what changes, how far the end then misses [mm, deg]."""

    way: Way
    plan: Chain
    changes: tuple[Change, ...]
    miss_mm: float
    miss_deg: float

    @property
    def fits(self) -> bool:
        return self.miss_mm <= FITS_MM and self.miss_deg <= FITS_DEG


def corrections(found: Found, tacked: int, target: Vector, shortest_mm: float) -> list[Correction]:
    """Answers for the pieces behind the first `tacked` ones, so that the end meets `target` (3, 4): the least change
    first, up to the first that fits, with those that do not before it.
    """
    out: list[Correction] = []
    for way, free, low, high in _sets(found.plan, tacked, shortest_mm):
        answer = _closed(found, tacked, target, way, free, low, high)
        if out and out[-1].way == way:
            out[-1] = min(out[-1], answer, key=lambda one: (not one.fits, one.miss_mm + one.miss_deg))
        else:
            out.append(answer)
        if out[-1].fits and (way in ("as planned", "lengths", "clocks") or not _more(way, found.plan, tacked, free)):
            break
    return out


def _more(way: Way, plan: Chain, tacked: int, free: NDArray[Any]) -> bool:
    """Whether another bend could still do the same better."""
    bends = [k for k in _behind(plan, tacked) if plan.steps[k, 0] == chain.BEND]
    return bool(bends) and int(free[-1, 0]) != bends[-1]


def _behind(plan: Chain, tacked: int) -> list[int]:
    return [k for k, piece in enumerate(plan.piece) if piece >= tacked]


def _sets(plan: Chain, tacked: int, shortest_mm: float) -> Iterator[tuple[Way, NDArray[Any], Vector, Vector]]:
    """What may give, ever more of it: (step, column) rows, least and most."""
    behind = _behind(plan, tacked)
    legs = [(k, 1) for k in behind if plan.steps[k, 0] == chain.LEG]
    # the pieces of a pie are one: only whole bends are clocked and cut
    single = [k for k in behind if plan.piece.count(plan.piece[k]) == 1 and plan.steps[k, 0] == chain.BEND]
    clocks = [(k, 3) for k in single]
    yield "as planned", *_bounded(plan, [], shortest_mm, shorter=True)
    yield "lengths", *_bounded(plan, legs, shortest_mm, shorter=True)
    yield "clocks", *_bounded(plan, legs + clocks, shortest_mm, shorter=True)
    for k in single:
        yield "one bend cut shorter", *_bounded(plan, [*legs, *clocks, (k, 1)], shortest_mm, shorter=True)
    for k in single:
        yield "another bend", *_bounded(plan, [*legs, *clocks, (k, 1)], shortest_mm, shorter=False)


def _bounded(
    plan: Chain, free: list[tuple[int, int]], shortest_mm: float, *, shorter: bool
) -> tuple[NDArray[Any], Vector, Vector]:  # fmt: skip
    low, high = [], []
    for k, column in free:
        value = float(plan.steps[k, column])
        if plan.steps[k, 0] == chain.LEG:
            low.append(min(shortest_mm, value))
            high.append(LONGEST_MM)
        elif column == 1:
            low.append(min(LEAST_ANGLE_DEG, value))
            high.append(value if shorter else MOST_ANGLE_DEG)
        else:
            low.append(value - MOST_CLOCK_DEG)
            high.append(value + MOST_CLOCK_DEG)
    return np.array(free, dtype=np.intp).reshape(-1, 2), np.array(low), np.array(high)


def _closed(
    found: Found, tacked: int, target: Vector, way: Way, free: NDArray[Any], low: Vector, high: Vector
) -> Correction:  # fmt: skip
    plan, behind = found.plan, _behind(found.plan, tacked)
    first = behind[0] if behind else len(plan.steps)
    start, rest = np.ascontiguousarray(found.frames[first]), plan.steps[first:].copy()
    if len(free):
        own = free - [first, 0]
        arm = max(200.0, float(np.linalg.norm(target[:, 3] - start[:, 3])) / 3)
        rest, _ = chain.close_chain(start, rest, plan.rigid, target, own, low, high, arm, ROUNDS)
    end = chain.lay_frames(start, rest, plan.rigid)[-1]
    new = replace(plan, steps=np.concatenate([plan.steps[:first], rest]))
    miss = float(np.linalg.norm(end[:, 3] - target[:, 3]))
    tilt = float(np.degrees(np.arccos(np.clip(end[:, 0] @ target[:, 0], -1.0, 1.0))))
    return Correction(way, new, tuple(_changes(plan, new)), miss, tilt)


def _changes(was: Chain, now: Chain) -> Iterator[Change]:
    for k in range(len(was.steps)):
        old, new = was.steps[k], now.steps[k]
        if old[0] == chain.LEG and abs(new[1] - old[1]) > LITTLE_MM:
            yield Change(was.piece[k], "length", float(old[1]), float(new[1]))
        if old[0] == chain.BEND and abs(new[1] - old[1]) > LITTLE_DEG:
            yield Change(was.piece[k], "angle", float(old[1]), float(new[1]))
        if old[0] == chain.BEND and abs(new[3] - old[3]) > LITTLE_DEG:
            round_mm = float(np.radians(new[3] - old[3]) * was.od_mm[k] / 2)
            yield Change(was.piece[k], "clock", float(old[3]), float(new[3]), round_mm)
