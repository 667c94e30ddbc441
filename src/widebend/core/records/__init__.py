"""The records: what a survey and a design are. Plain, immutable, and the source of the published JSON Schema.

Glossary: a *thing* is an obstacle; a *part* is hardware with *ports*; a *run* is the pipe from one port to another,
made of *pieces* in order (leg, bend, mitre, pie, part in line); *fitted* is what was really made. docs/architecture.md.
"""

from .base import FORMAT, VERSION, Record
from .design import Design, Rules, Settings, StockBend
from .hardware import Body, Item, Part, PartKind, Placed, Port
from .runs import Attachment, Bend, Fitted, Hanger, InLine, Joint, JointKind, Leg, Mitre, Pie, Piece, Run, Tap, Tube
from .shapes import Box, Capsule, Cylinder, HalfSpace, Shape, Sphere
from .survey import Group, GroupState, HangPoint, LowLine, OldPart, Rails, Stance, State, Survey, Thing, Turn, Window

__all__ = [
    "FORMAT", "VERSION", "Attachment", "Bend", "Body", "Box", "Capsule", "Cylinder", "Design", "Fitted", "Group",
    "GroupState", "HalfSpace", "HangPoint", "Hanger", "InLine", "Item", "Joint", "JointKind", "Leg", "LowLine", "Mitre",
    "OldPart", "Part", "PartKind", "Pie", "Piece", "Placed", "Port", "Rails", "Record", "Rules", "Run", "Settings",
    "Shape", "Sphere", "Stance", "State", "StockBend", "Survey", "Tap", "Thing", "Tube", "Turn", "Window",
]  # fmt: skip
