"""Gaps of tubes over whole travels, compiled: the least between two positions too, by a proven bound.
All that a pipe, a thing and the growth of the metal can be at is a box of three parameters (`sweeping`). A box is
looked at in its middle, in the thing's own frame, where only the pipe moves. What the gap can lose within the box is
bounded twice, and the better bound counts:
    by how far the fastest point of the segment goes: no gap changes faster than that;
    where they are apart, by the plane that parts them at the middle: only what goes through it counts, and what the
    segment's own shape and the change of direction on the way can add.
A box that cannot hold less than the best so far, less TRAVEL_MM, is dropped; the rest is halved where most is lost. No
gap is overstated by more than TRAVEL_MM and STEP_MM. Where MOST_BOXES are not enough, the bound itself is given: never
too much.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .clearance import ARC, HEEL, STRAIGHT, centre, falling_stretch, falls_away, reach_of, segment_gap
from .plates import FAR, cross, disc_gap
from .solids import signed_distance
from .sweeping import (
    DEEP,
    first_box,
    losses,
    moved_segment,
    norm,
    pose_on,
    pushed,
    relative,
    speeds,
    widest,
)

TRAVEL_MM = 0.4
POLISHED = 1e-4  # of a travel: less shows in no figure
STEP_MM = 0.05  # a place between two named ones is only told of where it is nearer than both by this
MOST_BOXES = 4000
NEAR_AN_END = 3  # segments at a chain's end that may be trimmed to its flat end; further in it is never too much


@njit(cache=True, nogil=True)
def ball_of(seg, out):
    """A point within `reach` of all of a segment: fills out (3,) and gives reach [mm]."""
    here = np.empty(6)
    centre(seg, 0.5 * seg[1], here)
    out[0], out[1], out[2] = here[0], here[1], here[2]
    return 0.5 * seg[1] + reach_of(seg)


@njit(cache=True, nogil=True)
def _arm(n, flow, long, reach):
    """How far anything of a segment may lie from its middle in the direction n, which need not be a unit [mm]: a
    straight of `long` mm along `flow` either way and round it, or (0 long) anything within `reach`.
    """
    return abs(n[0] * flow[0] + n[1] * flow[1] + n[2] * flow[2]) * long + norm(n) * reach


@njit(cache=True, nogil=True)
def _turning(sweep, n, flow, long, reach):
    """At most how much faster than its middle anything of a segment goes toward n by a sweep's turning [mm]."""
    if sweep[6] == 0.0:
        return 0.0
    across = np.empty(3)
    across[0] = sweep[6] * (n[1] * sweep[5] - n[2] * sweep[4])
    across[1] = sweep[6] * (n[2] * sweep[3] - n[0] * sweep[5])
    across[2] = sweep[6] * (n[0] * sweep[4] - n[1] * sweep[3])
    return _arm(across, flow, long, reach)


@njit(cache=True, nogil=True)
def _through(n, flow, long, reach, pipe, grows, thing, half, rates):
    """At most how far [mm] anything of a segment goes against a world direction n within a box, but for changes of
    direction; `flow`, `long` and `reach` as of `_arm`.
    """
    lost = half[1] * (
        abs(n[0] * rates[1, 0] + n[1] * rates[1, 1] + n[2] * rates[1, 2]) + abs(grows[0]) * _arm(n, flow, long, reach)
    )
    lost += half[0] * (
        abs(n[0] * rates[0, 0] + n[1] * rates[0, 1] + n[2] * rates[0, 2]) + _turning(pipe, n, flow, long, reach)
    )
    lost += half[2] * (
        abs(n[0] * rates[2, 0] + n[1] * rates[2, 1] + n[2] * rates[2, 2]) + _turning(thing, n, flow, long, reach)
    )
    return lost


