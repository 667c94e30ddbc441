"""The system and the underbody as solid models other programs read: glTF (binary) and STL.

glTF is in metres with Y up, as its specification (2.0, section 3.4) wants; STL has no unit and is in mm, vehicle frame.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import trimesh

from ..core.laying import Surface

# one plain colour for each kind of body; the file's own, no meaning beyond telling them apart
COLOURS = {
    "pipe": (150, 158, 166, 255),
    "part": (112, 122, 132, 255),
    "hard": (196, 190, 178, 255),
    "heat-shy": (206, 150, 90, 255),
    "soft": (168, 180, 160, 255),
}
_TO_GLTF = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]]) / 1000.0


def write_glb(surfaces: Iterable[Surface]) -> bytes:
    """A binary glTF with one named node for each surface."""
    scene = trimesh.Scene()
    for i, surface in enumerate(surfaces):
        mesh = _mesh(surface, surface.corners @ _TO_GLTF.T)
        scene.add_geometry(mesh, node_name=f"{i + 1} {surface.name}", geom_name=f"{i + 1} {surface.name}")
    return bytes(trimesh.exchange.gltf.export_glb(scene))  # type: ignore[no-untyped-call]


def write_stl(surfaces: Iterable[Surface]) -> bytes:
    """A binary STL of all surfaces together [mm]; at least one is wanted."""
    corners, faces, first = list[np.ndarray](), list[np.ndarray](), 0
    for surface in surfaces:
        corners.append(surface.corners)
        faces.append(surface.faces + first)
        first += len(surface.corners)
    whole = trimesh.Trimesh(np.concatenate(corners), np.concatenate(faces), process=False)
    return bytes(trimesh.exchange.stl.export_stl(whole))


def _mesh(surface: Surface, corners: np.ndarray) -> trimesh.Trimesh:
    colour = np.array(COLOURS.get(surface.kind, COLOURS["hard"]), dtype=np.uint8)
    return trimesh.Trimesh(corners, surface.faces, process=False, face_colors=np.tile(colour, (len(surface.faces), 1)))
