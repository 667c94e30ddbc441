"""Placed tags and photos as they are from below: front to the left, what is seen from too few sides marked."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.photos import Solved, is_narrow, next_photo

WIDE_PX, MARGIN_PX, MOST_TALL_PX = 900.0, 36.0, 420.0


@dataclass(frozen=True)
class Spot:
    """A tag or a photo: its words, its place and, of a tag, how it is drawn."""

    words: str
    x: float
    y: float
    kind: str


@dataclass(frozen=True)
class TagPicture:
    """The picture's size, its spots, and where the next photo would help most (x, y), none where nothing lacks."""

    width: float
    height: float
    tags: tuple[Spot, ...]
    photos: tuple[Spot, ...]
    next_at: tuple[float, float] | None
    next_words: str


def draw_tags(solved: Solved) -> TagPicture:
    """From below the vehicle's right is up: X to the right of the page, Y upward."""
    places = np.array([tag.place for tag in solved.tags])
    eyes = np.array([photo.eye for photo in solved.photos])
    everything = np.vstack([places, eyes])[:, :2]
    low, high = everything.min(axis=0), everything.max(axis=0)
    span = np.maximum(high - low, 100.0)
    scale = min((WIDE_PX - 2 * MARGIN_PX) / span[0], (MOST_TALL_PX - 2 * MARGIN_PX) / span[1])

    def px(at: np.ndarray) -> tuple[float, float]:
        return MARGIN_PX + float(at[0] - low[0]) * scale, MARGIN_PX + float(high[1] - at[1]) * scale

    tags = tuple(Spot(str(tag.number), *px(tag.place), "narrow" if is_narrow(tag) else "fine") for tag in solved.tags)
    photos = tuple(Spot(photo.name, *px(photo.eye), "photo") for photo in solved.photos)
    wanted = next_photo(solved)
    next_at = px(np.clip(wanted[1], low, high)) if wanted else None
    words = f"Tag {wanted[0].number} is seen from one side only: photograph it from about here." if wanted else ""
    return TagPicture(WIDE_PX, float(span[1]) * scale + 2 * MARGIN_PX, tags, photos, next_at, words)
