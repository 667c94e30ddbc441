"""A survey drawn in by hand: what a stroke or a tap on a strip makes, and the few sizes one tapes, typed over.

A stroke says two of three axes; the third is a usual span until it is dragged or taped (common practice, no source).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import EditError
from ..records import (
    Box,
    Cylinder,
    HalfSpace,
    HangPoint,
    HeatShy,
    LowLine,
    MarkPoint,
    Rails,
    Shape,
    Sphere,
    Survey,
    Thing,
)
from ..space import Vector
from ..units import Length
from .shifting import THINNEST_MM, bounds, moved, stretched, targets

DRAWABLE = {"box": "box", "cylinder": "bar", "sphere": "ball"}
# a tap in the strip from the left; a stroke from rail to rail from below; a tap in each strip
LINES = {"above": "floor", "low-line": "low line", "rails": "rails"}
POINTS = {"mark": "mark", "hang-point": "hang point"}
AXES = {"below": (0, 1), "left": (0, 2)}  # what each strip shows: 0 back, 1 right, 2 up
USUAL_SPAN_MM = {1: (-100.0, 100.0), 2: (250.0, 350.0)}
USUAL_BAR_MM = 50.0  # diameter
BY_EYE, BY_EYE_MM = "set by eye", 10.0
# what names say, common practice: the first that a name holds
HEAT_SIGNS: tuple[tuple[str, HeatShy], ...] = (
    ("fuel line", "fuel line"),
    ("fuel pipe", "fuel line"),
    ("tank", "fuel tank"),
    ("brake hose", "brake hose"),
    ("brake line", "brake hose"),
    ("wiring", "wiring"),
    ("loom", "wiring"),
    ("harness", "wiring"),
    ("boot", "rubber boot"),
    ("plastic", "plastic"),
)
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


@dataclass(frozen=True)
class DrawnIn:
    """A survey with something drawn in: the thing's id (empty for a line or a point), its name, what comes next."""

    survey: Survey
    thing: str
    name: str
    said: str


def draw_in(survey: Survey, kind: str, places: Sequence[tuple[str, Vector]], of: str = "") -> DrawnIn:
    """Put in what was drawn: `places` are strips and places on them, (2,) [mm] on the strip's axes, one or two of them.
    With the id of a thing, its span across or up is what was drawn. Raises EditError when they do not make one.
    """
    just = survey.thing(of)
    if just is not None:
        shape = spanned(just.shape, places[0][0], places[0][1], places[-1][1])
        spread = just.replace(shape=shape)
        things = tuple(spread if t.id == of else t for t in survey.things)
        said = f"{just.name}: drawn in both strips. Type over what you tape."
        return DrawnIn(survey.replace(things=things), of, just.name, said)
    if kind in LINES:
        return _line_in(survey, kind, places)
    if kind in POINTS:
        return _point_in(survey, kind, places)
    shape = drawn(kind, places[0][0], places[0][1], places[-1][1])
    return _thing_in(survey, DRAWABLE[kind], shape, "Draw how far it goes in the other strip, or type it.")


def _thing_in(survey: Survey, word: str, shape: Shape, hint: str, name: str = "") -> DrawnIn:
    known = {t.id for t in survey.things}
    free = next(n for n in itertools.count(1) if f"t{n}" not in known)
    thing = Thing(id=f"t{free}", name=name or f"{word} {free}", shape=shape, how_measured=BY_EYE)
    return DrawnIn(
        survey.replace(things=(*survey.things, thing)),
        thing.id,
        thing.name,
        f"Drew {thing.name}. {hint}",
    )


def _line_in(survey: Survey, kind: str, places: Sequence[tuple[str, Vector]]) -> DrawnIn:
    (view, first), (_, last) = places[0], places[-1]
    if kind == "rails":
        if view != "below":
            raise EditError("draw the rails in the strip from below: a stroke from one to the other")
        left, right = sorted((_length(first[1]), _length(last[1])))
        if right - left < THINNEST_MM:
            raise EditError("draw across the vehicle, from one rail to the other")
        at = {"left_y_mm": left, "right_y_mm": right}
        rails = survey.rails.replace(**at) if survey.rails else Rails(**at)
        return DrawnIn(
            survey.replace(rails=rails),
            "",
            "the rails",
            "Drew the rails. They are on “stance and lines”.",
        )
    if view != "left":
        raise EditError(f"tap the height of the {LINES[kind]} in the strip from the left")
    height = _length(first[1])
    if kind == "above":
        roof = HalfSpace(n=(0.0, 0.0, -1.0), d=Length(-height))
        return _thing_in(survey, "floor", roof, "All above it is solid.", "floor")
    line = survey.low_line.replace(d=height) if survey.low_line else LowLine(d=height)
    return DrawnIn(
        survey.replace(low_line=line),
        "",
        "the low line",
        "Drew the low line: nothing may hang below it.",
    )


