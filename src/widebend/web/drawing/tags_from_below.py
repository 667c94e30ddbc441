"""Placed tags and photos as they are from below: front to the left, what is seen from too few sides marked."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.photos import Solved

WIDE_PX, MARGIN_PX, MOST_TALL_PX = 900.0, 36.0, 420.0
NARROW_DEG = 25.0  # sights less far apart say less well how deep a place is than how wide


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

    tags = tuple(Spot(str(tag.number), *px(tag.place), "narrow" if tag.base_deg < NARROW_DEG else "fine")
                 for tag in solved.tags)  # fmt: skip
    photos = tuple(Spot(photo.name, *px(photo.eye), "photo") for photo in solved.photos)
    worst = min(solved.tags, key=lambda tag: tag.base_deg)
    next_at, words = None, ""
    if worst.base_deg < NARROW_DEG:
        over = np.array([worst.place[:2] - (eye[:2] - worst.place[:2]) for eye in eyes[_nearest(eyes, worst.place)]])
        next_at = px(np.clip(over.mean(axis=0), low, high))
        words = f"Tag {worst.number} is seen from one side only: photograph it from about here."
    return TagPicture(WIDE_PX, float(span[1]) * scale + 2 * MARGIN_PX, tags, photos, next_at, words)


def _nearest(eyes: np.ndarray, place: np.ndarray) -> np.ndarray:
    return np.asarray(np.argsort(np.linalg.norm(eyes[:, :2] - place[:2], axis=1))[:3])
