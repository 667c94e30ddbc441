"""Bodies and how near they are to each other: rows of numbers in, distances out, nothing of the trade.

Glossary: a *solid* is a convex body as a row of numbers, a *segment* a stretch of tube as one; a *gap* is the
distance of two bodies, minus the depth where they clash; a *mesh* is triangles in a tree of boxes; a *heel* is what
a mitred end has beyond its square end. Kernels are compiled and read rows by number; nobody else should.
"""

from . import clearance, mesh_gap, moved, travel, travel_bodies, travel_pipes
from .clear_way import met_between, standing_gaps
from .clearance import ARC, HEEL, centre, swept_gap, tube_gap
from .kernels import leaf
from .mesh import (
    LEAF,
    MOST_TRIANGLES,
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
from .plates import FAR
from .sections import edge_round
from .segments import (
    arc_row,
    bar_points,
    chords,
    heel_row,
    highest,
    length_of,
    lowest,
    open_ends,
    rows_of,
    straight_row,
    straight_rows,
    stretch,
)
from .solids import (
    BOX,
    CAPSULE,
    CYLINDER,
    HALFSPACE,
    PRISM,
    WIDTH,
    bar_of,
    capsule_row,
    cylinder_row,
    end_faces,
    is_flat_sided,
    motion_of,
    moved_solids,
    prism_row,
    rotation_about,
    rotation_from_rpy,
    shifted_row,
    signed_distance,
    solid_rows,
)
from .sweeping import SWEEP_WIDTH, pose_at

__all__ = [
    "ARC",
    "BOX",
    "CAPSULE",
    "CYLINDER",
    "FAR",
    "HALFSPACE",
    "HEEL",
    "LEAF",
    "MOST_TRIANGLES",
    "PRISM",
    "SWEEP_WIDTH",
    "WIDTH",
    "arc_row",
    "as_kept",
    "bar_of",
    "bar_points",
    "capsule_row",
    "centre",
    "chords",
    "clearance",
    "corners_of",
    "cylinder_row",
    "edge_round",
    "end_faces",
    "heel_row",
    "highest",
    "indexed",
    "is_closed",
    "is_flat_sided",
    "is_inside",
    "leaf",
    "least_between",
    "length_of",
    "lowest",
    "mesh_gap",
    "met_between",
    "motion_of",
    "moved",
    "moved_solids",
    "name_of",
    "nearest_within",
    "open_ends",
    "pose_at",
    "prism_row",
    "rotation_about",
    "rotation_from_rpy",
    "rows_of",
    "shadow",
    "shifted_row",
    "signed_distance",
    "solid_rows",
    "standing_gaps",
    "straight_row",
    "straight_rows",
    "stretch",
    "swept_gap",
    "thinned",
    "thinned_mesh",
    "travel",
    "travel_bodies",
    "travel_pipes",
    "tube_gap",
]
