"""Gaps over whole travels, compiled: of tubes to triangles, and of the bodies of parts; as `travel` finds those of
tubes.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .clearance import centre, swept_gap
from .mesh_gap import mesh_gaps
from .plates import FAR
from .solids import signed_distance
from .sweeping import (
    DEEP,
    first_box,
    is_corner,
    losses,
    moved_segment,
    norm,
    pushed,
    relative,
    speeds,
    widest,
    with_corners,
)
from .travel import STEP_MM, TRAVEL_MM, ball_of

MOST_MESH_BOXES = 400


@njit(cache=True, nogil=True)
def mesh_travel_gaps(
    segs, pipes, grows, rows, low, high, closed, own_turn, own_shift, things, best, along, which, where
):
    """As `travel_gaps`, to one thing of triangles set down by own_turn (3, 3) and own_shift (3,): betters best (n,)
    with along (n,), which (n, 2) and where (n, 3). Of triangles nothing is known but how fast the pipe goes.
    """
    turn, pose, other, rates = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    shift, place, off, point, lost = np.empty(3), np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    stack, box, one = np.empty((DEEP, 6)), np.empty(6), np.empty((1, segs.shape[1]))
    back = np.ascontiguousarray(own_turn.T)
    for a in range(pipes.shape[0]):
        for b in range(things.shape[0]):
            if not first_box(pipes[a], grows, things[b], box):
                continue
            for k in range(segs.shape[0]):
                reach = ball_of(segs[k], point)
                stack[0], top, looks = box, 1, 0
                while top > 0:
                    top -= 1
                    now = stack[top].copy()
                    scale = relative(pipes[a], grows, things[b], now[:3], turn, shift, pose, place, other, off)
                    far, _ = losses(point, reach, pipes[a], grows, things[b], now[:3], now[3:], pose, place, rates)
                    moved_segment(segs[k], back @ turn, back @ (shift - own_shift), scale, one[0])
                    gaps, at = mesh_gaps(one, rows, low, high, closed, best[k] + min(far, 1e6))
                    looks += 1
                    if at[0] < 0.0:
                        continue
                    if gaps[0] < best[k] - STEP_MM:
                        best[k], along[k], where[k] = gaps[0], at[0] / scale, now[:3]
                        which[k, 0], which[k, 1] = a, b
                    if gaps[0] - far >= best[k] - TRAVEL_MM:
                        continue
                    if looks > MOST_MESH_BOXES or top > DEEP - 3:
                        best[k], along[k] = best[k] - min(far, FAR), max(along[k], 0.0)
                        continue
                    speeds(pipes[a], grows, things[b], rates, reach, lost)
                    top = pushed(stack, top, now, widest(now[3:], lost))


@njit(cache=True, nogil=True)
def _body_arm(body, halves, n):
    """How far anything of a body may lie from its middle in the direction n, which need not be a unit [mm]. body (4,
    3): its middle, flow, and the ways u and v that it is wide; halves (4,): half its length, half its width along u and
    v, its rounding, all round its flow.
    """
    arm = halves[3] * norm(n)
    for i in range(3):
        arm += halves[i] * abs(n[0] * body[1 + i, 0] + n[1] * body[1 + i, 1] + n[2] * body[1 + i, 2])
    return arm


@njit(cache=True, nogil=True)
def _body_parted(body, halves, row, n):
    """How far a plane parts a body from a solid, the best found by going to and fro between them; minus FAR where the
    body's core is inside. Fills its direction n (3,), from the solid to the body.
    """
    core, grad, best = body[0].copy(), np.empty(3), -FAR
    for _ in range(6):
        value = signed_distance(row, core[0], core[1], core[2], grad)
        if value <= 1e-6:
            break
        level = grad[0] * body[1, 0] + grad[1] * body[1, 1] + grad[2] * body[1, 2]
        reach = halves[3] * math.sqrt(max(0.0, 1.0 - level * level))
        least, nearest = 0.0, np.zeros(3)
        for i in range(3):
            least += grad[i] * (body[0, i] - core[i] + value * grad[i])
        for i in range(3):
            reach += halves[i] * abs(grad[0] * body[1 + i, 0] + grad[1] * body[1 + i, 1] + grad[2] * body[1 + i, 2])
        if least - reach > best:
            best = least - reach
            n[0], n[1], n[2] = grad[0], grad[1], grad[2]
        for i in range(3):  # the place of the body's core nearest to the place of the solid nearest to the last one
            along = 0.0
            for j in range(3):
                along += (core[j] - value * grad[j] - body[0, j]) * body[1 + i, j]
            along = min(max(along, -halves[i]), halves[i])
            for j in range(3):
                nearest[j] += along * body[1 + i, j]
        for j in range(3):
            core[j] = body[0, j] + nearest[j]
    return best


@njit(cache=True, nogil=True)
def body_travel_gaps(seg, half_u, half_v, u, v, pipes, grows, rows, firsts, things, thing_firsts, best, which, where):
    """As `travel.travel_gaps`, of one body (`clearance.swept_gap`) to things: betters best (m,), with which (m, 2) and
    where (m, 3); a thing that nothing nearer than best is found of has -1 in which.
    """
    box, was = np.empty(6), 0.0
    for j in range(firsts.shape[0] - 1):
        some = rows[firsts[j] : firsts[j + 1]]
        for a in range(pipes.shape[0]):
            for b in range(thing_firsts[j], thing_firsts[j + 1]):
                if first_box(pipes[a], grows, things[b], box):
                    was = best[j]
                    best[j] = _body_search(
                        seg, half_u, half_v, u, v, pipes[a], grows, some, things[b], box, was, where[j]
                    )
                    if best[j] < was:
                        which[j, 0], which[j, 1] = a, b - thing_firsts[j]


@njit(cache=True, nogil=True)
def _body_search(seg, half_u, half_v, u, v, pipe, grows, rows, thing, first, best, where):
    """The least gap of a body to one thing's solids over one pair of sweeps, below `best`; fills where (3,)."""
    stack, now, lost, here = np.empty((DEEP, 6)), np.empty(6), np.empty(3), np.empty(6)
    centre(seg, 0.5 * seg[1], here)
    reach = math.sqrt((0.5 * seg[1]) ** 2 + half_u**2 + half_v**2) + seg[2]
    _, _, is_open = _body_look(seg, half_u, half_v, u, v, here[:3], reach, pipe, grows, rows, thing, first, best, lost)
    if not is_open:
        return best
    top, looks = with_corners(stack, first), 0
    while top > 0:
        top -= 1
        now[:] = stack[top]
        looks += 1
        gap, far, is_open = _body_look(
            seg, half_u, half_v, u, v, here[:3], reach, pipe, grows, rows, thing, now, best, lost
        )
        if gap < best - (0.0 if is_corner(now) else STEP_MM):
            best = gap
            where[:] = now[:3]
        if not is_open:
            continue
        if looks > MOST_MESH_BOXES or top > DEEP - 3:
            return best - min(far, FAR)
        top = pushed(stack, top, now, widest(now[3:], lost))
    return best


