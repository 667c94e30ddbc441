"""Surveying with printed tags and photographs: from corners in pixels to places under the vehicle, each with its doubt.

Glossary: a *tag* is a printed square with a number, its *job* what the number is for, its *place* the spot it stands
for; a *cuff* a strip of small tags round a pipe; a *sighting* a tag in a photo; a *body* what has one pose, a flat
tag or a whole cuff; the *bar* a printed 100 mm that somebody measured; a *hold* something known that fixes the whole
in the vehicle's frame, the *gauge* all of them.
"""

from .adjusting import Taped
from .coaching import is_narrow, next_photo
from .gauge import Known
from .lens import seen_at, undistorted
from .pattern import CELLS, cells_of
from .proposing import Proposal, called, proposals, spot_proposal
from .sighted import Photo, Sighting
from .solving import Asked, FoundTag, LeftOut, PlacedPhoto, Solved, solve
from .spots import Sight, Spot, line_of_sight, spot
from .tags import (
    BAR_MM,
    CUFF_PITCH_MM,
    CUFF_TAGS,
    JOBS,
    STICKER_MM,
    Job,
    TagJob,
    body_of,
    flat_corners,
    is_cuff,
    job_of,
    size_mm,
)

__all__ = [
    "BAR_MM",
    "CELLS",
    "CUFF_PITCH_MM",
    "CUFF_TAGS",
    "JOBS",
    "STICKER_MM",
    "Asked",
    "FoundTag",
    "Job",
    "Known",
    "LeftOut",
    "Photo",
    "PlacedPhoto",
    "Proposal",
    "Sight",
    "Sighting",
    "Solved",
    "Spot",
    "TagJob",
    "Taped",
    "body_of",
    "called",
    "cells_of",
    "flat_corners",
    "is_cuff",
    "is_narrow",
    "job_of",
    "line_of_sight",
    "next_photo",
    "proposals",
    "seen_at",
    "size_mm",
    "solve",
    "spot",
    "spot_proposal",
    "undistorted",
]
