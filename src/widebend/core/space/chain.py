"""The chain kernel: lays legs, bends and rigid parts one after the other, exactly, with its derivative.

A chain is an array of steps (n, 4): [kind, a, b, c].
    LEG    a = length [mm]
    BEND   a = angle [deg], b = centre-line radius [mm], c = roll [deg]
    MITRE  a = turn [deg], c = roll [deg]
    RIGID  a = index into `rigid` (k, 3, 4), c = roll [deg]
A frame is (3, 4): columns flow, reference, across, point (see `frame.Pose.matrix`). A bend turns from the flow toward
the side at its roll; legs and bends carry the reference rigidly (parallel transport).
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

LEG, BEND, MITRE, RIGID = 0, 1, 2, 3
RAD = math.pi / 180.0
Array = NDArray[np.float64]


@njit(cache=True)
def _roll(frame, roll_deg):
    """The frame with its reference turned clockwise seen against the flow."""
    c, s = math.cos(roll_deg * RAD), math.sin(roll_deg * RAD)
    out = frame.copy()
    for i in range(3):
        out[i, 1] = c * frame[i, 1] + s * frame[i, 2]
        out[i, 2] = c * frame[i, 2] - s * frame[i, 1]
    return out


@njit(cache=True)
def _turn(frame, angle_deg, radius):
    """The frame after an arc toward its reference side."""
    c, s = math.cos(angle_deg * RAD), math.sin(angle_deg * RAD)
    out = frame.copy()
    for i in range(3):
        f, r = frame[i, 0], frame[i, 1]
        out[i, 0] = c * f + s * r
        out[i, 1] = c * r - s * f
        out[i, 3] = frame[i, 3] + radius * (s * f + (1.0 - c) * r)
    return out


@njit(cache=True)
def step_frame(frame, step, rigid):
    """The frame after one step of a chain."""
    kind = int(step[0])
    if kind == LEG:
        out = frame.copy()
        for i in range(3):
            out[i, 3] += step[1] * frame[i, 0]
        return out
    rolled = _roll(frame, step[3])
    if kind == RIGID:
        local = rigid[int(step[1])]
        out = np.empty((3, 4))
        for i in range(3):
            for j in range(4):
                out[i, j] = rolled[i, 0] * local[0, j] + rolled[i, 1] * local[1, j] + rolled[i, 2] * local[2, j]
            out[i, 3] += rolled[i, 3]
        return _roll(out, -step[3])
    radius = step[2] if kind == BEND else 0.0
    return _roll(_turn(rolled, step[1], radius), -step[3])


@njit(cache=True)
def lay_frames(start, steps, rigid):
    """Every frame along a chain: shape (n + 1, 3, 4), the first being `start`."""
    frames = np.empty((steps.shape[0] + 1, 3, 4))
    frames[0] = start
    for i in range(steps.shape[0]):
        frames[i + 1] = step_frame(frames[i], steps[i], rigid)
    return frames


@njit(cache=True)
def _cross(a, b):
    return np.array([a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]])


@njit(cache=True)
def _derivative(frames, step, index, column):
    """How the chain's end moves for one value of one step: (point 3, flow 3) per mm or per degree.

    Every value is a rigid motion of all that follows: a slide along the flow, or a turn about an axis.
    """
    before, after, end = frames[index], frames[index + 1], frames[-1]
    out = np.zeros(6)
    flow = before[:, 0].copy()
    if step[0] == LEG:
        out[:3] = flow
        return out
    if column == 3:  # roll: what lies behind turns about the incoming flow, clockwise seen against it
        axis = -flow
        centre = before[:, 3].copy()
    else:  # angle: what lies behind turns about the bend's centre line of rotation
        side = math.cos(step[3] * RAD) * before[:, 1] + math.sin(step[3] * RAD) * before[:, 2]
        axis = _cross(flow, side)
        centre = before[:, 3] + step[2] * side if step[0] == BEND else after[:, 3].copy()
    out[:3] = _cross(axis, end[:, 3] - centre) * RAD
    out[3:] = _cross(axis, end[:, 0].copy()) * RAD
    return out


@njit(cache=True)
def _solve_small(a, b):
    """Gaussian elimination with pivoting for a small system that is regularised, hence never singular."""
    n = b.shape[0]
    m = np.empty((n, n + 1))
    m[:, :n] = a
    m[:, n] = b
    for k in range(n):
        p = k
        for i in range(k + 1, n):
            if abs(m[i, k]) > abs(m[p, k]):
                p = i
        if p != k:
            for j in range(n + 1):
                t = m[k, j]
                m[k, j] = m[p, j]
                m[p, j] = t
        for i in range(k + 1, n):
            factor = m[i, k] / m[k, k]
            for j in range(k, n + 1):
                m[i, j] -= factor * m[k, j]
    x = np.empty(n)
    for k in range(n - 1, -1, -1):
        t = m[k, n]
        for j in range(k + 1, n):
            t -= m[k, j] * x[j]
        x[k] = t / m[k, k]
    return x


@njit(cache=True)
def end_error(frame, target, arm):
    """Return the closing error: point [mm] and flow scaled by `arm` [mm] so that both weigh alike: (6,)."""
    out = np.empty(6)
    for i in range(3):
        out[i] = target[i, 3] - frame[i, 3]
        out[3 + i] = (target[i, 0] - frame[i, 0]) * arm
    return out


@njit(cache=True)
def _bounded_step(jacobian, residual, room_low, room_high, mu):
    """The least-norm step that takes `residual` (6,) down, each value within its room (m,).

    J^T (J J^T + mu I)^-1 r; values that would leave their room are set to its edge and the rest solved again.
    """
    m = jacobian.shape[1]
    held = np.zeros(m, dtype=np.bool_)
    move = np.zeros(m)
    for _ in range(m + 1):
        active = jacobian.copy()
        wanted = residual.copy()
        for k in range(m):
            if held[k]:
                active[:, k] = 0.0
                wanted -= jacobian[:, k] * move[k]
        normal = active @ active.T
        for i in range(6):
            normal[i, i] += mu
        step = active.T @ _solve_small(normal, wanted)
        settled = True
        for k in range(m):
            if held[k]:
                continue
            if step[k] < room_low[k] - 1e-12 or step[k] > room_high[k] + 1e-12:
                held[k], settled = True, False
            move[k] = min(max(step[k], room_low[k]), room_high[k])
        if settled:
            break
    return move


@njit(cache=True)
def _jacobian(frames, steps, free, scale, arm):
    """Derivative of `end_error` by the scaled free values: (6, m)."""
    jacobian = np.empty((6, free.shape[0]))
    for k in range(free.shape[0]):
        d = _derivative(frames, steps[free[k, 0]], free[k, 0], free[k, 1]) * scale[k]
        for i in range(3):
            jacobian[i, k] = d[i]
            jacobian[3 + i, k] = d[3 + i] * arm
    return jacobian


@njit(cache=True)
def _moved(steps, free, low, high, change):
    """The chain with its free values changed, kept within their bounds."""
    out = steps.copy()
    for k in range(free.shape[0]):
        value = out[free[k, 0], free[k, 1]] + change[k]
        out[free[k, 0], free[k, 1]] = min(max(value, low[k]), high[k])
    return out


@njit(cache=True, nogil=True)
def close_chain(start, steps, rigid, target, free, low, high, arm, most_rounds):
    """Move the free values until the chain's end meets `target` in point and flow: (steps, error [mm]).

    free (m, 2) names step and column of each free value; low and high (m,) bound it. Damped Gauss-Newton of least
    norm, shortened until the error falls; a degree is weighed as `arm` times its radian so that legs and angles
    share the work. The error is the norm of `end_error`.
    """
    steps = steps.copy()
    m = free.shape[0]
    scale, value = np.empty(m), np.empty(m)
    for k in range(m):
        scale[k] = 1.0 if steps[free[k, 0], 0] == LEG else 1.0 / (RAD * arm)
    frames = lay_frames(start, steps, rigid)
    residual = end_error(frames[-1], target, arm)
    error = math.sqrt((residual * residual).sum())
    damping = 1e-3
    for _ in range(most_rounds):
        if error < 1e-10:
            break
        for k in range(m):
            value[k] = steps[free[k, 0], free[k, 1]]
        jacobian = _jacobian(frames, steps, free, scale, arm)
        mu = damping * max(error * error * 1e-2, 1e-12) + 1e-14
        change = scale * _bounded_step(jacobian, residual, (low - value) / scale, (high - value) / scale, mu)
        shrink, moved = 1.0, False
        for _try in range(8):
            trial = _moved(steps, free, low, high, shrink * change)
            trial_frames = lay_frames(start, trial, rigid)
            trial_residual = end_error(trial_frames[-1], target, arm)
            trial_error = math.sqrt((trial_residual * trial_residual).sum())
            if trial_error < error:
                steps, frames, residual, error, moved = trial, trial_frames, trial_residual, trial_error, True
                break
            shrink *= 0.4
        damping = damping * 0.3 if moved and shrink == 1.0 else min(damping * 4.0, 1e6)
        if not moved and damping > 1e4:
            break
    return steps, error
