"""The closing joint: where it belongs, and the gap it leaves while a front and a tail are on.

The straight that is left long and cut last, to what is measured then. The tail hangs on the finish, so that what is
still out is found by asking that the chain ends there.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..space import Vector, chain
from .built import ERRORS, RAD, Chain, built, standing, twists
from .correcting import rest_of
from .finding import Found
from .reading import Kind, Reading

WITHIN = 2.0  # deviations: about 95 of 100
ANSWERED = 2  # this many pieces are on since it was measured and answered last: common practice, no source
MOST_ASKEW_DEG = 20.0  # a face further off square is a mitre
# what holds the finish while a tail is bolted to it, and how far the pieces that are still out may be off
HELD_MM, HELD_DEG = 0.1, 0.03
OPEN_MM, OPEN_DEG = 60.0, 6.0


@dataclass(frozen=True)
class ClosingPlace:
    """A straight (piece, from 0) as the closing one: how long to leave it [mm] so that it can be cut to fit in 95 of
    100 builds, and how far askew its faces may then have to be [deg].
    """

    piece: int
    planned_mm: float
    leave_mm: float
    trim_deg: float


def closing_places(plan: Chain, spread: Vector, least_mm: float) -> list[ClosingPlace]:
    """Every straight no shorter than `least_mm`, the best first: where faces have to be trimmed least. `spread` is the
    covariance of the errors (5 n, 5 n).

    What lies ahead is built from the start, measured and answered as it goes, so that only the last pieces ahead of it
    count; what lies behind is built from the finish; the straight is what joins them, so its own errors do not count.
    """
    as_planned = np.zeros((len(plan.steps), len(ERRORS)))
    frames, moves = built(plan, as_planned), twists(plan, as_planned)
    out = []
    for k, step in enumerate(plan.steps):
        at_an_end = plan.piece[k] in (0, plan.piece[-1])  # its other end is a port, or the flange that goes to one
        if step[0] != chain.LEG or not plan.whole(k) or step[1] < least_mm or at_an_end:
            continue
        by = moves.copy()
        by[: plan.first_of(max(0, plan.piece[k] - ANSWERED))] = 0.0
        by[k] = 0.0
        if k + 1 < len(moves):
            by[k + 1, 3:] = 0.0  # the joint behind it is made last too
        by = by.reshape(-1, 6).T
        wide = by @ spread @ by.T
        flow, side, across = frames[k][:, 0], frames[k][:, 1], frames[k][:, 2]
        middle = (frames[k][:, 3] + frames[k + 1][:, 3]) / 2
        turn = np.hstack([np.eye(3), np.zeros((3, 3))])
        shift = np.hstack([-_skew(middle), np.eye(3)])
        along = float(flow @ (shift @ wide @ shift.T) @ flow)
        # what its two faces make up: half of how the ends are turned, and how far they stand beside each other
        off = [axis @ turn / 2 + way @ shift / float(step[1]) for axis, way in ((across, side), (side, -across))]
        askew = float(np.sqrt(max(one @ wide @ one for one in off)) / RAD)
        trim = WITHIN * askew
        longer = WITHIN * np.sqrt(along) + float(plan.od_mm[k]) * np.tan(trim * RAD)
        out.append(ClosingPlace(plan.piece[k], float(step[1]), float(step[1] + longer), trim))
    out.sort(key=lambda one: (one.trim_deg, one.piece))
    return [one for k, one in enumerate(out) if k == 0 or one.trim_deg < MOST_ASKEW_DEG]


def _skew(point: Vector) -> Vector:
    """The matrix that crosses a point with a vector (3, 3)."""
    x, y, z = point
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def tack_order(count: int, closing: int, *, from_finish: bool) -> list[int]:
    """In which order pieces (from 0) are tacked: from the start back to the closing one, then, where the finish is
    fixed, from the finish forward to it, the closing one last.
    """
    if not from_finish:
        return list(range(count))
    return [*range(closing), *range(count - 1, closing, -1), closing]


def held_finish(last: int, finish: Vector) -> list[Reading]:
    """That the last piece ends where a tail is bolted, a frame (3, 4), as readings."""
    axes: tuple[Kind, ...] = ("back", "right", "up")
    point = [
        Reading(last, kind, float(value), HELD_MM, held=True) for kind, value in zip(axes, finish[:, 3], strict=True)
    ]
    ways = [(float(way[0]), float(way[1]), float(way[2])) for way in (finish[:, 1], finish[:, 2])]
    return [*point, *(Reading(last, "square", 0.0, HELD_DEG, way, held=True) for way in ways)]


def with_gap(plan: Chain, spreads: Vector, front: int, tail: int) -> Vector:
    """The spreads (n, 5) while pieces from `front` up to `tail` are out: nothing is known of how they will go in."""
    out = spreads.copy()
    still_out = [k for k, piece in enumerate(plan.piece) if front <= piece < tail and plan.whole(k)]
    for k in [*still_out, plan.first_of(tail)]:
        out[k, 3:] = OPEN_DEG
        out[k, 2] = OPEN_DEG if plan.turns_on[k] else out[k, 2]
        out[k, 0] = OPEN_MM if plan.steps[k, 0] == chain.LEG and k in still_out else out[k, 0]
    return out


def between(found: Found, front: int, tail: int) -> tuple[Chain, Vector]:
    """Return the pieces between a front and a tail as a chain, its last step the tail's own face, and the frame (3, 4)
    that the tail's face was found at.
    """
    plan, behind = found.plan, found.plan.first_of(tail)
    first = plan.first_of(front)
    target = standing(plan, found.errors, found.frames, behind)
    rest = rest_of(plan, found.frames[first], first, behind)
    face = np.array([[chain.LEG, 0.0, 0.0, 0.0]])
    return replace(
        rest,
        steps=np.concatenate([rest.steps, face]),
        piece=(*rest.piece, tail),
        od_mm=np.append(rest.od_mm, plan.od_mm[behind]),
        trims=np.concatenate([rest.trims, plan.trims[behind : behind + 1]]),
    ), target