@njit(cache=True, nogil=True)
def _farthest_at(seg, s, n, here, out):
    """The place of a segment's section at `s` mm, or of a heel's slanted face, that is farthest against the unit n:
    fills out (3,), and gives n . it.
    """
    if seg[0] == HEEL:
        wide, steep = np.empty(3), np.empty(3)
        cross(seg[6:9], seg[9:12], wide)
        a = b = 0.0
        for i in range(3):
            steep[i] = seg[2] * seg[9 + i] + seg[12] * seg[6 + i]
            a += n[i] * wide[i] * seg[2]
            b += n[i] * steep[i]
        size = math.sqrt(max(1e-18, a * a + b * b))
        for i in range(3):
            out[i] = seg[3 + i] - (a * seg[2] * wide[i] + b * steep[i]) / size
    else:
        centre(seg, s, here)
        level = n[0] * here[3] + n[1] * here[4] + n[2] * here[5]
        size = math.sqrt(max(1e-12, 1.0 - level * level))
        for i in range(3):
            out[i] = here[i] - seg[2] * (n[i] - level * here[3 + i]) / size
    return n[0] * out[0] + n[1] * out[1] + n[2] * out[2]


@njit(cache=True, nogil=True)
def _least_along(seg, n, here, out):
    """The least of n . x over a segment, flat at its ends; n a unit. A heel is the hull of its two faces."""
    if seg[0] == HEEL:
        least = _farthest_at(seg, 0.0, n, here, out)
        level = n[0] * seg[6] + n[1] * seg[7] + n[2] * seg[8]
        middle = n[0] * seg[3] + n[1] * seg[4] + n[2] * seg[5]
        return min(least, middle - seg[2] * math.sqrt(max(0.0, 1.0 - level * level)))
    best = min(_farthest_at(seg, 0.0, n, here, out), _farthest_at(seg, seg[1], n, here, out))
    if seg[0] == ARC:  # inside only where the flow is square to n: the radius of the pipe is less than the bend's
        forward = n[0] * seg[6] + n[1] * seg[7] + n[2] * seg[8]
        aside = n[0] * seg[9] + n[1] * seg[10] + n[2] * seg[11]
        t = math.atan2(-forward, aside)
        for k in range(3):
            s = seg[12] * (t + math.pi * k)
            if 0.0 < s < seg[1]:
                best = min(best, _farthest_at(seg, s, n, here, out))
    return best


@njit(cache=True, nogil=True)
def _parted(seg, row, along, other, n):
    """How far a plane parts a segment from a solid, at a place where they are apart: minus FAR where that place is
    inside. Fills the world direction n (3,) from the solid to the segment; `other` is the solid's pose.
    """
    here, grad, out, at = np.empty(6), np.empty(3), np.empty(3), np.empty(3)
    centre(seg, along, here)
    value = signed_distance(row, here[0], here[1], here[2], grad)
    if value <= 1e-6:
        return -FAR
    best = _least_along(seg, grad, here, out) - (_at_point(seg, along, grad, here) - value)
    n[0], n[1], n[2] = grad[0], grad[1], grad[2]
    is_face = seg[0] == HEEL or along <= 0.0 or along >= seg[1]
    for _ in range(3 if is_face else 0):  # of an end its rim is nearest, not its middle
        _farthest_at(seg, along, grad, here, at)
        value = signed_distance(row, at[0], at[1], at[2], grad)
        if value <= 1e-6:
            break
        face = grad[0] * at[0] + grad[1] * at[1] + grad[2] * at[2] - value
        parted = _least_along(seg, grad, here, out) - face
        if parted > best:
            best = parted
            n[0], n[1], n[2] = grad[0], grad[1], grad[2]
    x, y, z = n[0], n[1], n[2]
    for i in range(3):
        n[i] = other[i, 0] * x + other[i, 1] * y + other[i, 2] * z
    return best


@njit(cache=True, nogil=True)
def _at_point(seg, along, n, here):
    """n . the centre of a segment's section at `along` mm."""
    centre(seg, along, here)
    return n[0] * here[0] + n[1] * here[1] + n[2] * here[2]


