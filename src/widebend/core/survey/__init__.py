"""Measuring under the vehicle: from tapes, wheels, levels and old pipes to places with their doubt.

Glossary: a *tape* is a distance to a mark, a *doubt* how far a value may be off and how it was taken, the *stance*
how the vehicle stands on the lift against ride height, a *starter* a thing put in by its usual sizes, the *low
line* what nothing may hang below.
"""

from .drawing_in import (
    AXES,
    BY_EYE,
    DRAWABLE,
    LINES,
    POINTS,
    called,
    draw_in,
    drawn,
    resized,
    sizes,
    snapped_place,
    spanned,
)
from .face_match import End, match
from .left_to_measure import checklist
from .low_line import line_through
from .measuring import (
    Heading,
    Place,
    Size,
    edge_to_edge,
    face_direction,
    off_the_rail,
    pipe_direction,
    plumb_and_rule,
    plumb_face_direction,
    round_the_pipe,
    tape_line,
)
from .old_pipe import Copy, OldBend, copy_pipe
from .shifting import bounds, handles, moved, snapped, stretched
from .stance import rail_underside, standing, stands
from .starters import GUESS, STARTERS, TRACK_MM, WHEELBASE_MM, starter
from .tapes import TapeMark, from_tapes

__all__ = [
    "AXES",
    "BY_EYE",
    "DRAWABLE",
    "GUESS",
    "LINES",
    "POINTS",
    "STARTERS",
    "TRACK_MM",
    "WHEELBASE_MM",
    "Copy",
    "End",
    "Heading",
    "OldBend",
    "Place",
    "Size",
    "TapeMark",
    "bounds",
    "called",
    "checklist",
    "copy_pipe",
    "draw_in",
    "drawn",
    "edge_to_edge",
    "face_direction",
    "from_tapes",
    "handles",
    "line_through",
    "match",
    "moved",
    "off_the_rail",
    "pipe_direction",
    "plumb_and_rule",
    "plumb_face_direction",
    "rail_underside",
    "resized",
    "round_the_pipe",
    "sizes",
    "snapped",
    "snapped_place",
    "spanned",
    "standing",
    "stands",
    "starter",
    "stretched",
    "tape_line",
]
