"""Places, directions and chains of motions in the vehicle's frame: X rearward, Y left, Z up, mm.

Glossary: a *pose* is a point with a flow and a reference square to it; a *roll* turns the reference about the flow;
a *chain* is steps (leg, bend, mitre, rigid) that each move what follows, with exact derivatives; an *outline* is a
flat polygon, split here into convex pieces.
"""

from . import chain
from .frame import (
    UP,
    Pose,
    Vector,
    arm_turn_deg,
    clock_deg,
    cross,
    flow_of,
    heading_deg,
    inclination_deg,
    near_vertical,
    needs_words,
    pose,
    pose_from_matrix,
    roll_for_clock,
    toward_words,
    unit,
    wrapped,
)
from .outlines import biggest_round, convex_parts, oval, rectangle
from .triangle_mesh import TriangleMesh

__all__ = [
    "UP",
    "Pose",
    "TriangleMesh",
    "Vector",
    "arm_turn_deg",
    "biggest_round",
    "chain",
    "clock_deg",
    "convex_parts",
    "cross",
    "flow_of",
    "heading_deg",
    "inclination_deg",
    "near_vertical",
    "needs_words",
    "oval",
    "pose",
    "pose_from_matrix",
    "rectangle",
    "roll_for_clock",
    "toward_words",
    "unit",
    "wrapped",
]
