"""Moving and stretching a thing by hand: what a drag means, what it snaps to, and when it cannot be done."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..errors import EditError
from ..geometry import rotation_from_rpy
from ..records import Box, Capsule, Cylinder, Extrusion, HalfSpace, MeshShape, Shape, Sphere, Survey, Thing
from ..space import Vector, pose, unit
from ..units import Length

THINNEST_MM = 2.0  # nothing under a vehicle is thinner than sheet metal
GRID_MM = 1.0  # where nothing is near enough to snap to


@dataclass(frozen=True)
class Handle:
    """Something of a shape to take hold of: where it is (3,) and which axes it goes along (0 X, 1 Y, 2 Z)."""

    key: str
    point: Vector
    axes: tuple[int, ...]


def bounds(shape: Shape) -> tuple[Vector, Vector] | None:
    """Lowest and highest corner of the box around a bounded shape, each (3,) [mm]; None for a half-space."""
    if isinstance(shape, HalfSpace):
        return None
    if isinstance(shape, Sphere):
        middle = np.asarray(shape.center, dtype=float)
        return middle - shape.radius, middle + shape.radius
    if isinstance(shape, Capsule | Cylinder):
        ends = np.array([shape.a, shape.b], dtype=float)
        flat = np.ones(3)
        if isinstance(shape, Cylinder):  # a disc reaches sin of the angle between its axis and ours
            flat = np.sqrt(np.maximum(0.0, 1.0 - unit(ends[1] - ends[0]) ** 2))
        return ends.min(axis=0) - shape.radius * flat, ends.max(axis=0) + shape.radius * flat
    corners = _corners(shape)
    return corners.min(axis=0), corners.max(axis=0)


def _corners(shape: Box | Extrusion | MeshShape) -> Vector:
    if isinstance(shape, Extrusion):
        at = pose(shape.origin, shape.axis, shape.reference)
        flat = np.asarray(shape.outline, dtype=float)
        base = at.point + flat[:, :1] * at.across + flat[:, 1:] * at.reference
        return np.concatenate([base, base + at.flow * shape.depth])
    if isinstance(shape, Box):
        half = np.asarray(shape.size, dtype=float) / 2
        low, high, middle = -half, half, np.asarray(shape.center, dtype=float)
    else:
        low, high = np.asarray(shape.low, dtype=float), np.asarray(shape.high, dtype=float)
        middle = np.asarray(shape.shift, dtype=float)
    corners = np.array([[(low, high)[(k >> i) & 1][i] for i in range(3)] for k in range(8)])
    return np.asarray(corners @ rotation_from_rpy(shape.rpy_deg).T + middle)


def moved(shape: Shape, by: Vector) -> Shape:
    """The shape shifted by (3,) [mm]."""
    if isinstance(shape, HalfSpace):
        shift = float(unit(shape.n) @ by) * float(np.linalg.norm(shape.n))
        return shape.replace(d=Length(shape.d + shift))
    places = {
        Box: ("center",),
        Sphere: ("center",),
        Capsule: ("a", "b"),
        Cylinder: ("a", "b"),
        Extrusion: ("origin",),
        MeshShape: ("shift",),
    }[type(shape)]
    return shape.replace(**({place: _shifted(getattr(shape, place), by) for place in places}))


def _shifted(point: tuple[Length, Length, Length], by: Vector) -> tuple[Length, Length, Length]:
    x, y, z = (Length(round(float(c + d), 3)) for c, d in zip(point, by, strict=True))
    return x, y, z


def handles(shape: Shape) -> list[Handle]:
    """Return the handles of a shape: a box's faces when it stands square, a bar's ends."""
    if isinstance(shape, Box) and not any(shape.rpy_deg):
        middle, half = np.asarray(shape.center, dtype=float), np.asarray(shape.size, dtype=float) / 2
        out = []
        for axis, name in enumerate("xyz"):
            for end, sign in ((0, -1.0), (1, 1.0)):
                out.append(Handle(f"{name}{end}", middle + sign * half[axis] * np.eye(3)[axis], (axis,)))
        return out
    if isinstance(shape, Capsule | Cylinder):
        return [Handle(key, np.asarray(getattr(shape, key), dtype=float), (0, 1, 2)) for key in ("a", "b")]
    return []


def stretched(shape: Shape, key: str, by: Vector) -> Shape:
    """The shape with one handle moved by (3,) [mm]. Raises EditError when nothing would be left of it."""
    handle = next((h for h in handles(shape) if h.key == key), None)
    if handle is None:
        raise EditError("this thing cannot be stretched there: type its figures instead")
    if not isinstance(shape, Box):
        return shape.model_validate({**shape.model_dump(), key: _shifted(getattr(shape, key), by)})
    axis, sign = handle.axes[0], 1.0 if key[1] == "1" else -1.0
    center, size = [float(c) for c in shape.center], [float(s) for s in shape.size]
    size[axis] += sign * float(by[axis])
    center[axis] += float(by[axis]) / 2
    if size[axis] < THINNEST_MM:
        raise EditError(f"that would leave less than {THINNEST_MM:g} mm of it: stretch it less, or take it out")
    return Box.model_validate({"center": tuple(center), "size": tuple(size), "rpy_deg": shape.rpy_deg})


def snapped(
    survey: Survey, thing: Thing, by: Vector, within_mm: float, key: str = ""
) -> tuple[Vector, tuple[str, ...]]:
    """A shift drawn to what is near: (shift (3,), what each axis went to, in words).

    A moved thing's faces, or the handle `key`, go to the centre line, a rail, the low line or another thing's face
    when that is within `within_mm`; otherwise to whole millimetres.
    """
    grips = _grips(thing.shape, key)
    out, said = np.array(by, dtype=float), []
    for axis in range(3):
        if abs(by[axis]) < 1e-9 or not grips[axis]:
            out[axis] = 0.0 if not grips[axis] else out[axis]
            continue
        best = min(
            (
                (abs(target - grip - by[axis]), target - grip, words)
                for grip in grips[axis]
                for target, words in targets(survey, thing.id, axis)
            ),
            default=(within_mm + 1.0, 0.0, ""),
        )
        if best[0] <= within_mm:
            out[axis] = best[1]
            said.append(best[2])
        else:
            grip = grips[axis][0]
            out[axis] = round((grip + by[axis]) / GRID_MM) * GRID_MM - grip
    return out, tuple(said)


def _grips(shape: Shape, key: str) -> list[list[float]]:
    """The places of a shape that can snap, an axis at a time."""
    if key:
        handle = next((h for h in handles(shape) if h.key == key), None)
        return [[float(handle.point[i])] if handle and i in handle.axes else [] for i in range(3)]
    if isinstance(shape, HalfSpace):
        n = unit(shape.n)
        axis = int(np.argmax(np.abs(n)))
        at = float(shape.d / np.linalg.norm(shape.n) / n[axis])
        return [[at] if i == axis else [] for i in range(3)]
    around = bounds(shape)
    assert around is not None  # only a half-space has none
    low, high = around
    return [[float(low[i]), float(high[i]), float((low[i] + high[i]) / 2)] for i in range(3)]


def targets(survey: Survey, but: str, axis: int) -> Iterator[tuple[float, str]]:
    """Yield the places a face may snap to along an axis [mm], with their names; nothing of the thing `but`."""
    if axis == 1:
        yield 0.0, "centre line"
        if survey.rails:
            yield float(survey.rails.left_y_mm), "left rail"
            yield float(survey.rails.right_y_mm), "right rail"
    if axis == 2 and survey.low_line and tuple(survey.low_line.n) == (0.0, 0.0, 1.0):
        yield float(survey.low_line.d), "low line"
    for other in survey.things:
        around = bounds(other.shape) if other.id != but else None
        if around:
            yield float(around[0][axis]), f"the {other.name}"
            yield float(around[1][axis]), f"the {other.name}"
