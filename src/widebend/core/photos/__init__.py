"""Surveying with printed tags and photographs: from corners in pixels to places under the vehicle, each with its doubt.

Glossary: a *tag* is a printed square with a number, its *job* what the number is for, its *place* the spot it stands
for; a *cuff* a strip of small tags round a pipe; a *sighting* a tag in a photo; a *body* what has one pose, a flat
tag or a whole cuff; the *bar* a printed 100 mm that somebody measured; a *hold* something known that fixes the whole
in the vehicle's frame, the *gauge* all of them.
"""

from .bundle_adjustment import Taped
from .coaching import edge_on, is_narrow, next_photo
from .datum import Known
from .lens import lens_of, seen_at, undistorted
from .pattern import CELLS, cells_of
from .rays import meeting
from .sets import Travelled, solve_beside, travelled
from .sightings import Photo, SetName, Sighting
from .solving import SURE, FoundTag, KnownBeside, LeftOut, PlacedPhoto, Solved, solve
from .spots import Sight, Spot, line_of_sight, spot
from .tags import (
    BAR_MM,
    BOLT_MM,
    CUFF_MM,
    CUFF_PITCH_MM,
    CUFF_TAGS,
    JOBS,
    STICKER_MM,
    STRIP_TAGS,
    Job,
    TagJob,
    body_of,
    flat_corners,
    is_cuff,
    is_left,
    job_of,
    size_mm,
)

__all__ = [
    "BAR_MM",
    "BOLT_MM",
    "CELLS",
    "CUFF_MM",
    "CUFF_PITCH_MM",
    "CUFF_TAGS",
    "JOBS",
    "STICKER_MM",
    "STRIP_TAGS",
    "SURE",
    "FoundTag",
    "Job",
    "Known",
    "KnownBeside",
    "LeftOut",
    "Photo",
    "PlacedPhoto",
    "SetName",
    "Sight",
    "Sighting",
    "Solved",
    "Spot",
    "TagJob",
    "Taped",
    "Travelled",
    "body_of",
    "cells_of",
    "edge_on",
    "flat_corners",
    "is_cuff",
    "is_left",
    "is_narrow",
    "job_of",
    "lens_of",
    "line_of_sight",
    "meeting",
    "next_photo",
    "seen_at",
    "size_mm",
    "solve",
    "solve_beside",
    "spot",
    "travelled",
    "undistorted",
]