def _point_in(survey: Survey, kind: str, places: Sequence[tuple[str, Vector]]) -> DrawnIn:
    if {view for view, _ in places} != set(AXES):
        raise EditError(f"tap the {POINTS[kind]} in both strips: from below, then its height from the left")
    at = np.zeros(3)
    for view, place in reversed(places):  # where it is along the vehicle, the first of the two says
        at[list(AXES[view])] = place
    items: tuple[HangPoint, ...] | tuple[MarkPoint, ...] = survey.marks if kind == "mark" else survey.hang_points
    free = next(n for n in itertools.count(1) if all(i.id != f"p{n}" for i in items))
    name, where = f"{POINTS[kind]} {free}", _point(at)
    said = f"Drew {name}. Its name and the rest are on “{POINTS[kind]}s”."
    if kind == "mark":
        mark = MarkPoint(id=f"p{free}", name=name, point=where, plus_minus_mm=Length(BY_EYE_MM), how_measured=BY_EYE)
        return DrawnIn(survey.replace(marks=(*survey.marks, mark)), "", name, said)
    hang = HangPoint(id=f"p{free}", name=name, point=where, plus_minus_mm=Length(BY_EYE_MM), how_measured=BY_EYE)
    return DrawnIn(survey.replace(hang_points=(*survey.hang_points, hang)), "", name, said)


def _length(mm: float) -> Length:
    return Length(round(float(mm), 3))


def called(thing: Thing, name: str) -> tuple[Thing, str]:
    """A thing by another name; and what of the heat-shy that name makes it ("fuel tank", "wiring"), empty where it says
    nothing. What a person entered or measured stays: only what was drawn and is hard so far is told by its name.
    """
    words = name.lower()
    told = next((what for sign, what in HEAT_SIGNS if sign in words), None)
    if told is None or thing.nature != "hard" or thing.how_measured != BY_EYE:
        return thing.replace(name=name), ""
    return thing.replace(name=name, nature="heat-shy", heat_shy_what=told), told


def spanned(shape: Shape, view: str, start: Vector, end: Vector) -> Shape:
    """A shape just drawn in one strip with its span across or up given by a stroke in the other: a box from one end of
    it to the other, a bar or a ball at its middle. Raises EditError for a stroke that says nothing.
    """
    axis = AXES[view][1]
    low, high = sorted((float(start[1]), float(end[1])))
    around = bounds(shape)
    if around is None:
        raise EditError("what fills everything on one side has no other span: drag its face")
    by = np.zeros(3)
    if isinstance(shape, Box):
        if high - low < THINNEST_MM:
            raise EditError(f"that is less than {THINNEST_MM:g} mm: draw from its one edge to the other")
        size = np.array(shape.size, dtype=float)
        by[axis], size[axis] = (low + high) / 2 - shape.center[axis], high - low
        return Box(center=_point(np.array(shape.center) + by), size=_point(size))
    by[axis] = (low + high) / 2 - float(around[0][axis] + around[1][axis]) / 2
    return moved(shape, by)


def snapped_place(survey: Survey, view: str, place: Vector, within_mm: float, step_mm: float) -> Vector:
    """A place (2,) [mm] on a strip: at the centre line, a rail or a face that is near, else on the tape's step."""
    out = np.array(place, dtype=float)
    for k, axis in enumerate(AXES[view]):
        near = min((abs(at - place[k]), at) for at in (math.inf, *(at for at, _ in targets(survey, "", axis))))
        out[k] = near[1] if near[0] <= within_mm else round(float(place[k]) / step_mm) * step_mm
    return out


def sizes(shape: Shape) -> dict[str, float]:
    """Return the tape readings of a box that stands square: where it begins and how big it is [mm]; nothing of other
    shapes.
    """
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