@njit(cache=True, nogil=True)
def _with_its_face(seg, row, low, high, gap, s):
    """Gap of a segment that is trimmed to [low, high] mm, taken as flat at its own face toward the open end behind
    others: (gap, along). What is trimmed in one place of the way may count in another, and of a body that is flat
    wherever it may be trimmed no gap changes faster than the body goes.
    """
    here = np.empty(6)
    for end in range(2):
        is_trimmed = low > 0.0 if end == 0 else high < seg[1]
        if not is_trimmed or int(seg[13]) & (1 + end):  # an open end was looked at
            continue
        centre(seg, seg[1] * end, here)
        value = disc_gap(here[:3], here[3:], seg[2], row, gap)
        if value < gap:
            gap, s = value, seg[1] * end
    return gap, s


@njit(cache=True, nogil=True)
def _through_box(one, reach, n, other, pipe, grows, thing, half, rates):
    """At most how far [mm] a segment, as a thing of pose `other` sees it, goes against a world direction n in a box,
    but for changes of direction.
    """
    flow = np.empty(3)
    long, round_it = (0.0, reach) if one[0] != STRAIGHT else (0.5 * one[1], one[2])
    for i in range(3):  # in the world
        flow[i] = other[i, 0] * one[6] + other[i, 1] * one[7] + other[i, 2] * one[8]
    return _through(n, flow, long, round_it, pipe, grows, thing, half, rates)


@njit(cache=True, nogil=True)
def look(segs, k, rows, pipe, grows, thing, box, best, along, where, step, lost):
    """Look at the middle of one box at segment k of a chain (n, 14): better `best`, `along` and `where` of it by more
    than `step` mm. Gives whether it may come nearer in the box; then fills lost (3,) with by what.
    """
    turn, pose, other, rates = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    shift, place, off = np.empty(3), np.empty(3), np.empty(3)
    point, normal = np.empty(3), np.empty(3)
    at, half, one = box[:3], box[3:], np.empty(segs.shape[1])
    scale = relative(pipe, grows, thing, at, turn, shift, pose, place, other, off)
    cold_reach = ball_of(segs[k], point)
    far, turned = losses(point, cold_reach, pipe, grows, thing, at, half, pose, place, rates)
    moved_segment(segs[k], turn, shift, scale, one)
    reach = ball_of(one, point)
    by_an_end, is_open = k < NEAR_AN_END or k >= segs.shape[0] - NEAR_AN_END, False
    for q in range(rows.shape[0]):
        value = signed_distance(rows[q], point[0], point[1], point[2], normal)
        if value - reach - far >= best[k] - TRAVEL_MM:
            continue
        low, high = 0.0, one[1]
        if by_an_end:
            low, high = _trimmed_one(segs, k, one, rows[q], turn, shift, scale)
        gap, s = segment_gap(one, rows[q], low, high, best[k] + min(far, 1e6))
        if s >= 0.0 and gap < best[k] - step:
            best[k], along[k] = gap, s / scale
            where[k, 0], where[k, 1], where[k, 2] = at[0], at[1], at[2]
        limit = best[k] - TRAVEL_MM
        if low > 0.0 or high < one[1]:
            limit = min(best[k], best.min()) - TRAVEL_MM
            gap, s = _with_its_face(one, rows[q], low, high, gap, s)
        if s < 0.0 or gap - far >= limit:
            continue
        if turned < 0.5:
            parted = _parted(one, rows[q], s, other, normal)
            if parted > 0.0:
                through = _through_box(one, reach, normal, other, pipe, grows, thing, half, rates)
                if parted - through - turned * far >= limit:
                    continue
        is_open = True
    if is_open:
        speeds(pipe, grows, thing, rates, cold_reach, lost)
    return is_open