@njit(cache=True, nogil=True)
def _body_look(seg, half_u, half_v, u, v, middle, reach, pipe, grows, rows, thing, now, best, lost):
    """Look at the middle of one box at a body: its gap there if less than `best`, at most how far it goes in the box,
    and whether it may come nearer in it; fills lost (3,) with by what.
    """
    turn, pose, other, rates = np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3)), np.empty((3, 3))
    shift, place, off, one = np.empty(3), np.empty(3), np.empty(3), np.empty_like(seg)
    body, halves, n, world = np.empty((4, 3)), np.empty(4), np.empty(3), np.empty(3)
    scale = relative(pipe, grows, thing, now[:3], turn, shift, pose, place, other, off)
    far, turned = losses(middle, reach, pipe, grows, thing, now[:3], now[3:], pose, place, rates)
    moved_segment(seg, turn, shift, scale, one)
    _set_body(one, turn, scale, half_u, half_v, u, v, body, halves)
    is_open = False
    for q in range(rows.shape[0]):
        value = signed_distance(rows[q], body[0, 0], body[0, 1], body[0, 2], n)
        if value - reach * scale - far >= best - TRAVEL_MM:
            continue
        parted = _body_parted(body, halves, rows[q], n)
        if parted > 0.0 and turned < 0.5:
            lose = _body_through(n, other, body, halves, pipe, grows, thing, now[3:], rates, world)
            if parted - lose - turned * far >= best - TRAVEL_MM:
                continue
        cull = best + min(far, 1e6)
        gap = swept_gap(one, half_u * scale, half_v * scale, body[2], body[3], rows[q], cull)
        best = min(best, gap)
        is_open = is_open or gap - far < best - TRAVEL_MM
    speeds(pipe, grows, thing, rates, reach, lost)
    return best, far, is_open


@njit(cache=True, nogil=True)
def _set_body(one, turn, scale, half_u, half_v, u, v, body, halves):
    """Fills a moved body as `_body_arm` takes it, from its moved rod."""
    for i in range(3):
        body[0, i] = one[3 + i] + 0.5 * one[1] * one[6 + i]
        body[1, i] = one[6 + i]
        body[2, i] = turn[i, 0] * u[0] + turn[i, 1] * u[1] + turn[i, 2] * u[2]
        body[3, i] = turn[i, 0] * v[0] + turn[i, 1] * v[1] + turn[i, 2] * v[2]
    halves[0], halves[1], halves[2], halves[3] = 0.5 * one[1], half_u * scale, half_v * scale, one[2]


@njit(cache=True, nogil=True)
def _body_through(n, other, body, halves, pipe, grows, thing, half, rates, world):
    """As `_through`, of a body: all in the thing's frame but the velocities and the sweeps' axes, which are the
    world's.
    """
    for i in range(3):
        world[i] = other[i, 0] * n[0] + other[i, 1] * n[1] + other[i, 2] * n[2]
    lost = half[1] * (
        abs(world[0] * rates[1, 0] + world[1] * rates[1, 1] + world[2] * rates[1, 2])
        + abs(grows[0]) * _body_arm(body, halves, n)
    )
    across, back = np.empty(3), np.empty(3)
    for which in range(2):
        sweep, i = (pipe, 0) if which == 0 else (thing, 2)
        across[0] = sweep[6] * (world[1] * sweep[5] - world[2] * sweep[4])
        across[1] = sweep[6] * (world[2] * sweep[3] - world[0] * sweep[5])
        across[2] = sweep[6] * (world[0] * sweep[4] - world[1] * sweep[3])
        for c in range(3):
            back[c] = other[0, c] * across[0] + other[1, c] * across[1] + other[2, c] * across[2]
        lost += half[i] * (
            abs(world[0] * rates[i, 0] + world[1] * rates[i, 1] + world[2] * rates[i, 2])
            + _body_arm(body, halves, back)
        )
    return lost
