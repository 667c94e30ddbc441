"""The records: what a survey and a design are. Plain, immutable, and the source of the published JSON Schema.

Glossary: a *thing* is an obstacle; a *part* is hardware with *ports*; a *run* is the pipe from one port to another,
made of *pieces* in order (leg, bend, mitre, pie, part in line); *fitted* is what was really made. docs/architecture.md.
"""

from .base import FORMAT, VERSION, Record
from .design import Design, Rules, Settings, StockBend
from .hardware import Body, Item, Metal, Part, PartKind, Placed, Port
from .runs import Attachment, Bend, Fitted, Hanger, InLine, Joint, JointKind, Leg, Mitre, Pie, Piece, Run, Tap, Tube
from .shapes import Box, Capsule, Cylinder, Extrusion, HalfSpace, MeshShape, Outline, Shape, Sphere
from .survey import (
    AxleTravel,
    Group,
    GroupState,
    HangPoint,
    HeatShy,
    LowLine,
    MarkPoint,
    Motion,
    OldPart,
    Photo,
    Pivot,
    Rails,
    Rock,
    ShaftSweep,
    Stance,
    State,
    Steer,
    Survey,
    Thing,
    Turn,
    Window,
)
from .use import Configuration, EmissionPart, Use

__all__ = [
    "FORMAT", "VERSION", "Attachment", "AxleTravel", "Bend", "Body", "Box", "Capsule", "Configuration", "Cylinder",
    "Design", "EmissionPart", "Extrusion", "Fitted", "Group", "GroupState", "HalfSpace", "HangPoint", "Hanger",
    "HeatShy", "InLine", "Item", "Joint", "JointKind", "Leg", "LowLine", "MarkPoint", "MeshShape", "Metal", "Mitre",
    "Motion", "OldPart", "Outline", "Part", "PartKind", "Photo", "Pie", "Piece", "Pivot", "Placed", "Port", "Rails",
    "Record", "Rock", "Rules", "Run", "Settings", "ShaftSweep", "Shape", "Sphere", "Stance", "State", "Steer",
    "StockBend", "Survey", "Tap", "Thing", "Tube", "Turn", "Use", "Window",
]  # fmt: skip
