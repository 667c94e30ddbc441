"""Printed tags: what each number is for, how large it is, and where on it the place is that it stands for.

A tag's own frame: origin in its middle, x to its right, y to its top, z out of its face toward who looks at it. A
cuff is a strip of small tags round a pipe: its frame has z along the pipe, and x out through the strip's zero mark.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..space import Vector

TagJob = Literal["face", "corner", "edge", "bolt", "flange disc", "rail", "floor", "hub", "low point", "cuff"]
FLAT_MM, CUFF_MM, CUFF_PITCH_MM, CUFF_TAGS = 60.0, 22.0, 30.0, 8
STRIP_TAGS = 6  # of a cuff's that are printed: 180 mm, once round a pipe of 57
STICKER_MM = 80.0  # a flat tag with its white border, cut out
BOLT_MM = 48.0  # from a tag's middle down to the middle of the hole over a bolt's head
BAR_MM = 100.0  # the printed bar on every sheet


@dataclass(frozen=True)
class Job:
    """A kind of tags: the numbers that are, how to stick one on, where its place is in its own frame
    [mm].
    """

    job: TagJob
    first: int
    last: int
    words: str
    place: tuple[float, float, float] = (0.0, 0.0, 0.0)


JOBS = (
    Job("face", 0, 99, "flat on a face: gives its plane"),
    Job("corner", 100, 159, "the arrow's point at the very corner", (-STICKER_MM / 2, -STICKER_MM / 2, 0.0)),
    Job("edge", 160, 199, "the lower border along the edge", (0.0, -STICKER_MM / 2, 0.0)),
    Job("bolt", 200, 239, "the hole over the bolt's head: to hang from", (0.0, -BOLT_MM, 0.0)),
    Job("flange disc", 240, 269, "the disc centred on the flange, its top where the flange's is"),
    Job(
        "rail",
        270,
        289,
        "the upper border along the rail's inner edge, even numbers left, odd ones right",
        (0.0, STICKER_MM / 2, 0.0),
    ),
    Job("floor", 290, 309, "flat on the floor"),
    Job("hub", 310, 313, "in the middle of the hub: 310 front left, 311 front right, 312 rear left, 313 rear right"),
    Job("low point", 318, 337, "the arrow's point at the lowest place", (0.0, -STICKER_MM / 2, 0.0)),
    Job("cuff", 340, 579, "the strip once round the pipe, its zero mark at the top"),
)


def job_of(number: int) -> Job | None:
    """Return the job of a number; None for one that no sheet has."""
    return next((job for job in JOBS if job.first <= number <= job.last), None)


def is_left(number: int) -> bool:
    """Whether a rail's tag is one of the left rail."""
    return number % 2 == 0


def body_of(number: int) -> int:
    """The number that a tag's body goes by: its own, of a cuff its strip's first."""
    job = job_of(number)
    if job is None or job.job != "cuff":
        return number
    return job.first + (number - job.first) // CUFF_TAGS * CUFF_TAGS


def is_cuff(number: int) -> bool:
    job = job_of(number)
    return job is not None and job.job == "cuff"


def size_mm(number: int) -> float:
    """A tag's side as it is meant to be printed, black to black [mm]."""
    return CUFF_MM if is_cuff(number) else FLAT_MM


def flat_corners(number: int) -> Vector:
    """Where a tag's corners are on its body's paper (4, 2) [mm]: to the right and up, top left first, clockwise as
    it is looked at. On a cuff to the right is round the pipe from its zero mark.
    """
    half = size_mm(number) / 2
    middle = (number - body_of(number)) * CUFF_PITCH_MM if is_cuff(number) else 0.0
    return np.array([(middle - half, half), (middle + half, half), (middle + half, -half), (middle - half, -half)])
