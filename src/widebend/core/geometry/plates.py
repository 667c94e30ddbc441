"""Flat plates against a solid, compiled: how near they are, how far a clashing one must be moved, how deep it reaches.

A plate is {point + x u + y v: x^2 + y^2 <= radius^2}: an open end, or the slanted face of a heel.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .solids import HALFSPACE, face_count, face_normal, signed_distance, support

TOLERANCE_MM = 1e-3  # a hundredth of the best tape reading; the search stops here
FAR = 1e30
GOLDEN = 0.6180339887498949


@njit(cache=True, nogil=True)
def disc_gap(point, flow, radius, row, cull):
    """Signed distance of a flat disc to a solid; FAR when it cannot be nearer than `cull`."""
    u, v = np.empty(3), np.empty(3)
    if abs(flow[2]) < 0.9:
        u[0], u[1], u[2] = -flow[1], flow[0], 0.0
    else:
        u[0], u[1], u[2] = 0.0, -flow[2], flow[1]
    n = math.sqrt(u[0] ** 2 + u[1] ** 2 + u[2] ** 2)
    for i in range(3):
        u[i] /= n
    cross(flow, u, v)
    return plate_gap(point, u, v, radius, row, cull)


@njit(cache=True, nogil=True)
def cross(a, b, out):
    out[0], out[1], out[2] = a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


@njit(cache=True, nogil=True)
def plate_gap(point, u, v, radius, row, cull):
    """Signed distance of a flat plate {point + x u + y v: x^2 + y^2 <= radius^2} to a solid; FAR when not below `cull`.

    Clashing it is minus the least way the plate must be moved to be out: that goes to nothing as the plate leaves,
    while the depth of its deepest point says little in a thin solid.
    """
    grad, normal = np.empty(3), np.empty(3)
    value = signed_distance(row, point[0], point[1], point[2], grad)
    nearest = value - radius * _across(grad, u, v)  # a lower bound: convexity
    if nearest >= cull:
        return FAR
    best, bound = _cut_down(point, u, v, radius, row, value, normal)
    if best - bound < TOLERANCE_MM:
        return best
    if best > 0.0:
        best = min(best, _plate_search(point, u, v, radius, row, grad))
    return best if best > 0.0 else _way_out(point, u, v, radius, row, normal)


@njit(cache=True, nogil=True)
def _way_out(point, u, v, radius, row, normal):
    """Minus the least way [mm] a clashing plate must be moved to be out of a solid: over all directions, from each of
    those that the solid's faces suggest, turned as long as that is better.
    """
    best, way = -FAR, np.empty(3)
    for k in range(-1, face_count(row)):
        if k < 0:
            way[:] = normal
        else:
            face_normal(row, k, way)
        best = max(best, _turned_out(point, u, v, radius, row, way))
    return min(best, 0.0)


@njit(cache=True, nogil=True)
def _turned_out(point, u, v, radius, row, way):
    """The most that a plate and a solid are apart along directions near `way`: turned to every side by a step, which is
    halved when three fans of eight, each set between the others, find nothing better. What is sought has ridges.
    """
    best = _apart(point, u, v, radius, row, way)
    if row[0] == HALFSPACE:
        return best
    step, fans = 0.25, 0
    a, b, turned, other = np.empty(3), np.empty(3), np.empty(3), np.empty(3)
    while step > 1e-5:
        square_to(way, a)
        cross(way, a, b)
        found, size = False, math.sqrt(1.0 + step * step)
        for k in range(8):
            t = (k + fans / 3.0) * math.pi / 4
            c, s = step * math.cos(t), step * math.sin(t)
            for i in range(3):
                turned[i] = (way[i] + c * a[i] + s * b[i]) / size
            apart = _apart(point, u, v, radius, row, turned)
            if apart > best + 1e-9:
                best, found = apart, True
                other[:] = turned
        if found:
            way[:] = other
            continue
        fans += 1
        if fans == 3:
            step, fans = 0.5 * step, 0
    return best


@njit(cache=True, nogil=True)
def _apart(point, u, v, radius, row, way):
    """How far apart a plate and a solid are along a unit direction [mm]; minus when they overlap there."""
    off = way[0] * point[0] + way[1] * point[1] + way[2] * point[2]
    return off - radius * _across(way, u, v) - support(row, way[0], way[1], way[2])


@njit(cache=True, nogil=True)
def square_to(way, out):
    k = 0 if abs(way[0]) < 0.6 else 1
    size = math.sqrt(1.0 - way[k] * way[k])
    for i in range(3):
        out[i] = ((1.0 if i == k else 0.0) - way[k] * way[i]) / size


@njit(cache=True, nogil=True)
def _across(grad, u, v):
    """How much of a unit direction lies in the plane of u and v: the reach of a plate of radius 1 along it."""
    along_u = grad[0] * u[0] + grad[1] * u[1] + grad[2] * u[2]
    along_v = grad[0] * v[0] + grad[1] * v[1] + grad[2] * v[2]
    return math.sqrt(along_u * along_u + along_v * along_v)


@njit(cache=True, nogil=True)
def _cut_down(point, u, v, radius, row, value, normal):
    """Least signed distance on a plate by walking to the solid: (best found, lower bound); the bounding plane's normal
    is left in `normal`.

    At each place the supporting plane bounds all of the plate (convexity); the walk goes to the plate's lowest place
    on that plane, or toward the solid's nearest point, whichever is lower.
    """
    grad, x, z, y = np.empty(3), point.copy(), np.empty(3), np.empty(3)
    uu = u[0] * u[0] + u[1] * u[1] + u[2] * u[2]
    vv = v[0] * v[0] + v[1] * v[1] + v[2] * v[2]
    best, bound = value, -FAR
    for _ in range(30):
        f = signed_distance(row, x[0], x[1], x[2], grad)
        best = min(best, f)
        square = _across(grad, u, v)
        reach = 0.0
        for i in range(3):
            reach += grad[i] * (point[i] - x[i])
        if f + reach - radius * square > bound:
            bound = f + reach - radius * square
            normal[:] = grad
        if best - bound < TOLERANCE_MM or square < 1e-9:
            break
        gu, gv, yu, yv = 0.0, 0.0, 0.0, 0.0
        for i in range(3):
            gu += grad[i] * u[i]
            gv += grad[i] * v[i]
            toward = x[i] - f * grad[i] - point[i]
            yu += toward * u[i]
            yv += toward * v[i]
        yu, yv = yu / uu, yv / vv
        shrink = min(1.0, radius / max(math.sqrt(yu * yu + yv * yv), 1e-12))
        for i in range(3):
            z[i] = point[i] - radius * (gu * u[i] + gv * v[i]) / square
            y[i] = point[i] + shrink * (yu * u[i] + yv * v[i])
        at_z = signed_distance(row, z[0], z[1], z[2], grad)
        at_y = signed_distance(row, y[0], y[1], y[2], grad)
        x[:] = z if at_z < at_y else y
    return best, bound


@njit(cache=True, nogil=True)
def _plate_search(point, u, v, radius, row, grad):
    """Least signed distance on a plate: it is convex there, so golden section across, and along each chord."""
    low, high = -radius, radius
    x1, x2 = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    f1, f2 = _chord(point, u, v, radius, x1, row, grad), _chord(point, u, v, radius, x2, row, grad)
    for _ in range(28):
        if f1 < f2:
            high, x2, f2 = x2, x1, f1
            x1 = high - GOLDEN * (high - low)
            f1 = _chord(point, u, v, radius, x1, row, grad)
        else:
            low, x1, f1 = x1, x2, f2
            x2 = low + GOLDEN * (high - low)
            f2 = _chord(point, u, v, radius, x2, row, grad)
    return min(f1, f2)


@njit(cache=True, nogil=True)
def _chord(point, u, v, radius, x, row, grad):
    """Least signed distance on the plate's chord at offset x."""
    half = math.sqrt(max(0.0, radius * radius - x * x))
    low, high = -half, half
    y1, y2 = high - GOLDEN * (high - low), low + GOLDEN * (high - low)
    f1, f2 = _at(point, u, v, x, y1, row, grad), _at(point, u, v, x, y2, row, grad)
    for _ in range(36):
        if f1 < f2:
            high, y2, f2 = y2, y1, f1
            y1 = high - GOLDEN * (high - low)
            f1 = _at(point, u, v, x, y1, row, grad)
        else:
            low, y1, f1 = y1, y2, f2
            y2 = low + GOLDEN * (high - low)
            f2 = _at(point, u, v, x, y2, row, grad)
    return min(f1, f2)


@njit(cache=True, nogil=True)
def _at(point, u, v, x, y, row, grad):
    return signed_distance(
        row, point[0] + x * u[0] + y * v[0], point[1] + x * u[1] + y * v[1], point[2] + x * u[2] + y * v[2], grad
    )


@njit(cache=True, nogil=True)
def deepest_on(point, u, v, radius, row):
    """Least signed distance to a solid of any place of a plate: unlike `plate_gap` not the way out when it clashes."""
    grad = np.empty(3)
    value = signed_distance(row, point[0], point[1], point[2], grad)
    best, bound = _cut_down(point, u, v, radius, row, value, grad)
    return best if best - bound < TOLERANCE_MM else min(best, _plate_search(point, u, v, radius, row, grad))
