"""Signed distance to the solid shapes of a survey, compiled.

A solid is a row of 16 numbers: [kind, ...]. Every solid here is convex, so its signed distance is a convex function
of the point: positive outside (the true distance), negative inside (depth to the nearest face).
    BOX       centre 1:4, half edges 4:7, axes as rows 7:16
    CYLINDER  a 1:4, b 4:7, radius 7      flat ends
    CAPSULE   a 1:4, b 4:7, radius 7      round ends; a sphere is one with a = b
    HALFSPACE unit n 1:4, d 4             solid where n . x < d
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy.typing import NDArray

from .frame import Vector, unit
from .records import Box, Cylinder, GroupState, HalfSpace, Shape, Sphere

BOX, CYLINDER, CAPSULE, HALFSPACE = 0, 1, 2, 3
WIDTH = 16
Array = NDArray[np.float64]


def rotation_from_rpy(rpy_deg: Sequence[float]) -> Array:
    """Roll about X, then pitch about Y, then yaw about Z, fixed axes: matrix (3, 3) whose columns are the box axes."""
    r, p, y = np.radians(np.asarray(rpy_deg, dtype=float))
    rx = np.array([[1, 0, 0], [0, math.cos(r), -math.sin(r)], [0, math.sin(r), math.cos(r)]])
    ry = np.array([[math.cos(p), 0, math.sin(p)], [0, 1, 0], [-math.sin(p), 0, math.cos(p)]])
    rz = np.array([[math.cos(y), -math.sin(y), 0], [math.sin(y), math.cos(y), 0], [0, 0, 1]])
    return np.asarray(rz @ ry @ rx)


def rotation_about(axis: Vector, deg: float) -> Array:
    """Right-handed rotation matrix (3, 3) about a unit axis (Rodrigues)."""
    k = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    t = math.radians(deg)
    return np.asarray(np.eye(3) + math.sin(t) * k + (1 - math.cos(t)) * k @ k)


def motion_of(state: GroupState) -> tuple[Array, Vector]:
    """A group position as x -> R x + t."""
    shift = np.asarray(state.shift, dtype=float)
    if state.turn is None:
        return np.eye(3), shift
    about = np.asarray(state.turn.about, dtype=float)
    turn = rotation_about(unit(state.turn.axis), state.turn.deg)
    return turn, about - turn @ about + shift


def solid_row(shape: Shape, turn: Array | None = None, shift: Vector | None = None) -> Array:
    """A shape, moved by x -> turn x + shift, as a row of the kernel: shape (16,)."""
    rotation = np.eye(3) if turn is None else turn
    offset = np.zeros(3) if shift is None else shift
    row = np.zeros(WIDTH)
    if isinstance(shape, HalfSpace):
        length = float(np.linalg.norm(shape.n))
        normal = rotation @ unit(shape.n)
        row[0], row[1:4], row[4] = HALFSPACE, normal, shape.d / length + normal @ offset
    elif isinstance(shape, Box):
        row[0], row[1:4] = BOX, rotation @ np.asarray(shape.center, dtype=float) + offset
        row[4:7] = np.asarray(shape.size, dtype=float) / 2
        row[7:16] = (rotation @ rotation_from_rpy(shape.rpy_deg)).T.ravel()
    else:
        ends = (shape.center, shape.center) if isinstance(shape, Sphere) else (shape.a, shape.b)
        row[0] = CYLINDER if isinstance(shape, Cylinder) else CAPSULE
        row[1:4], row[4:7] = (rotation @ np.asarray(end, dtype=float) + offset for end in ends)
        row[7] = shape.radius
    return row


@njit(cache=True, nogil=True)
def signed_distance(row, x, y, z, grad):
    """Signed distance [mm] of a point; its unit gradient is left in `grad` (3,)."""
    kind = int(row[0])
    if kind == HALFSPACE:
        grad[0], grad[1], grad[2] = row[1], row[2], row[3]
        return row[1] * x + row[2] * y + row[3] * z - row[4]
    if kind == BOX:
        return _box(row, x, y, z, grad)
    return _round(row, x, y, z, grad, kind == CYLINDER)


@njit(cache=True, nogil=True)
def _box(row, x, y, z, grad):
    px, py, pz = x - row[1], y - row[2], z - row[3]
    lx = row[7] * px + row[8] * py + row[9] * pz
    ly = row[10] * px + row[11] * py + row[12] * pz
    lz = row[13] * px + row[14] * py + row[15] * pz
    sx, sy, sz = math.copysign(1.0, lx), math.copysign(1.0, ly), math.copysign(1.0, lz)
    ox, oy, oz = abs(lx) - row[4], abs(ly) - row[5], abs(lz) - row[6]
    if ox <= 0.0 and oy <= 0.0 and oz <= 0.0:  # inside: the nearest face
        wx, wy, wz = 0.0, 0.0, 0.0
        if ox >= oy and ox >= oz:
            wx, value = sx, ox
        elif oy >= oz:
            wy, value = sy, oy
        else:
            wz, value = sz, oz
    else:
        ox, oy, oz = max(ox, 0.0), max(oy, 0.0), max(oz, 0.0)
        value = math.sqrt(ox * ox + oy * oy + oz * oz)
        wx, wy, wz = sx * ox / value, sy * oy / value, sz * oz / value
    grad[0] = wx * row[7] + wy * row[10] + wz * row[13]
    grad[1] = wx * row[8] + wy * row[11] + wz * row[14]
    grad[2] = wx * row[9] + wy * row[12] + wz * row[15]
    return value


@njit(cache=True, nogil=True)
def _round(row, x, y, z, grad, flat):
    """Capsule (round ends) or cylinder (flat ends)."""
    ax, ay, az = row[4] - row[1], row[5] - row[2], row[6] - row[3]
    length = math.sqrt(ax * ax + ay * ay + az * az)
    px, py, pz = x - row[1], y - row[2], z - row[3]
    if length > 0.0:
        ax, ay, az = ax / length, ay / length, az / length
    along = px * ax + py * ay + pz * az
    if not flat:
        t = min(max(along, 0.0), length)
        qx, qy, qz = px - t * ax, py - t * ay, pz - t * az
        off = math.sqrt(qx * qx + qy * qy + qz * qz)
        if off > 1e-12:
            grad[0], grad[1], grad[2] = qx / off, qy / off, qz / off
        else:
            _any_square(ax, ay, az, grad)
        return off - row[7]
    qx, qy, qz = px - along * ax, py - along * ay, pz - along * az
    off = math.sqrt(qx * qx + qy * qy + qz * qz)
    if off > 1e-12:
        rx, ry, rz = qx / off, qy / off, qz / off
    else:
        _any_square(ax, ay, az, grad)
        rx, ry, rz = grad[0], grad[1], grad[2]
    side = off - row[7]
    sign = 1.0 if along > length / 2 else -1.0
    end = abs(along - length / 2) - length / 2
    if side > 0.0 and end > 0.0:
        d = math.sqrt(side * side + end * end)
        u, v = side / d, sign * end / d
        grad[0], grad[1], grad[2] = u * rx + v * ax, u * ry + v * ay, u * rz + v * az
        return d
    if side > end:
        grad[0], grad[1], grad[2] = rx, ry, rz
        return side
    grad[0], grad[1], grad[2] = sign * ax, sign * ay, sign * az
    return end


@njit(cache=True, nogil=True)
def _any_square(ax, ay, az, grad):
    """Some unit vector square to (ax, ay, az): on the axis of a bar every side is as near."""
    if abs(ax) < 0.9:
        nx, ny, nz = 0.0, az, -ay
    else:
        nx, ny, nz = -az, 0.0, ax
    n = math.sqrt(nx * nx + ny * ny + nz * nz)
    if n < 1e-12:
        grad[0], grad[1], grad[2] = 1.0, 0.0, 0.0
    else:
        grad[0], grad[1], grad[2] = nx / n, ny / n, nz / n
