"""All readings together: where every piece really is, with its doubt; readings that cannot be or contradict; and which
further one would tell most.

Least squares of the errors, held by their spreads, and of the readings, held by their doubts (Gauss and Markov; the
posterior of a linear model with normal errors).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..space import Vector
from .built import Chain, at_point, built, standing, twists
from .reading import Reading, by_twist, read

ROUNDS = 6
ABSURD, CONTRADICTS = 6.0, 3.5  # deviations: common practice, no source
CHECKED = 0.02
TINY, STILL = 1e-9, 1e-4
TURNS_INLET = np.array([0.0, 0.0, 0.0, 1.0, 1.0])  # of a piece's own errors what moves its inlet: the joint ahead


@dataclass(frozen=True)
class Odd:
    """A reading that is not believed: which (by its place in the list), whether it is absurd by itself or
    contradicts the others, what it should about read.
    """

    at: int
    absurd: bool
    should_read: float


@dataclass(frozen=True)
class Found:
    """The run as found: its errors (n, 5), frames (n + 1, 3, 4), the covariance of the errors as one row (5 n, 5 n),
    and readings that are not believed.
    """

    plan: Chain
    errors: Vector
    frames: Vector
    spread: Vector
    odd: tuple[Odd, ...]

    def moves(self, step: int) -> Vector:
        """Return the effect of each error on the frame behind a step, as twists (6, 5 n)."""
        by = twists(self.plan, self.errors)
        by[step + 1 :] = 0.0
        return by.reshape(-1, 6).T

    def place_spread(self, step: int) -> Vector:
        """The covariance of the point behind a step (3, 3) [mm]."""
        by = at_point(self.moves(step), self.frames[step + 1][:, 3])
        return np.asarray(by @ self.spread @ by.T)


def find(plan: Chain, spreads: Vector, readings: Sequence[Reading]) -> Found:
    """The run by all readings at once; `spreads` (n, 5) of its errors. What is absurd is left out first, then what the
    others speak against, the worst first.
    """
    odd: list[Odd] = []
    start = np.zeros_like(spreads)
    for k, (one, value, by) in enumerate(zip(readings, *predicted(plan, start, readings), strict=True)):
        wide = float(np.sqrt((by**2 * spreads.ravel() ** 2).sum() + one.doubt**2))
        if not one.held and abs(value - one.value) > ABSURD * wide:
            odd.append(Odd(k, True, float(value)))
    while True:
        left = [k for k in range(len(readings)) if k not in {one.at for one in odd}]
        errors, spread = _solved(plan, spreads, [readings[k] for k in left])
        worst = _worst(plan, errors, spread, [readings[k] for k in left])
        if worst is None:
            should, _ = predicted(plan, errors, readings)
            named = tuple(replace(one, should_read=float(should[one.at])) for one in odd)
            return Found(plan, errors, built(plan, errors), spread, named)
        odd.append(Odd(left[worst[0]], False, worst[1]))


def predicted(plan: Chain, errors: Vector, readings: Sequence[Reading]) -> tuple[Vector, Vector]:
    """Return the expected readings (m,), and how they change by every error (m, 5 n)."""
    frames = built(plan, errors)
    moves = twists(plan, errors)
    values, rows, width = np.zeros(len(readings)), np.zeros((len(readings), errors.size)), errors.shape[1]
    for k, one in enumerate(readings):
        step = plan.first_of(one.piece) if one.inlet else plan.step_of(one.piece)
        before, od = frames[step], float(plan.od_mm[step])
        frame = standing(plan, errors, frames, step) if one.inlet else frames[step + 1]
        values[k] = read(one, frame, od, before)
        after, ahead = by_twist(one, frame, od, before)
        rows[k, : step * width] = moves[:step].reshape(-1, 6) @ (after + ahead)
        rows[k, step * width : (step + 1) * width] = (moves[step] @ after) * (TURNS_INLET if one.inlet else 1.0)
    return values, rows


def _solved(plan: Chain, spreads: Vector, readings: Sequence[Reading]) -> tuple[Vector, Vector]:
    """The likeliest errors (n, 5) and their covariance (5 n, 5 n)."""
    prior = spreads.ravel() ** 2
    errors = np.zeros_like(spreads)
    gain_all = np.diag(prior)
    for _ in range(ROUNDS if readings else 0):
        values, by = predicted(plan, errors, readings)
        miss = np.array([one.value for one in readings]) - values
        noise = np.diag([one.doubt**2 for one in readings])
        wide = by @ (prior[:, None] * by.T) + noise
        gain = np.linalg.solve(wide, by * prior).T
        step = (gain @ (miss + by @ errors.ravel())).reshape(errors.shape) - errors
        errors, gain_all = errors + step, np.diag(prior) - gain @ by * prior
        if (np.abs(step) < STILL * np.maximum(spreads, TINY)).all():
            break
    return errors, (gain_all + gain_all.T) / 2


def _worst(plan: Chain, errors: Vector, spread: Vector, readings: Sequence[Reading]) -> tuple[int, float] | None:
    """The reading that the others speak against most, and what they say it should be: each against all the others."""
    found = []
    for k, (one, value, by) in enumerate(zip(readings, *predicted(plan, errors, readings), strict=True)):
        inner = float(by @ spread @ by) / one.doubt**2  # of what it says itself, its own share
        free = 1.0 - inner
        if one.held or free < CHECKED:  # nothing else speaks of it
            continue
        found.append((abs(value - one.value) / (one.doubt * np.sqrt(free)), k, one.value + (value - one.value) / free))
    if not found or max(found)[0] < CONTRADICTS:
        return None
    _, k, should = max(found)
    return k, should


def tells_most(found: Found, piece: int, candidates: Sequence[Reading]) -> list[tuple[Reading, float]]:
    """Each possible reading with the share of the doubt of where the end of a piece is that it would take away, the
    most first (values of the candidates do not matter).
    """
    step = found.plan.step_of(piece)
    moves = at_point(found.moves(step), found.frames[step + 1][:, 3])
    before = float(np.trace(moves @ found.spread @ moves.T))
    out = []
    for one, by in zip(candidates, predicted(found.plan, found.errors, candidates)[1], strict=True):
        gain = found.spread @ by
        after = found.spread - np.outer(gain, gain) / (by @ gain + one.doubt**2)
        left = float(np.trace(moves @ after @ moves.T))
        out.append((replace(one, value=0.0), 1.0 - np.sqrt(max(left, 0.0) / max(before, TINY))))
    return sorted(out, key=lambda pair: -pair[1])
