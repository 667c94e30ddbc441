"""Ways that bodies go, compiled: a pose on a sweep, and how far anything can go within a stretch of it.

A *sweep* takes a body from one position to another: a turn about an axis with a slide along it, or a plain slide. It is
a row of SWEEP_WIDTH numbers: [about 3, unit axis 3, turn rad, slide 3, first position's turn 9 (by rows) and shift 3],
and at t in 0..1 puts a point x to  about + R(t turn) (B x + s - about) + t slide.

Pipe may be on a sweep, a thing on another, and all metal grow on the way from cold to hot: three parameters, each 0 to
1. A *box* (6,) of them is its middle 3 and half its size 3.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .clearance import Array
from .plates import FAR

SWEEP_WIDTH = 22
DEEP = 96  # a stack of halved boxes is never deeper than its three parameters halved to nothing


@njit(cache=True, nogil=True)
def pose_on(sweep, t, turn, shift):
    """The pose at t of a sweep: fills turn (3, 3) and shift (3,)."""
    angle = t * sweep[6]
    c, s = math.cos(angle), math.sin(angle)
    x, y, z = sweep[3], sweep[4], sweep[5]
    k = 1.0 - c
    r00, r01, r02 = c + k * x * x, k * x * y - s * z, k * x * z + s * y
    r10, r11, r12 = k * x * y + s * z, c + k * y * y, k * y * z - s * x
    r20, r21, r22 = k * x * z - s * y, k * y * z + s * x, c + k * z * z
    for j in range(3):
        b0, b1, b2 = sweep[10 + j], sweep[13 + j], sweep[16 + j]
        turn[0, j] = r00 * b0 + r01 * b1 + r02 * b2
        turn[1, j] = r10 * b0 + r11 * b1 + r12 * b2
        turn[2, j] = r20 * b0 + r21 * b1 + r22 * b2
    p0, p1, p2 = sweep[19] - sweep[0], sweep[20] - sweep[1], sweep[21] - sweep[2]
    shift[0] = sweep[0] + r00 * p0 + r01 * p1 + r02 * p2 + t * sweep[7]
    shift[1] = sweep[1] + r10 * p0 + r11 * p1 + r12 * p2 + t * sweep[8]
    shift[2] = sweep[2] + r20 * p0 + r21 * p1 + r22 * p2 + t * sweep[9]


def pose_at(sweep: Array, t: float) -> tuple[Array, Array]:
    """The pose at t of a sweep: turn (3, 3) and shift (3,)."""
    turn, shift = np.empty((3, 3)), np.empty(3)
    pose_on(sweep, t, turn, shift)
    return turn, shift


@njit(cache=True, nogil=True)
def velocity(sweep, x, out):
    """How fast a sweep moves what is at world point x [mm per whole sweep]: fills out (3,)."""
    w0, w1, w2 = sweep[6] * sweep[3], sweep[6] * sweep[4], sweep[6] * sweep[5]
    a0, a1, a2 = x[0] - sweep[0], x[1] - sweep[1], x[2] - sweep[2]
    out[0] = w1 * a2 - w2 * a1 + sweep[7]
    out[1] = w2 * a0 - w0 * a2 + sweep[8]
    out[2] = w0 * a1 - w1 * a0 + sweep[9]


@njit(cache=True, nogil=True)
def norm(v):
    return math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])


@njit(cache=True, nogil=True)
def relative(pipe, grows, thing, at, turn, shift, pose, place, other, off):
    """The pipe's pose seen from the thing, at the parameters `at`: fills turn (3, 3), shift (3,); gives the scale.
    Leaves the pipe's own pose in `pose`, `place` and the thing's in `other`, `off`.
    """
    pose_on(pipe, at[0], pose, place)
    pose_on(thing, at[2], other, off)
    scale = 1.0 + grows[0] * at[1]
    p = np.empty(3)
    for i in range(3):
        p[i] = place[i] - off[i]
        for j in range(3):
            p[i] += pose[i, j] * grows[1 + j] * at[1]
    for i in range(3):
        shift[i] = other[0, i] * p[0] + other[1, i] * p[1] + other[2, i] * p[2]
        for j in range(3):
            turn[i, j] = other[0, i] * pose[0, j] + other[1, i] * pose[1, j] + other[2, i] * pose[2, j]
    return scale


@njit(cache=True, nogil=True)
def moved_segment(seg, turn, shift, scale, out):
    """A segment where x -> scale turn x + shift puts it."""
    out[:] = seg
    for i in range(3):
        out[3 + i] = scale * (turn[i, 0] * seg[3] + turn[i, 1] * seg[4] + turn[i, 2] * seg[5]) + shift[i]
        out[6 + i] = turn[i, 0] * seg[6] + turn[i, 1] * seg[7] + turn[i, 2] * seg[8]
        out[9 + i] = turn[i, 0] * seg[9] + turn[i, 1] * seg[10] + turn[i, 2] * seg[11]
    out[1], out[2], out[12] = seg[1] * scale, seg[2] * scale, seg[12] * scale


@njit(cache=True, nogil=True)
def losses(point, reach, pipe, grows, thing, at, half, pose, place, rates):
    """At most how far [mm] anything within `reach` of a cold point goes, seen from the thing, within `half` (3,) of the
    parameters `at`: (that, how much of an angle it turns or grows by). Fills rates (3, 3) with the velocities there.
    """
    x, cold = np.empty(3), np.empty(3)
    for i in range(3):
        cold[i] = point[i] * (1.0 + grows[0] * at[1]) + grows[1 + i] * at[1]
    for i in range(3):
        x[i] = pose[i, 0] * cold[0] + pose[i, 1] * cold[1] + pose[i, 2] * cold[2] + place[i]
    velocity(pipe, x, rates[0])
    velocity(thing, x, rates[2])
    for i in range(3):
        rates[1, i] = 0.0
        rates[2, i] = -rates[2, i]
        for j in range(3):
            rates[1, i] += pose[i, j] * (grows[0] * point[j] + grows[1 + j])
    turned = half[0] * abs(pipe[6]) + half[1] * abs(grows[0]) + half[2] * abs(thing[6])
    far = half[0] * (norm(rates[0]) + abs(pipe[6]) * reach) + half[1] * (norm(rates[1]) + abs(grows[0]) * reach)
    far += half[2] * (norm(rates[2]) + abs(thing[6]) * reach)
    return far / (1.0 - turned) if turned < 0.5 else FAR, turned


@njit(cache=True, nogil=True)
def widest(half, lost):
    """Which parameter of a box to halve: the one by which most is lost."""
    best, which = -1.0, 0
    for i in range(3):
        if half[i] * lost[i] > best:
            best, which = half[i] * lost[i], i
    return which


@njit(cache=True, nogil=True)
def pushed(stack, top, box, i):
    """Put both halves of a box, halved in its parameter i, on a stack (DEEP, 6): how many are on it then."""
    for side in (-1.0, 1.0):
        stack[top] = box
        stack[top, 3 + i] = 0.5 * box[3 + i]
        stack[top, i] = box[i] + side * 0.5 * box[3 + i]
        top += 1
    return top


@njit(cache=True, nogil=True)
def with_corners(stack, box):
    """Put a box and, to be looked at first, its corners on a stack (DEEP, 6): named positions, where nothing is halved.
    How many are on it then.
    """
    stack[0], top = box, 1
    for which in range(8):
        corner = stack[top]
        corner[0], corner[1], corner[2] = which & 1, (which >> 1) & 1, (which >> 2) & 1
        corner[3:] = 0.0
        if (corner[0] <= 2.0 * box[3]) and (corner[1] <= 2.0 * box[4]) and (corner[2] <= 2.0 * box[5]):
            top += 1
    return top


@njit(cache=True, nogil=True)
def is_corner(box):
    """Whether a box is a named position."""
    return box[3] == 0.0 and box[4] == 0.0 and box[5] == 0.0


@njit(cache=True, nogil=True)
def first_box(pipe, grows, thing, box):
    """Fills the box (6,) of all that a pair of sweeps and growth can be at; whether anything moves at all."""
    box[:] = 0.5
    if pipe[6] == 0.0 and norm(pipe[7:10]) == 0.0:
        box[0] = box[3] = 0.0
    if grows[0] == 0.0 and norm(grows[1:4]) == 0.0:
        box[1] = box[4] = 0.0
    if thing[6] == 0.0 and norm(thing[7:10]) == 0.0:
        box[2] = box[5] = 0.0
    return box[3] > 0.0 or box[4] > 0.0 or box[5] > 0.0


@njit(cache=True, nogil=True)
def speeds(pipe, grows, thing, rates, reach, lost):
    """Fills lost (3,) with how fast each parameter moves what is within `reach` of a place with velocities `rates`."""
    lost[0] = norm(rates[0]) + abs(pipe[6]) * reach
    lost[1] = norm(rates[1]) + abs(grows[0]) * reach
    lost[2] = norm(rates[2]) + abs(thing[6]) * reach
