"""Chains of two or three bends whose angles come from a set: exact, by intersecting cones.

With the directions f0..fn of the legs known, the legs follow from linear equations, since each bend shifts the end by
R tan(angle / 2) (f_before + f_after). A direction at fixed angles to two others lies on two cones: two answers at
most. Angles of 180 have no corner and are left to the closed form for one bend and to the free search.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np
from numba import njit

from ..space import Pose, Vector, chain, pose_from_matrix

MOST_MIXES = 40  # of the angle mixes of three bends, the shortest: longer ones are never shown
SWEEP = 72  # directions tried round the first cone of a three-bend chain: 5 deg apart, then narrowed down
NARROW = 24  # golden sections of 10 deg: to 0.0001 deg
LACKS, NO_CONE = 1e9, 1e12
GOLDEN = 0.6180339887498949


def answers(
    start: Pose, target: Pose, n: int, clrs: tuple[float, ...], angles: tuple[float, ...], shortest: float
) -> Iterator[Vector]:
    """Chains of n (2 or 3) bends that meet the target: the shortest of each angle mix, as kernel steps (2n + 1, 4)."""
    usable = np.array(sorted(a for a in angles if a < 179.0))
    if not len(usable):
        return
    for radii in itertools.product(clrs, repeat=n):
        finder = _two if n == 2 else _three
        for angle_mix, directions, legs in finder(start, target, np.array(radii), usable, shortest):
            yield _steps(start, directions, angle_mix, np.array(radii), legs)


Found = tuple[Vector, Vector, Vector]  # angles (n,), directions (n + 1, 3), legs (n + 1,)


def _two(start: Pose, target: Pose, radii: Vector, angles: Vector, shortest: float) -> Iterator[Found]:
    f0, f2 = start.flow, target.flow
    ahead = target.point - start.point
    for a, b in itertools.product(angles, repeat=2):
        for f1 in middle_directions(f0, f2, a, b, ahead):
            directions = np.array([f0, f1, f2])
            legs = _legs(directions, ahead, radii, np.array([a, b]), shortest)
            if legs is not None:
                yield np.array([a, b]), directions, legs


def middle_directions(f0: Vector, f2: Vector, a: float, b: float, ahead: Vector) -> list[Vector]:
    """Unit directions at angle a from f0 and b from f2. Where f0 and f2 are parallel, those in the offset's plane."""
    cos_between = float(f0 @ f2)
    if abs(cos_between) > 1 - 1e-12:
        if abs(math.cos(math.radians(a)) - math.copysign(1, cos_between) * math.cos(math.radians(b))) > 1e-9:
            return []
        side = ahead - (ahead @ f0) * f0
        offset = float(np.linalg.norm(side))
        if offset < 1e-9:
            return []
        return [math.cos(math.radians(a)) * f0 + math.sin(math.radians(a)) * side / offset]
    pair = np.array([f0, f2])
    base = np.linalg.lstsq(pair, np.cos(np.radians([a, b])), rcond=None)[0]
    left = 1.0 - float(base @ base)
    if left < -1e-12:
        return []
    normal = np.cross(f0, f2)
    rise = math.sqrt(max(left, 0.0)) * normal / np.linalg.norm(normal)
    return [base] if left < 1e-12 else [base + rise, base - rise]


def _legs(directions: Vector, ahead: Vector, radii: Vector, angles: Vector, shortest: float) -> Vector | None:
    """Legs along the directions that reach `ahead`, each at least `shortest`, least in all; None without any."""
    tangents = radii * np.tan(np.radians(angles) / 2)
    wanted = ahead - ((directions[:-1] + directions[1:]) * tangents[:, None]).sum(axis=0)
    matrix = directions.T
    u, s, vt = np.linalg.svd(matrix)
    keep = s > 1e-7 * s[0]
    legs = vt[: len(s)][keep].T @ ((u.T @ wanted)[: len(s)][keep] / s[keep])
    if np.linalg.norm(matrix @ legs - wanted) > 1e-8:
        return None
    null = np.vstack([vt[: len(s)][~keep], vt[len(s) :]])
    if len(null) == 0:
        return legs if (legs >= shortest - 1e-9).all() else None
    if len(null) > 1:
        return None
    return _slide(legs, null[0], shortest)


def _slide(legs: Vector, null: Vector, shortest: float) -> Vector | None:
    """legs + t null with every leg at least `shortest` and the least total; None when no t does."""
    low, high = -math.inf, math.inf
    for value, slope in zip(legs, null, strict=True):
        if abs(slope) < 1e-12:
            if value < shortest - 1e-9:
                return None
        elif slope > 0:
            low = max(low, (shortest - value) / slope)
        else:
            high = min(high, (shortest - value) / slope)
    if low > high + 1e-9:
        return None
    ends = [t for t in (low, high) if math.isfinite(t)]
    if not ends:
        return None
    best = min(ends, key=lambda t: float((legs + t * null).sum()))
    return legs + best * null


def _three(start: Pose, target: Pose, radii: Vector, angles: Vector, shortest: float) -> Iterator[Found]:
    ahead = target.point - start.point
    triples = np.array(list(itertools.product(angles, repeat=3)))
    costs, directions, legs = _sweep(
        start.flow, start.reference, start.across, target.flow, ahead, radii, triples, shortest, SWEEP
    )
    for k in np.argsort(costs, kind="stable")[:MOST_MIXES]:
        if costs[k] >= LACKS:
            return
        yield triples[k], directions[k], legs[k]


