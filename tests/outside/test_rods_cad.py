"""Rods and brackets against the CAD kernel: a disc swept along a rod's middle line, a bent plate by its volume."""

import itertools
import math

import numpy as np
import pytest

from widebend.core.hanging import bracket_of, rod_of

pytest.importorskip("OCP", reason="the CAD kernel is not installed: ./widebend test installs it")

from OCP.BRepBuilderAPI import (  # after the skip above
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepGProp import BRepGProp
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps


def _pnt(p: np.ndarray) -> gp_Pnt:
    return gp_Pnt(*(float(x) for x in p))


def _goes_on(ways: np.ndarray, first: int, last: int) -> bool:
    """Whether the chord after `last` turns on in the same plane and as much as the first two did."""
    if last == first + 1:
        return True
    one, two = np.cross(ways[first], ways[first + 1]), np.cross(ways[last - 1], ways[last])
    return bool(np.linalg.norm(one - two) < 0.1 * np.linalg.norm(one))


def _swept_length(line: np.ndarray, od: float) -> float:
    """The length of a solid swept along a rod's middle line, its arcs true arcs through three points each, by its
    volume.
    """
    wire, k = BRepBuilderAPI_MakeWire(), 0
    ways = np.diff(line, axis=0)
    ways /= np.linalg.norm(ways, axis=1)[:, None]
    bent = [math.degrees(math.acos(min(1.0, float(a @ b)))) > 0.5 for a, b in itertools.pairwise(ways)]
    short = np.linalg.norm(np.diff(line, axis=0), axis=1) < 6.0  # chords of an arc
    while k < len(line) - 1:
        last = k + 1
        while last < len(line) - 1 and bent[last - 1] and short[last - 1] and short[last] and _goes_on(ways, k, last):
            last += 1
        if last > k + 1:
            middle = line[(k + last) // 2]
            arc = GC_MakeArcOfCircle(_pnt(line[k]), _pnt(middle), _pnt(line[last])).Value()
            wire.Add(BRepBuilderAPI_MakeEdge(arc).Edge())
        else:
            wire.Add(BRepBuilderAPI_MakeEdge(_pnt(line[k]), _pnt(line[last])).Edge())
        k = last
    way = ways[0]
    disc = gp_Circ(gp_Ax2(_pnt(line[0]), gp_Dir(*(float(x) for x in way))), od / 2)
    face = BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(disc).Edge()).Wire()).Face()
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(BRepOffsetAPI_MakePipe(wire.Wire(), face).Shape(), found)
    return found.Mass() / (math.pi * od**2 / 4)


@pytest.mark.parametrize("eye", [(0.0, 60.0, 120.0), (15.0, -80.0, 80.0), (-20.0, 100.0, 60.0)])
def test_a_rod_is_as_long_as_the_solid_swept_along_it(eye: tuple[float, float, float]) -> None:
    """A solid swept along a line has the volume of its section times the middle line's length (Pappus and Guldin)."""
    rod = rod_of(np.array(eye), np.zeros(3), np.array([1.0, 0.0, 0.0]), 63.5, 10.0, 30.0, 80.0)
    assert _swept_length(rod.line, rod.od_mm) == pytest.approx(rod.cut_mm, abs=0.2)


def test_a_bracket_s_flat_has_the_metal_of_the_bent_plate() -> None:
    """With the neutral line in the middle of the plate (K one half) bent and flat have the same volume."""
    off, wide, t, inside = np.array([0.0, 62.0, -71.0]), 30.0, 4.0, 4.0
    made = bracket_of(off, 8.5, 10.5, 80.0, k=0.5)
    (bolt, bolt_d), (_, pin_d) = made.holes
    first, second = 62.0 + t / 2 + bolt, 71.0 + 1.2 * pin_d  # outside legs, from end to outside corner
    assert bolt == pytest.approx(1.2 * bolt_d)
    outer, inner = inside + t, inside
    corners = [
        (0.0, 0.0),
        (first - outer, 0.0),
        (first, -outer),
        (first, -second),
        (first - t, -second),
        (first - t, -outer),
        (first - outer, -t),
        (0.0, -t),
    ]
    points = [gp_Pnt(x, y, 0.0) for x, y in corners]
    middle, s = (first - outer, -outer), math.sqrt(0.5)
    wire = BRepBuilderAPI_MakeWire()
    for k, (a, b) in enumerate(zip(points, [*points[1:], points[0]], strict=True)):
        if k in (1, 5):
            r = outer if k == 1 else inner
            arc = GC_MakeArcOfCircle(a, gp_Pnt(middle[0] + r * s, middle[1] + r * s, 0.0), b).Value()
            wire.Add(BRepBuilderAPI_MakeEdge(arc).Edge())
        else:
            wire.Add(BRepBuilderAPI_MakeEdge(a, b).Edge())
    solid = BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire.Wire()).Face(), gp_Vec(0.0, 0.0, wide)).Shape()
    found = GProp_GProps()
    BRepGProp.VolumeProperties_s(solid, found)
    assert abs(found.Mass()) / (wide * t) == pytest.approx(made.flat_mm, abs=0.2)
