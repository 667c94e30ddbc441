"""Scans and mock-ups as people have them: STL, PLY and OBJ, read by trimesh after a look at what they claim to be."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from typing import Literal

import numpy as np
import trimesh
from numpy.typing import NDArray

from ..core.errors import InputError
from ..core.geometry import MOST_TRIANGLES
from .mesh_claims import obj_triangles, ply_triangles, stl_triangles

MOST_BYTES = 150_000_000  # 500,000 triangles as text STL
UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
AXES = {"+x": (1, 0, 0), "-x": (-1, 0, 0), "+y": (0, 1, 0), "-y": (0, -1, 0), "+z": (0, 0, 1), "-z": (0, 0, -1)}
Kind = Literal["stl", "ply", "obj"]
Array = NDArray[np.float64]


@dataclass(frozen=True)
class Axes:
    """How a file's own axes lie on the vehicle: which of them points up, and which to the rear; and its unit."""

    unit: str = "mm"
    up: str = "+z"
    rear: str = "+x"

    def matrix(self) -> Array:
        """Turns a point of the file (3,) into the vehicle's frame [mm]. Raises InputError."""
        if self.unit not in UNITS or self.up not in AXES or self.rear not in AXES:
            raise InputError("choose the unit, which way is up and which way is to the rear from the lists")
        up, rear = np.array(AXES[self.up], dtype=float), np.array(AXES[self.rear], dtype=float)
        if abs(float(up @ rear)) > 0.5:
            raise InputError("up and to the rear cannot lie along the same axis of the file: choose another for one")
        return np.array([rear, np.cross(up, rear), up]) * UNITS[self.unit]


def read_mesh(data: bytes) -> Array:
    """Triangles (n, 3, 3) of a mesh file, in the file's own unit and axes. Raises InputError with the reason."""
    if len(data) > MOST_BYTES:
        raise InputError(f"the file is {len(data) / 1e6:.0f} MB; a mesh is at most {MOST_BYTES / 1e6:.0f} MB")
    kind = _kind_of(data)
    _refuse_too_many(_claimed(data, kind))
    try:
        mesh = trimesh.load_mesh(io.BytesIO(data), file_type=kind, process=False, **_quiet(kind))
        corners = np.asarray(mesh.triangles, dtype=float)
    except Exception as exc:  # a parser fed with anything may raise anything
        raise InputError(f"this begins like {kind.upper()} but cannot be read as that: {_brief(exc)}") from exc
    if corners.ndim != 3 or not len(corners):
        raise InputError(f"this is {kind.upper()}, but there are no triangles in it")
    _refuse_too_many(len(corners))
    if not np.isfinite(corners).all():
        raise InputError("a corner of the mesh is not a number")
    return corners


def _refuse_too_many(triangles: int) -> None:
    if triangles > MOST_TRIANGLES:
        raise InputError(f"the file has {triangles:,} triangles; at most {MOST_TRIANGLES:,}: thin the mesh out first")


def _kind_of(data: bytes) -> Kind:
    """Return a file's type by its content: its name proves nothing."""
    head = data[:400].lstrip()
    if not head:
        raise InputError("the file is empty")
    if head[:3].lower() == b"ply":
        return "ply"
    if data[:2] == b"PK":
        raise InputError("this is a zip: take the mesh out of it first, or bring a survey in as a bundle")
    triangles = _binary_stl_count(data)
    if triangles is not None and len(data) == 84 + 50 * triangles:
        return "stl"
    if head[:5].lower() == b"solid" and b"facet" in data[:2000].lower():
        return "stl"
    if re.search(rb"^v\s+[-+.\d]", data[:200_000], re.MULTILINE) and re.search(rb"^f\s", data, re.MULTILINE):
        return "obj"
    if triangles is not None and b"\x00" in data[:2000] and triangles < 10_000_000:
        held = max(0, (len(data) - 84) // 50)
        raise InputError(
            f"as STL the file says it has {triangles:,} triangles but holds {held:,}: it is cut off or not STL"
        )
    raise InputError("this is neither STL, PLY nor OBJ")


def _binary_stl_count(data: bytes) -> int | None:
    return int.from_bytes(data[80:84], "little") if len(data) >= 84 else None


def _claimed(data: bytes, kind: Kind) -> int:
    """How many triangles a file unfolds to, before any memory is spent on it."""
    if kind == "ply":
        return ply_triangles(data, MOST_TRIANGLES)
    return obj_triangles(data) if kind == "obj" else stl_triangles(data)


def _quiet(kind: Kind) -> dict[str, object]:
    return {"skip_materials": True, "maintain_order": True} if kind == "obj" else {}


def _brief(exc: Exception) -> str:
    text = str(exc).splitlines()[0] if str(exc) else type(exc).__name__
    return text[:120]


def on_vehicle(corners: Array, axes: Axes) -> Array:
    """Triangles (n, 3, 3) of a file turned to the vehicle's axes, in mm. Raises InputError."""
    return np.asarray(corners @ axes.matrix().T)
