"""Facts about each kind of thing that the program knows by name: one table a kind, one row a name.

A new metal is one row of `metals`, with its name among the names; whatever is asked of it stands in that row.

May import: nothing of this program.
"""

from .joint_kinds import JOINTS, JointFacts, JointKind, joint_of
from .metals import METALS, TUBE_METALS, Material, Metal, MetalFacts, wire_between
from .part_kinds import PART_KINDS, PartKind, PartKindFacts
from .processes import PROCESSES, Process, ProcessFacts

__all__ = [
    "JOINTS",
    "METALS",
    "PART_KINDS",
    "PROCESSES",
    "TUBE_METALS",
    "JointFacts",
    "JointKind",
    "Material",
    "Metal",
    "MetalFacts",
    "PartKind",
    "PartKindFacts",
    "Process",
    "ProcessFacts",
    "joint_of",
    "wire_between",
]
