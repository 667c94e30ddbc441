"""Signed distance to the solid shapes of a survey, compiled.

A solid is a row of WIDTH numbers: [kind, ...]. Every solid here is convex, so its signed distance is a convex function
of the point: positive outside (the true distance), negative inside (depth to the nearest face). A shape that is not
convex is several rows (`outlines`), a mesh is triangles (`mesh`).
    BOX       centre 1:4, half edges 4:7, axes as rows 7:16
    CYLINDER  a 1:4, b 4:7, radius 7      flat ends
    CAPSULE   a 1:4, b 4:7, radius 7      round ends; a sphere is one with a = b
    HALFSPACE unit n 1:4, d 4             solid where n . x < d
    PRISM     middle 1:4, half depth 4, corner count 5, axes as rows 7:16 (across, up, along), corners (x, y) from 16
    TRIANGLE  a 1:4, b 4:7, c 7:10        no inside: its distance is never negative
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy.typing import NDArray

from ..records import Box, Capsule, Cylinder, Extrusion, GroupState, HalfSpace, Shape, Sphere
from ..space import Vector, convex_parts, pose, unit
from .kernels import leaf

BOX, CYLINDER, CAPSULE, HALFSPACE, PRISM, TRIANGLE = 0, 1, 2, 3, 4, 5
MOST_CORNERS = 16
WIDTH = 16 + 2 * MOST_CORNERS
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


def solid_rows(shape: Shape) -> Array:
    """A shape as rows of the kernel: shape (n, WIDTH); a mesh has none."""
    if isinstance(shape, Extrusion):
        return _prism_rows(shape)
    row = np.zeros(WIDTH)
    if isinstance(shape, HalfSpace):
        row[0], row[1:4], row[4] = HALFSPACE, unit(shape.n), shape.d / float(np.linalg.norm(shape.n))
    elif isinstance(shape, Box):
        row[0], row[1:4] = BOX, shape.center
        row[4:7] = np.asarray(shape.size, dtype=float) / 2
        row[7:16] = rotation_from_rpy(shape.rpy_deg).T.ravel()
    elif isinstance(shape, Sphere | Cylinder | Capsule):
        ends = (shape.center, shape.center) if isinstance(shape, Sphere) else (shape.a, shape.b)
        row[0] = CYLINDER if isinstance(shape, Cylinder) else CAPSULE
        row[1:4], row[4:7] = ends
        row[7] = shape.radius
    else:
        return np.zeros((0, WIDTH))
    return row[None]


@njit(cache=True, nogil=True)
def moved_solids(rows, turn, shift):
    """Solids (n, WIDTH) where x -> turn x + shift puts them."""
    out = rows.copy()
    for k in range(rows.shape[0]):
        row, kind = rows[k], rows[k, 0]
        out[k, 1:4] = turn @ row[1:4]
        if kind == HALFSPACE:
            out[k, 4] += out[k, 1] * shift[0] + out[k, 2] * shift[1] + out[k, 3] * shift[2]
            continue
        out[k, 1:4] += shift
        if kind in (CYLINDER, CAPSULE):
            out[k, 4:7] = turn @ row[4:7] + shift
        else:
            for axis in range(7, 16, 3):
                out[k, axis : axis + 3] = turn @ row[axis : axis + 3]
    return out


def _prism_rows(shape: Extrusion) -> Array:
    at = pose(shape.origin, shape.axis, shape.reference)
    axes = np.array([at.across, at.reference, at.flow])
    middle = at.point + at.flow * (shape.depth / 2)
    rows = []
    for part in convex_parts(shape.outline, shape.holes):
        rows.append(prism_row(middle, axes, shape.depth / 2, part))
    return np.array(rows).reshape(-1, WIDTH)


def prism_row(middle: Vector, axes: Array, half_depth: float, corners: Array) -> Array:
    """A convex polygon (n, 2) on the first two of its axes (3, 3), moved along the third to both sides."""
    row = np.zeros(WIDTH)
    row[0], row[1:4], row[4], row[5], row[7:16] = PRISM, middle, half_depth, len(corners), axes.ravel()
    row[16 : 16 + 2 * len(corners)] = corners.ravel()
    return row


def cylinder_row(a: Vector, b: Vector, radius: float) -> Array:
    """A flat-ended bar from a to b."""
    row = np.zeros(WIDTH)
    row[0], row[1:4], row[4:7], row[7] = CYLINDER, a, b, radius
    return row


def capsule_row(a: Vector, b: Vector, radius: float) -> Array:
    """A round-ended bar from a to b; a ball where they are one."""
    row = cylinder_row(a, b, radius)
    row[0] = CAPSULE
    return row


def shifted_row(row: Array, by: Vector) -> Array:
    """A bounded solid moved."""
    moved = row.copy()
    moved[1:4] += by
    if row[0] in (CYLINDER, CAPSULE):
        moved[4:7] += by
    return moved


def is_flat_sided(row: Array) -> bool:
    """Whether a solid is a box or a prism."""
    return int(row[0]) in (BOX, PRISM)


def end_faces(row: Array) -> tuple[Array, Array]:
    """The two end faces of a box or prism: corners (n, 3) each, in step."""
    if int(row[0]) == BOX:
        x, y, depth = row[4], row[5], row[6]
        flat = np.array([(-x, -y), (x, -y), (x, y), (-x, y)])
    else:
        flat, depth = row[16 : 16 + 2 * int(row[5])].reshape(-1, 2), row[4]
    low, high = (np.column_stack([flat, np.full(len(flat), end)]) for end in (-depth, depth))
    axes = row[7:16].reshape(3, 3)
    return row[1:4] + low @ axes, row[1:4] + high @ axes


def bar_of(row: Array) -> tuple[Array, Array, float]:
    """The ends (3,) and the radius of a cylinder or capsule."""
    return row[1:4], row[4:7], float(row[7])


@leaf()
def signed_distance(row, x, y, z, grad):
    """Signed distance [mm] of a point; its unit gradient is left in `grad` (3,)."""
    kind = int(row[0])
    if kind == HALFSPACE:
        grad[0], grad[1], grad[2] = row[1], row[2], row[3]
        return row[1] * x + row[2] * y + row[3] * z - row[4]
    if kind == BOX:
        return _box(row, x, y, z, grad)
    if kind == PRISM:
        return _prism(row, x, y, z, grad)
    if kind == TRIANGLE:
        return triangle_distance(row, x, y, z, grad)
    return _round(row, x, y, z, grad, kind == CYLINDER)


@leaf()
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


@leaf()
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


@leaf()
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


@leaf()
def _prism(row, x, y, z, grad):
    """Convex outline (corners anticlockwise) moved along its axis, flat ends."""
    px, py, pz = x - row[1], y - row[2], z - row[3]
    u = px * row[7] + py * row[8] + pz * row[9]
    v = px * row[10] + py * row[11] + pz * row[12]
    w = px * row[13] + py * row[14] + pz * row[15]
    side, gu, gv = _outline(row, u, v)
    sign = 1.0 if w > 0.0 else -1.0
    end = abs(w) - row[4]
    if side > 0.0 and end > 0.0:
        value = math.sqrt(side * side + end * end)
        gu, gv, gw = gu * side / value, gv * side / value, sign * end / value
    elif side > end:
        value, gw = side, 0.0
    else:
        value, gu, gv, gw = end, 0.0, 0.0, sign
    grad[0] = gu * row[7] + gv * row[10] + gw * row[13]
    grad[1] = gu * row[8] + gv * row[11] + gw * row[14]
    grad[2] = gu * row[9] + gv * row[12] + gw * row[15]
    return value


@leaf()
def _outline(row, u, v):
    """Signed distance in the plane to a convex outline, and its gradient there."""
    n = int(row[5])
    deepest, near = -1e30, 1e30
    gu, gv, du, dv = 1.0, 0.0, 1.0, 0.0
    for k in range(n):
        ax, ay = row[16 + 2 * k], row[17 + 2 * k]
        j = k + 1 if k + 1 < n else 0
        ex, ey = row[16 + 2 * j] - ax, row[17 + 2 * j] - ay
        length = math.sqrt(ex * ex + ey * ey)
        ex, ey = ex / length, ey / length
        off = (u - ax) * ey - (v - ay) * ex  # outward of an anticlockwise edge is to its right
        if off > deepest:
            deepest, gu, gv = off, ey, -ex
        t = min(max((u - ax) * ex + (v - ay) * ey, 0.0), length)
        qx, qy = u - ax - t * ex, v - ay - t * ey
        d = math.sqrt(qx * qx + qy * qy)
        if d < near:
            near = d
            if d > 1e-12:
                du, dv = qx / d, qy / d
    if deepest <= 0.0:
        return deepest, gu, gv
    return near, du, dv


@leaf()
def support(row, x, y, z):
    """How far a solid reaches along a unit direction, from the origin [mm]; 1e30 where it has no end."""
    kind = int(row[0])
    if kind == HALFSPACE:
        return row[4] if row[1] * x + row[2] * y + row[3] * z > 1.0 - 1e-12 else 1e30
    if kind == TRIANGLE:
        best = row[1] * x + row[2] * y + row[3] * z
        return max(best, row[4] * x + row[5] * y + row[6] * z, row[7] * x + row[8] * y + row[9] * z)
    start = row[1] * x + row[2] * y + row[3] * z
    if kind in (BOX, PRISM):
        along = row[7] * x + row[8] * y + row[9] * z
        up = row[10] * x + row[11] * y + row[12] * z
        deep = row[13] * x + row[14] * y + row[15] * z
        if kind == BOX:
            return start + abs(along) * row[4] + abs(up) * row[5] + abs(deep) * row[6]
        best = -1e30
        for k in range(int(row[5])):
            best = max(best, row[16 + 2 * k] * along + row[17 + 2 * k] * up)
        return start + best + abs(deep) * row[4]
    end = row[4] * x + row[5] * y + row[6] * z
    wide = 1.0
    if kind == CYLINDER:
        ax, ay, az = row[4] - row[1], row[5] - row[2], row[6] - row[3]
        along = (ax * x + ay * y + az * z) / math.sqrt(ax * ax + ay * ay + az * az)
        wide = math.sqrt(max(0.0, 1.0 - along * along))
    return max(start, end) + row[7] * wide


@leaf()
def face_count(row):
    """How many flat faces a solid has; a plane through it counts two."""
    kind = int(row[0])
    if kind == BOX:
        return 6
    if kind == PRISM:
        return int(row[5]) + 2
    return 1 if kind == HALFSPACE else 2 if kind in (CYLINDER, TRIANGLE) else 0


@leaf()
def face_normal(row, k, out):
    """The outward unit normal of a solid's k-th flat face."""
    kind, sign = int(row[0]), 1.0 if k % 2 else -1.0
    if kind == HALFSPACE:
        x, y, z = row[1], row[2], row[3]
    elif kind == BOX:
        first = 7 + 3 * (k // 2)
        x, y, z = sign * row[first], sign * row[first + 1], sign * row[first + 2]
    elif kind == PRISM and k >= int(row[5]):
        sign = 1.0 if k == int(row[5]) else -1.0
        x, y, z = sign * row[13], sign * row[14], sign * row[15]
    elif kind == PRISM:
        j = k + 1 if k + 1 < int(row[5]) else 0
        ex, ey = row[16 + 2 * j] - row[16 + 2 * k], row[17 + 2 * j] - row[17 + 2 * k]
        x, y, z = ey * row[7] - ex * row[10], ey * row[8] - ex * row[11], ey * row[9] - ex * row[12]
    elif kind == TRIANGLE:
        ax, ay, az = row[4] - row[1], row[5] - row[2], row[6] - row[3]
        bx, by, bz = row[7] - row[1], row[8] - row[2], row[9] - row[3]
        x, y, z = sign * (ay * bz - az * by), sign * (az * bx - ax * bz), sign * (ax * by - ay * bx)
    else:
        x, y, z = sign * (row[4] - row[1]), sign * (row[5] - row[2]), sign * (row[6] - row[3])
    n = max(math.sqrt(x * x + y * y + z * z), 1e-30)
    out[0], out[1], out[2] = x / n, y / n, z / n


@leaf()
def triangle_distance(row, x, y, z, grad):
    """Distance to a triangle by the regions of its corners, edges and face (Ericson 2005, from memory)."""
    abx, aby, abz = row[4] - row[1], row[5] - row[2], row[6] - row[3]
    acx, acy, acz = row[7] - row[1], row[8] - row[2], row[9] - row[3]
    apx, apy, apz = x - row[1], y - row[2], z - row[3]
    d1, d2 = abx * apx + aby * apy + abz * apz, acx * apx + acy * apy + acz * apz
    bpx, bpy, bpz = apx - abx, apy - aby, apz - abz
    d3, d4 = abx * bpx + aby * bpy + abz * bpz, acx * bpx + acy * bpy + acz * bpz
    cpx, cpy, cpz = apx - acx, apy - acy, apz - acz
    d5, d6 = abx * cpx + aby * cpy + abz * cpz, acx * cpx + acy * cpy + acz * cpz
    va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
    if d1 <= 0.0 and d2 <= 0.0:
        s, t = 0.0, 0.0
    elif d3 >= 0.0 and d4 <= d3:
        s, t = 1.0, 0.0
    elif d6 >= 0.0 and d5 <= d6:
        s, t = 0.0, 1.0
    elif vc <= 0.0 and d1 >= 0.0 and d3 <= 0.0:
        s, t = d1 / (d1 - d3), 0.0
    elif vb <= 0.0 and d2 >= 0.0 and d6 <= 0.0:
        s, t = 0.0, d2 / (d2 - d6)
    elif va <= 0.0 and d4 - d3 >= 0.0 and d5 - d6 >= 0.0:
        t = (d4 - d3) / ((d4 - d3) + (d5 - d6))
        s = 1.0 - t
    else:
        total = va + vb + vc
        s, t = (vb / total, vc / total) if total > 0.0 else (0.0, 0.0)
    qx, qy, qz = apx - s * abx - t * acx, apy - s * aby - t * acy, apz - s * abz - t * acz
    d = math.sqrt(qx * qx + qy * qy + qz * qz)
    if d > 1e-12:
        grad[0], grad[1], grad[2] = qx / d, qy / d, qz / d
    else:
        _any_square(abx, aby, abz, grad)
    return d
