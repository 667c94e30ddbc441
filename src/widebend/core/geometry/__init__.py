"""Bodies and how near they are to each other: rows of numbers in, distances out, nothing of the trade.

Glossary: a *solid* is a convex body as a row of numbers, a *segment* a stretch of tube as one; a *gap* is the
distance of two bodies, minus the depth where they clash; a *mesh* is triangles in a tree of boxes; a *heel* is what
a mitred end has beyond its square end. Kernels are compiled and read rows by number; nobody else should.
"""

from . import clearance, mesh_gap
from .clearance import ARC, HEEL, centre, first_hit, free_steps, point_distances, swept_gap, tube_gap
from .kernels import leaf
from .mesh import (
    LEAF,
    MOST_TRIANGLES,
    TriangleMesh,
    as_kept,
    corners_of,
    indexed,
    is_closed,
    name_of,
    shadow,
    thinned,
    thinned_mesh,
)
from .mesh_gap import is_inside, nearest_within
from .pipe_gap import least_between
from .solids import (
    BOX,
    CAPSULE,
    CYLINDER,
    HALFSPACE,
    PRISM,
    WIDTH,
    motion_of,
    rotation_about,
    rotation_from_rpy,
    signed_distance,
    solid_rows,
)

__all__ = [
    "ARC",
    "BOX",
    "CAPSULE",
    "CYLINDER",
    "HALFSPACE",
    "HEEL",
    "LEAF",
    "MOST_TRIANGLES",
    "PRISM",
    "WIDTH",
    "TriangleMesh",
    "as_kept",
    "centre",
    "clearance",
    "corners_of",
    "first_hit",
    "free_steps",
    "indexed",
    "is_closed",
    "is_inside",
    "leaf",
    "least_between",
    "mesh_gap",
    "motion_of",
    "name_of",
    "nearest_within",
    "point_distances",
    "rotation_about",
    "rotation_from_rpy",
    "shadow",
    "signed_distance",
    "solid_rows",
    "swept_gap",
    "thinned",
    "thinned_mesh",
    "tube_gap",
]
