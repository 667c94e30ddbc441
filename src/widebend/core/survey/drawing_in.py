"""A thing drawn in by hand: what a stroke across a strip makes, and the few sizes one tapes, typed over.

A stroke says two of three axes; the third is a usual span until it is dragged or taped (common practice, no source).
"""

from __future__ import annotations

import math

import numpy as np

from ..errors import EditError
from ..records import Box, Cylinder, Shape, Sphere, Survey
from ..space import Vector
from ..units import Length
from .shifting import THINNEST_MM, bounds, moved, stretched, targets

DRAWABLE = {"box": "box", "cylinder": "bar", "sphere": "ball"}
AXES = {"below": (0, 1), "left": (0, 2)}  # what each strip shows: 0 back, 1 right, 2 up
USUAL_SPAN_MM = {1: (-100.0, 100.0), 2: (250.0, 350.0)}
USUAL_BAR_MM = 50.0  # diameter
TAPED = ("front", "left", "underside", "long", "wide", "tall")


def drawn(kind: str, view: str, start: Vector, end: Vector) -> Shape:
    """The shape of a stroke from `start` to `end`, each (2,) [mm] on the strip's axes. Raises EditError when it is too
    short.
    """
    if kind not in DRAWABLE or view not in AXES:
        raise EditError("choose what to draw: a box, a bar or a ball")
    axes = AXES[view]
    third = 3 - sum(axes)
    low, high = USUAL_SPAN_MM[third]
    a, b = np.full(3, low), np.full(3, high)
    a[list(axes)], b[list(axes)] = start, end
    size = np.abs(b - a)
    if kind == "box":
        if size.min() < THINNEST_MM:
            raise EditError(f"that is less than {THINNEST_MM:g} mm of a box: draw across it from corner to corner")
        return Box(center=_point((a + b) / 2), size=_point(size))
    a[third] = b[third] = (low + high) / 2
    long = float(np.linalg.norm(b - a))
    if long < THINNEST_MM:
        raise EditError(f"that is less than {THINNEST_MM:g} mm: draw it from one end to the other")
    if kind == "sphere":
        return Sphere(center=_point(a), radius=Length(long))
    return Cylinder(a=_point(a), b=_point(b), radius=Length(USUAL_BAR_MM / 2))


def snapped_place(survey: Survey, view: str, place: Vector, within_mm: float, step_mm: float) -> Vector:
    """A place (2,) [mm] on a strip: at the centre line, a rail or a face that is near, else on the tape's step."""
    out = np.array(place, dtype=float)
    for k, axis in enumerate(AXES[view]):
        near = min((abs(at - place[k]), at) for at in (math.inf, *(at for at, _ in targets(survey, "", axis))))
        out[k] = near[1] if near[0] <= within_mm else round(float(place[k]) / step_mm) * step_mm
    return out


def sizes(shape: Shape) -> dict[str, float]:
    """What one tapes of a box that stands square: where it begins and how big it is [mm]; nothing of other shapes."""
    if not isinstance(shape, Box) or any(shape.rpy_deg):
        return {}
    low, high = _bounds(shape)
    return dict(zip(TAPED, map(float, (*low, *(high - low))), strict=True))


def resized(shape: Shape, what: str, mm: float) -> Shape:
    """A square box with one of its taped sizes typed over: a place moves it, a size stretches its far side."""
    now = sizes(shape)
    if what not in now:
        raise EditError("this thing has no such size: type its figures below")
    axis, by = TAPED.index(what) % 3, np.zeros(3)
    by[axis] = mm - now[what]
    return moved(shape, by) if TAPED.index(what) < 3 else stretched(shape, f"{'xyz'[axis]}1", by)


def _bounds(shape: Shape) -> tuple[Vector, Vector]:
    around = bounds(shape)
    assert around is not None  # only a half-space has none
    return around


def _point(p: Vector) -> tuple[Length, Length, Length]:
    x, y, z = (Length(round(float(v), 3)) for v in p)
    return x, y, z
