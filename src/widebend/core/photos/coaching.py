"""Coaching: the weak photos, and where the next one would help most."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..space import Vector
from .sightings import Sighting
from .solving import FoundTag, Solved

LEAST_BASE_DEG = 25.0  # sights less far apart say less well how deep a place is than how wide
EDGE_ON = 0.35  # a tag looked at so flat, narrow over wide, is seen from 70 degrees off its face
NEAR = 3  # this many of the nearest photos are gone round


def is_narrow(tag: FoundTag) -> bool:
    """Whether a tag was seen from one side only."""
    return tag.base_deg < LEAST_BASE_DEG


def next_photo(solved: Solved) -> tuple[FoundTag, Vector] | None:
    """The tag that was seen from least far apart, and from where (2,) another photo of it would tell most: opposite
    those that see it. None where nothing lacks.
    """
    worst = min(solved.tags, key=lambda tag: tag.base_deg, default=None)
    if worst is None or not is_narrow(worst):
        return None
    eyes = np.array([photo.eye[:2] for photo in solved.photos])
    near = np.argsort(np.linalg.norm(eyes - worst.place[:2], axis=1))[:NEAR]
    return worst, 2.0 * worst.place[:2] - eyes[near].mean(axis=0)


def edge_on(seen: Sequence[Sighting]) -> list[int]:
    """The tags that a photo sees so nearly edge-on that they say little of how they stand."""
    flat = []
    for one in seen:
        across, up = one.corners[1] - one.corners[3], one.corners[0] - one.corners[2]
        # a square's diagonals seen aslant: the least over the greatest stretch of the square
        stretch = np.linalg.svd(np.column_stack([across - up, across + up]), compute_uv=False)
        if stretch[1] < EDGE_ON * stretch[0]:
            flat.append(one.number)
    return sorted(flat)
