"""The pipe as STEP, where the CAD kernel is installed: every straight and bend as a hollow solid."""

from __future__ import annotations

import importlib.util
import tempfile
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from ..core.errors import InputError
from ..core.laying import LaidPiece, LaidRun
from ..core.records import Bend, Straight
from ..core.space import Vector


def is_there() -> bool:
    """Whether the CAD kernel is installed."""
    return importlib.util.find_spec("OCP") is not None


def write_step(runs: Sequence[LaidRun]) -> bytes:
    """All straights and bends of the runs [mm, vehicle frame]; mitres and slices are left to their templates.

    Raises InputError where the CAD kernel is not installed, or there is nothing to write.
    """
    if not is_there():
        raise InputError("STEP needs the CAD kernel, which is not installed: the model as glTF or STL is")
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

    writer, count = STEPControl_Writer(), 0
    for laid in runs:
        for piece in laid.pieces:
            if isinstance(piece.piece, Straight | Bend) and piece.length_mm > 0.01:
                writer.Transfer(_solid(piece), STEPControl_StepModelType.STEPControl_AsIs)
                count += 1
    if not count:
        raise InputError("there is no pipe to write yet: close a run first")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "pipe.step"
        if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise InputError("the CAD kernel could not write the pipe")
        return path.read_bytes()


def _solid(piece: LaidPiece):  # type: ignore[no-untyped-def]
    """A ring of the tube's section, carried straight or turned about the bend's centre."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
    from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Vec

    def point(p: Vector) -> object:
        return gp_Pnt(*p.tolist())

    def way(d: Vector) -> object:
        return gp_Dir(*d.tolist())

    at, r = piece.inlet, float(piece.tube.od_mm) / 2

    def circle(radius: float, flow: Vector) -> object:
        edge = BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(point(at.point), way(flow)), radius)).Edge()
        return BRepBuilderAPI_MakeWire(edge).Wire()

    ring = BRepBuilderAPI_MakeFace(circle(r, at.flow))
    ring.Add(circle(r - float(piece.tube.wall_mm), -at.flow))  # a hole runs round the other way
    if isinstance(piece.piece, Bend):
        toward = at.side(piece.piece.roll_deg)
        centre = at.point + float(piece.piece.clr_mm) * toward
        axis = gp_Ax1(point(centre), way(np.cross(at.flow, toward)))
        return BRepPrimAPI_MakeRevol(ring.Face(), axis, float(np.radians(piece.piece.angle_deg))).Shape()
    return BRepPrimAPI_MakePrism(ring.Face(), gp_Vec(*(at.flow * piece.length_mm).tolist())).Shape()
