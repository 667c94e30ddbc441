"""What is not tacked yet, solved anew from where things really are: the least change first.

Straights are cut longer or shorter; then clocks are turned; then faces are trimmed askew; then one bend is cut shorter;
then one is another bend. What is tacked stays as it was found. The kernel is the one that holds a finish
(`space/chain`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..space import Vector, chain
from .built import ERRORS, Chain, built, twists
from .finding import Found

# what a joint takes up when it is tacked: common practice, no source
FITS_MM, FITS_DEG = 0.8, 0.5
LEAST_ANGLE_DEG, MOST_ANGLE_DEG, LONGEST_MM, MOST_CLOCK_DEG = 2.0, 180.0, 6000.0, 45.0
LITTLE_MM, LITTLE_DEG = 0.05, 0.02
ARM_MM, DAMP = 300.0, 1e-6  # of a radian beside a millimetre
ROUNDS, TRIM_ROUNDS = 120, 8
MOST_TRIM_DEG, MM_A_DEG = 3.0, 8.0  # a face askew by so much still fits up; what it weighs against a cut's millimetre
Way = Literal["as planned", "lengths", "clocks", "trimmed faces", "one bend cut shorter", "another bend"]


@dataclass(frozen=True)
class Change:
    """One value of a piece (from 0) that changes: what, from and to [mm or deg]; of a clock, how far round the tube
    [mm], clockwise seen against the flow; of a trim of the face ahead of it, what comes off at most [mm] and at which
    clock.
    """

    piece: int
    what: Literal["length", "clock", "angle", "trim"]
    was: float
    now: float
    round_mm: float = 0.0
    at_deg: float = 0.0


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
    for way, sets in _ways(found.plan, tacked):
        if way == "trimmed faces":
            answers = [_trimmed(found, tacked, target, shortest_mm)]
        else:
            shorter = way != "another bend"
            answers = [_closed(found, tacked, target, way, *_bounded(found.plan, free, shortest_mm, shorter=shorter))
                       for free in sets]  # fmt: skip
        if answers:
            out.append(min(answers, key=_least))
        if out and out[-1].fits:
            break
    return out


def _least(one: Correction) -> tuple[bool, int, float]:
    """Of answers that fit the one that changes least pieces, else the one that misses least."""
    return not one.fits, len(one.changes) if one.fits else 0, one.miss_mm + one.miss_deg


def _behind(plan: Chain, tacked: int) -> list[int]:
    return [k for k, piece in enumerate(plan.piece) if piece >= tacked]


def _ways(plan: Chain, tacked: int) -> Iterator[tuple[Way, list[list[tuple[int, int]]]]]:
    """What may give, ever more of it: each way with the sets of (step, column) it is tried with."""
    behind = _behind(plan, tacked)
    legs = [(k, 1) for k in behind if plan.steps[k, 0] == chain.LEG]
    # slices of a bend are one piece: only whole bends are clocked and cut
    single = [k for k in behind if plan.piece.count(plan.piece[k]) == 1 and plan.steps[k, 0] == chain.BEND]
    both = legs + [(k, 3) for k in single]
    yield "as planned", [[]]
    yield "lengths", [*([leg] for leg in legs), legs]
    yield "clocks", [both]
    yield "trimmed faces", []
    yield "one bend cut shorter", [[*both, (k, 1)] for k in single]
    yield "another bend", [[*both, (k, 1)] for k in single]


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
    return _answer(found, first, target, way, replace(plan, steps=np.concatenate([plan.steps[:first], rest])))


def _trimmed(found: Found, tacked: int, target: Vector, shortest_mm: float) -> Correction:
    """Straights and clocks as they go, and faces of joints behind what is tacked cut askew: the least of all together
    (Gauss and Newton, least norm).
    """
    plan, behind = found.plan, _behind(found.plan, tacked)
    joints = [k for k in behind if k > 0 and plan.piece[k] != plan.piece[k - 1]]
    legs = [k for k in behind if plan.steps[k, 0] == chain.LEG]
    for _ in range(TRIM_ROUNDS):
        frames = _rest(found, behind[0], plan) if behind else found.frames
        lack = np.concatenate([target[:, 3] - frames[-1][:, 3], (target[:, 0] - frames[-1][:, 0]) * ARM_MM])
        if np.linalg.norm(lack) < LITTLE_MM / 10 or not joints + legs:
            break
        moves = twists(plan, frames)
        free = np.concatenate([moves[legs, 0], moves[joints, 3] / MM_A_DEG, moves[joints, 4] / MM_A_DEG]).T
        end = frames[-1]
        by = np.vstack([np.cross(free[:3].T, end[:, 3]).T + free[3:], np.cross(free[:3].T, end[:, 0]).T * ARM_MM])
        step = by.T @ np.linalg.solve(by @ by.T + DAMP * np.eye(6), lack)
        steps, trims = plan.steps.copy(), plan.trims.copy()
        least = np.minimum(shortest_mm, found.plan.steps[legs, 1])
        steps[legs, 1] = np.maximum(steps[legs, 1] + step[: len(legs)], least)
        tilt = step[len(legs) :].reshape(2, -1).T / MM_A_DEG
        trims[joints] = np.clip(trims[joints] + tilt, -MOST_TRIM_DEG, MOST_TRIM_DEG)
        plan = replace(plan, steps=steps, trims=trims)
    return _answer(found, behind[0] if behind else len(plan.steps), target, "trimmed faces", plan)


def _rest(found: Found, first: int, plan: Chain) -> Vector:
    """Every frame (n + 1, 3, 4): as found up to what is tacked, behind it as that chain has it."""
    rest = replace(plan, start=found.frames[first], steps=plan.steps[first:], trims=plan.trims[first:])
    return np.concatenate([found.frames[:first], built(rest, np.zeros((len(rest.steps), len(ERRORS))))])


def _answer(found: Found, first: int, target: Vector, way: Way, new: Chain) -> Correction:
    plan, end = found.plan, _rest(found, first, new)[-1]
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
        tilt = float(np.hypot(*now.trims[k]))
        if tilt > LITTLE_DEG and not np.allclose(now.trims[k], was.trims[k]):
            off = float(np.radians(tilt) * was.od_mm[k])
            yield Change(was.piece[k], "trim", 0.0, tilt, off, float(np.degrees(np.arctan2(*now.trims[k]))))