@njit(cache=True, nogil=True)
def _sweep(f0, r0, w0, f3, ahead, radii, triples, shortest, sweep):
    """For every angle triple the shortest chain over all first rolls: (length (k,), f (k,4,3), legs (k,4)).

    The rolls are swept, and every place where its neighbours are worse is narrowed down: what can be may lie between
    two of the sweep, and so may the shortest.
    """
    count = triples.shape[0]
    best = np.full(count, 1e30)
    directions = np.zeros((count, 4, 3))
    legs = np.zeros((count, 4))
    f, trial, scores = np.zeros((4, 3)), np.zeros(4), np.empty(sweep)
    f[0], f[3] = f0, f3
    step = 2.0 * math.pi / sweep
    for k in range(count):
        angles = np.radians(triples[k])
        tangents = radii * np.tan(angles / 2)
        for sign in (-1.0, 1.0):
            for i in range(sweep):
                scores[i] = _score(i * step, sign, r0, w0, ahead, angles, tangents, shortest, f, trial)
            for i in range(sweep):
                if scores[i] > scores[i - 1] or scores[i] > scores[(i + 1) % sweep] or scores[i] >= NO_CONE:
                    continue
                low, high = (i - 1) * step, (i + 1) * step
                for _ in range(NARROW):
                    a, b = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
                    at_a = _score(a, sign, r0, w0, ahead, angles, tangents, shortest, f, trial)
                    at_b = _score(b, sign, r0, w0, ahead, angles, tangents, shortest, f, trial)
                    if at_a < at_b:
                        high = b
                    else:
                        low = a
                for roll in (i * step, 0.5 * (low + high)):
                    total = _score(roll, sign, r0, w0, ahead, angles, tangents, shortest, f, trial)
                    if total < min(best[k], LACKS) - 1e-9:
                        best[k] = total
                        directions[k] = f
                        legs[k] = trial
    return best, directions, legs


@njit(cache=True, nogil=True)
def _score(roll, sign, r0, w0, ahead, angles, tangents, shortest, f, trial):
    """The length of the legs of one first roll, whose f and legs are left in `f` and `trial`; where a leg lacks so much
    that it cannot be, LACKS and what it lacks; where the cones do not meet, NO_CONE.
    """
    a, b, c = angles[0], angles[1], angles[2]
    for x in range(3):
        f[1, x] = math.cos(a) * f[0, x] + math.sin(a) * (math.cos(roll) * r0[x] + math.sin(roll) * w0[x])
    # f2 on the cone of b about f1 and of c about f3
    d = f[1, 0] * f[3, 0] + f[1, 1] * f[3, 1] + f[1, 2] * f[3, 2]
    rest = 1.0 - d * d
    if rest < 1e-9:
        return NO_CONE
    p, q = (math.cos(b) - d * math.cos(c)) / rest, (math.cos(c) - d * math.cos(b)) / rest
    out = 1.0 - p * p - q * q - 2.0 * p * q * d
    if out < 0.0:
        return NO_CONE - out
    rise = sign * math.sqrt(out / rest)
    want = np.empty(3)
    for x in range(3):
        y, z = (x + 1) % 3, (x + 2) % 3
        n = f[1, y] * f[3, z] - f[1, z] * f[3, y]
        f[2, x] = p * f[1, x] + q * f[3, x] + rise * n
        want[x] = (
            ahead[x]
            - tangents[0] * (f[0, x] + f[1, x])
            - tangents[1] * (f[1, x] + f[2, x])
            - tangents[2] * (f[2, x] + f[3, x])
        )
    return _four_legs(f, want, shortest, trial)


@njit(cache=True, nogil=True)
def _det(a, b, c):
    return a[0] * (b[1] * c[2] - b[2] * c[1]) - a[1] * (b[0] * c[2] - b[2] * c[0]) + a[2] * (b[0] * c[1] - b[1] * c[0])


@njit(cache=True, nogil=True)
def _four_legs(f, want, shortest, legs):
    """Four legs along f (4, 3) that sum to `want`, least total, each at least `shortest`; the total, or LACKS and what
    the shortest lacks at best.

    The optimum of this small linear program has one leg at its bound: solve the other three by Cramer's rule.
    """
    best, lacks = NO_CONE, LACKS
    trial = np.empty(4)
    for fixed in range(4):
        i, j, k = (fixed + 1) % 4, (fixed + 2) % 4, (fixed + 3) % 4
        det = _det(f[i], f[j], f[k])
        if abs(det) < 1e-6:
            continue
        rest = want - shortest * f[fixed]
        trial[fixed] = shortest
        trial[i] = _det(rest, f[j], f[k]) / det
        trial[j] = _det(f[i], rest, f[k]) / det
        trial[k] = _det(f[i], f[j], rest) / det
        if trial.min() < shortest - 1e-9:
            lacks = min(lacks, shortest - trial.min())
            continue
        total = trial.sum()
        if total < best:
            best = total
            legs[:] = trial
    return best if best < LACKS else LACKS + lacks


def _steps(start: Pose, directions: Vector, angles: Vector, radii: Vector, legs: Vector) -> Vector:
    """Kernel steps from leg directions; the roll of each bend is read on the carried reference."""
    steps = [[chain.LEG, max(legs[0], 0.0), 0.0, 0.0]]
    here = start
    for angle, clr, flow, leg in zip(angles, radii, directions[1:], legs[1:], strict=True):
        roll = here.roll_of(flow - (flow @ here.flow) * here.flow)
        bend = [chain.BEND, angle, clr, roll]
        steps += [bend, [chain.LEG, max(leg, 0.0), 0.0, 0.0]]
        here = pose_from_matrix(chain.lay_frames(here.matrix(), np.array([bend]), np.zeros((0, 3, 4)))[-1])
    return np.array(steps, dtype=float)