@njit(cache=True, nogil=True)
def _trimmed_one(segs, k, one, row, turn, shift, scale):
    """Return the part of segment k of a moved chain, there `one`, that does not fall away from an open end: from, to
    [mm]. As `clearance.trimmed`, looking no further than segment k.
    """
    n, other = segs.shape[0], np.empty(segs.shape[1])
    ends = np.zeros(2)
    for end in range(2):
        falling, ahead = False, k if end == 0 else n - 1 - k
        for i in range(ahead + 1):
            at = i if end == 0 else n - 1 - i
            if segs[at, 0] == HEEL:
                continue
            falling = falling or int(segs[at, 13]) & (5 << end) > 0
            if not falling:
                continue
            if i == ahead:
                ends[end] = max(falling_stretch(one, row, end == 1), 1e-6 if one[1] == 0.0 else 0.0)
                break
            moved_segment(segs[at], turn, shift, scale, other)
            falling = falls_away(other, row, end == 1)
    return ends[0], one[1] - ends[1]


@njit(cache=True, nogil=True)
def _search(segs, k, rows, pipe, grows, thing, first, best, along, where):
    """The least gap of segment k of a chain (n, 14) to one thing's solids over one pair of sweeps, in the box `first`:
    betters best[k] [mm], along[k] [mm] and where[k] (3,), the parameters.
    """
    stack, lost, box, known, looks = np.empty((DEEP, 6)), np.empty(3), np.empty(6), best[k], 0
    if not look(segs, k, rows, pipe, grows, thing, first, best, along, where, STEP_MM, lost):
        return
    for which in range(8):  # the named positions first: what is nearest there is called by their names
        box[:3] = (which & 1, (which >> 1) & 1, (which >> 2) & 1)
        box[3:] = 0.0
        if (box[0] and first[3] == 0.0) or (box[1] and first[4] == 0.0) or (box[2] and first[5] == 0.0):
            continue
        look(segs, k, rows, pipe, grows, thing, box, best, along, where, 0.0, lost)
    stack[0], top = first, 1
    while top > 0:
        top -= 1
        box[:] = stack[top]
        looks += 1
        if not look(segs, k, rows, pipe, grows, thing, box, best, along, where, STEP_MM, lost):
            continue
        if looks > MOST_BOXES or top > DEEP - 3:  # take what it may hold at worst
            best[k], along[k] = best[k] - _most_lost(segs[k], pipe, grows, thing, box), max(along[k], 0.0)
            return
        top = pushed(stack, top, box, widest(box[3:], lost))
    if best[k] < known and not _is_named(where[k]):
        _polish(segs, k, rows, pipe, grows, thing, first, best, along, where)


@njit(cache=True, nogil=True)
def _most_lost(seg, pipe, grows, thing, box):
    """At most how far [mm] anything of a segment goes within a box."""
    pose, place, point, rates = np.empty((3, 3)), np.empty(3), np.empty(3), np.empty((3, 3))
    pose_on(pipe, box[0], pose, place)
    reach = ball_of(seg, point)
    far, _ = losses(point, reach, pipe, grows, thing, box[:3], box[3:], pose, place, rates)
    return min(far, FAR)


@njit(cache=True, nogil=True)
def _is_named(at):
    """Whether parameters are all at an end: nothing between positions is meant."""
    return (at[0] in (0.0, 1.0)) and (at[1] in (0.0, 1.0)) and (at[2] in (0.0, 1.0))


@njit(cache=True, nogil=True)
def _polish(segs, k, rows, pipe, grows, thing, first, best, along, where):
    """Walk from what was found down to the very nearest place about it, so that the same place is told whoever asks: a
    step of each parameter either way, halved where none leads down.
    """
    lost, box, step = np.empty(3), np.zeros(6), 1.0 / 16.0
    while step > POLISHED:
        before = best[k]
        for i in range(3):
            for side in (-1.0, 1.0):
                box[:3] = where[k]
                box[i] = min(1.0, max(0.0, box[i] + side * step))
                if first[3 + i] > 0.0 and box[i] != where[k, i]:
                    look(segs, k, rows, pipe, grows, thing, box, best, along, where, 0.0, lost)
        if not best[k] < before - 1e-7:
            step *= 0.5


