"""The CAD kernel (Open CASCADE, from its own lock) as a second judge of distance and volume."""

from __future__ import annotations

import math

import numpy as np
import pytest

from tests.outside.scenes import centre_points, signed

OCP = pytest.importorskip("OCP", reason="the CAD kernel is not installed: ./widebend test installs it")

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common  # noqa: E402  # after the skip above
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire  # noqa: E402
from OCP.BRepExtrema import BRepExtrema_DistShapeShape  # noqa: E402
from OCP.BRepGProp import BRepGProp  # noqa: E402
from OCP.BRepPrimAPI import (  # noqa: E402
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeRevol,
    BRepPrimAPI_MakeSphere,
)
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Vec  # noqa: E402
from OCP.GProp import GProp_GProps  # noqa: E402


def _pnt(p):
    return gp_Pnt(*(float(x) for x in p))


def _dir(d):
    return gp_Dir(*(float(x) for x in d))


def tube(seg: np.ndarray):
    """A tube segment as a solid: a disc moved along a line or turned about the bend's centre."""
    circle = gp_Circ(gp_Ax2(_pnt(seg[3:6]), _dir(seg[6:9])), float(seg[2]))
    wire = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    face = BRepBuilderAPI_MakeFace(wire).Face()
    if seg[0] == 0:
        return BRepPrimAPI_MakePrism(face, gp_Vec(*(float(x) for x in seg[6:9] * seg[1]))).Shape()
    axis = gp_Ax1(_pnt(seg[3:6] + seg[12] * seg[9:12]), _dir(np.cross(seg[6:9], seg[9:12])))
    return BRepPrimAPI_MakeRevol(face, axis, float(seg[1] / seg[12])).Shape()


def solids(row: np.ndarray) -> list:
    """A thing as one or more solids that together are it; a half-space as a very large box."""
    kind = int(row[0])
    if kind == 0:
        axes = row[7:16].reshape(3, 3)
        corner = row[1:4] - row[4:7] @ axes
        frame = gp_Ax2(_pnt(corner), _dir(axes[2]), _dir(axes[0]))
        return [BRepPrimAPI_MakeBox(frame, *(float(2 * h) for h in row[4:7])).Shape()]
    if kind == 3:
        n = row[1:4]
        side = np.cross(n, [1.0, 0, 0] if abs(n[0]) < 0.8 else [0, 1.0, 0])
        side /= np.linalg.norm(side)
        other = np.cross(n, side)
        corner = n * row[4] - 5e3 * side - 5e3 * other - 1e4 * n
        return [BRepPrimAPI_MakeBox(gp_Ax2(_pnt(corner), _dir(n), _dir(side)), 1e4, 1e4, 1e4).Shape()]
    a, b = row[1:4], row[4:7]
    length = float(np.linalg.norm(b - a))
    bar = BRepPrimAPI_MakeCylinder(gp_Ax2(_pnt(a), _dir((b - a) / length)), float(row[7]), length).Shape()
    return [bar] if kind == 1 else [bar, *(BRepPrimAPI_MakeSphere(_pnt(p), float(row[7])).Shape() for p in (a, b))]


def distance(seg: np.ndarray, row: np.ndarray) -> float:
    """The distance between a tube and a thing; 0 when they meet."""
    shapes = [tube(part) for part in _near(short_arcs(seg), row)]
    return min(BRepExtrema_DistShapeShape(shape, solid).Value() for shape in shapes for solid in solids(row))


def _near(arcs: list[np.ndarray], row: np.ndarray) -> list[np.ndarray]:
    """Only arcs that can hold the nearest place: the middle of an arc is never further than its length says."""
    middles = np.array([centre_points(arc, 3)[0][1] for arc in arcs])
    away = signed(row, middles)
    reach = np.array([arc[1] / 2 + arc[2] for arc in arcs])
    return [arc for arc, a, r in zip(arcs, away, reach, strict=True) if a - r <= away.min()]


def short_arcs(seg: np.ndarray) -> list[np.ndarray]:
    """An arc as arcs of at most 4 deg: over a long torus the CAD kernel misses nearer places that can be shown."""
    if seg[0] == 0:
        return [seg]
    total = float(seg[1] / seg[12])
    n = max(1, math.ceil(math.degrees(total) / 4))
    out = []
    for k in range(n):
        t, part = total * k / n, seg.copy()
        part[3:6] = seg[3:6] + seg[12] * (math.sin(t) * seg[6:9] + (1 - math.cos(t)) * seg[9:12])
        part[6:9] = math.cos(t) * seg[6:9] + math.sin(t) * seg[9:12]
        part[9:12] = math.cos(t) * seg[9:12] - math.sin(t) * seg[6:9]
        part[1] = seg[1] / n
        out.append(part)
    return out


def common_volume(seg: np.ndarray, row: np.ndarray) -> float:
    """Volume that a tube and a thing share [mm3]."""
    shape = tube(seg)
    return max(volume(BRepAlgoAPI_Common(shape, solid).Shape()) for solid in solids(row))


def volume(shape) -> float:
    props = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, props)
    return abs(props.Mass())


def torus_volume(seg: np.ndarray) -> float:
    """Pappus: area times the way of the middle."""
    return math.pi * float(seg[2]) ** 2 * float(seg[1])
