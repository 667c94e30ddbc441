"""The proposals of placed tags: hang points, marks, flanges and ports, boxes, pipes, windows, rails, the low line, an
old pipe; proposed one by one, with its doubt, beside what is there.
"""

from __future__ import annotations

import math
from dataclasses import replace

from ..photos import FoundTag, Solved, TagJob, job_of
from ..records import Design
from .lines import low_line, rails, stance
from .old_pipe import old_pipes
from .points import flanges, hang_points, marks
from .proposal import Names, Proposal
from .shapes import boxes, pipes, windows


def proposals(solved: Solved, names: Names, design: Design) -> list[Proposal]:
    """Everything that the placed tags can become; tags of one name belong to one thing. None while nothing says
    where the whole lies.
    """
    if solved.lacking:
        return []

    def of(*jobs: TagJob) -> list[FoundTag]:
        return [tag for tag in solved.tags if (its := job_of(tag.number)) and its.job in jobs]

    shapes = [*boxes(of("corner"), names, design), *windows(of("edge"), names, design)]
    whole = {number for one in shapes for number in one.of}
    # a plain tag that nobody named only ties photos together; what a whole thing is made of is no mark by itself
    single = [
        tag
        for tag in (*of("corner", "edge"), *(tag for tag in of("face") if tag.number in names))
        if tag.number not in whole
    ]
    found = [
        *hang_points(of("bolt"), names, design),
        *flanges(of("flange disc"), names, design),
        *shapes,
        *pipes(of("cuff"), names, design),
        *old_pipes(of("cuff", "flange disc"), names, design),
        *rails(of("rail"), design),
        *low_line(of("low point"), design),
        *stance(of("rail"), of("floor")),
        *marks(single, names, design),
    ]
    return [_beside_whole(one, solved.whole_mm) for one in found]


def _beside_whole(one: Proposal, whole_mm: float) -> Proposal:
    """Existing records were measured from the vehicle: the doubt of where the whole lies counts too."""
    if one.beside is None:
        return one
    return replace(one, beside=replace(one.beside, allowed_mm=math.hypot(one.beside.allowed_mm, whole_mm)))