@njit(cache=True, nogil=True)
def outlook(segs, pipe, grows, thing, box, balls):
    """Where a chain's segments (n, 14) are in the middle of a box, seen from a thing: fills balls (n, 5) with a ball
    round each (middle 3, radius) and how far it goes at most [mm].
    """
    turn, pose, other, rates = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    shift, place, off, point, one = np.empty(3), np.empty(3), np.empty(3), np.empty(3), np.empty(segs.shape[1])
    scale = relative(pipe, grows, thing, box[:3], turn, shift, pose, place, other, off)
    for k in range(segs.shape[0]):
        reach = ball_of(segs[k], point)
        balls[k, 4], _ = losses(point, reach, pipe, grows, thing, box[:3], box[3:], pose, place, rates)
        moved_segment(segs[k], turn, shift, scale, one)
        balls[k, 3] = ball_of(one, point)
        balls[k, :3] = point


@njit(cache=True, nogil=True)
def may_be_near(ball, rows, limit, grad):
    """Whether anything of a ball that may go so far can come nearer to solids than `limit` mm."""
    for q in range(rows.shape[0]):
        if signed_distance(rows[q], ball[0], ball[1], ball[2], grad) - ball[3] - ball[4] < limit:
            return True
    return False


@njit(cache=True, nogil=True)
def travel_gaps(segs, pipes, grows, rows, firsts, things, thing_firsts, needed, best, along, which, where, is_shared):
    """The least gaps of a chain's segments (n, 14) to things over all sweeps of both.
    pipes (a, 22) are the chain's sweeps, grows (4,) its growth to hot: share, shift. The solids of thing j are
    rows[firsts[j] : firsts[j + 1]], its sweeps things[thing_firsts[j] : thing_firsts[j + 1]]. best (m, n) [mm] is what
    is known already, or no nearer looked for: bettered, with along (m, n) [mm], and where (m, n, 3), the parameters, of
    which (m, n, 2), the sweeps. Where the best `is_shared`, only what leaves less over what each thing is `needed` (m,)
    than all the others do is looked for.
    """
    n, box, least, grad = segs.shape[0], np.empty(6), FAR, np.empty(3)
    balls, to_still, ready = (
        np.empty((n, 5)),
        np.empty((pipes.shape[0], n, 5)),
        np.zeros(pipes.shape[0], dtype=np.bool_),
    )
    for j in range(firsts.shape[0] - 1):
        some = rows[firsts[j] : firsts[j + 1]]
        for a in range(pipes.shape[0]):
            for b in range(thing_firsts[j], thing_firsts[j + 1]):
                if not first_box(pipes[a], grows, things[b], box):
                    continue
                if box[5] == 0.0 and ready[a]:  # from all things that stay, pipe looks alike
                    balls[:] = to_still[a]
                else:
                    outlook(segs, pipes[a], grows, things[b], box, balls)
                    if box[5] == 0.0:
                        to_still[a], ready[a] = balls, True
                for i in range(n):  # from the ends inward: an open end's face bounds what is trimmed behind it
                    k = i // 2 if i % 2 == 0 else n - 1 - i // 2
                    was = best[j, k] = min(best[j, k], least + needed[j]) if is_shared else best[j, k]
                    if not may_be_near(balls[k], some, was - TRAVEL_MM, grad):
                        continue
                    _search(segs, k, some, pipes[a], grows, things[b], box, best[j], along[j], where[j])
                    if best[j, k] < was:
                        which[j, k, 0], which[j, k, 1] = a, b - thing_firsts[j]
                        least = min(least, best[j, k] - needed[j])
