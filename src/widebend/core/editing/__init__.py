"""Every change of a design: a design and what is wanted in, a valid design or an EditError out.

Glossary: *placing* puts hardware where pipe meets it, *mirroring* makes the other side, a *twin* is made anew when
its other side changes, *holding the finish* lets the pieces near a change take it up so that the end stays, a
*fixing* is a hanger or an anchor, a *configuration* is the system with some parts left out.
"""

from . import edits, fixings, placing
from .configurations import configured
from .corners import Corner, corners, drag_corner
from .edits import CARRY, HOLD, changed_pieces, kept_pieces, last_tube, take_answer, with_pieces
from .mirroring import differences, mirror_part, mirror_run, mirrored_item, mixed_up
from .placing import add_part, joined, on_port, placed_at

__all__ = [
    "CARRY",
    "HOLD",
    "Corner",
    "add_part",
    "changed_pieces",
    "configured",
    "corners",
    "differences",
    "drag_corner",
    "edits",
    "fixings",
    "joined",
    "kept_pieces",
    "last_tube",
    "mirror_part",
    "mirror_run",
    "mirrored_item",
    "mixed_up",
    "on_port",
    "placed_at",
    "placing",
    "take_answer",
    "with_pieces",
]
