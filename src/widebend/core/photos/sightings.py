"""A photo's sightings: which tags, with their corners; and all photos' sightings in one table for the adjustment."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..space import Vector
from .lens import lens_of
from .tags import body_of, flat_corners, is_cuff, job_of

SetName = Literal["ride", "droop", "bump", "fitted"]
IndexArray = NDArray[Any]  # whole numbers or yes and no: places in lists, or which of them
USUAL_F, GUESSES_F = 0.78, (0.78, 0.66, 0.92, 0.55, 1.1)  # of a photo's longer side: phones of 20 to 40 mm equivalent


@dataclass(frozen=True)
class Sighting:
    """A tag in a photo: its number and its corners (4, 2) [pixels], the tag's own top left first, clockwise."""

    number: int
    corners: Vector


@dataclass(frozen=True)
class Photo:
    """A photo: its name, size [pixels], focal length [pixels] where it is said, which lens took it, what it saw."""

    name: str
    width: int
    height: int
    focal_px: float | None
    lens: str
    seen: tuple[Sighting, ...] = field(default=())
    guessed_f: float = USUAL_F  # of its longer side, where the focal length is not said

    @property
    def first_lens(self) -> Vector:
        """The figures of its lens to start from."""
        focal = self.focal_px or self.guessed_f * max(self.width, self.height)
        return lens_of(focal, (self.width - 1) / 2, (self.height - 1) / 2)


@dataclass(frozen=True)
class Table:
    """Sightings as arrays: photo, body and lens by their place in the lists; corners seen (n, 4, 2) [pixels] and where
    they are on the body's paper (n, 4, 2) [mm]; which bodies are cuffs.
    """

    photos: tuple[Photo, ...]
    bodies: tuple[int, ...]
    lenses: tuple[str, ...]
    number: IndexArray
    photo: IndexArray
    body: IndexArray
    lens: IndexArray
    pixels: Vector
    paper: Vector
    cuff: IndexArray

    def only(self, some: IndexArray) -> Table:
        """Some of the sightings; photos and bodies keep their places."""
        rows = (
            self.number[some],
            self.photo[some],
            self.body[some],
            self.lens[some],
            self.pixels[some],
            self.paper[some],
        )
        return Table(self.photos, self.bodies, self.lenses, *rows, self.cuff)


def table_of(photos: Sequence[Photo]) -> Table:
    """All sightings of tags that a sheet has; a number that is twice in one photo is left out of it."""
    rows = [
        (k, seen)
        for k, photo in enumerate(photos)
        for seen in photo.seen
        if job_of(seen.number) and seen.number not in twice(photo)
    ]
    bodies = tuple(sorted({body_of(seen.number) for _, seen in rows}))
    lenses = tuple(dict.fromkeys(photo.lens for photo in photos))
    place, lens = {body: k for k, body in enumerate(bodies)}, {name: k for k, name in enumerate(lenses)}
    whole = np.intp
    return Table(
        tuple(photos),
        bodies,
        lenses,
        np.array([s.number for _, s in rows], dtype=whole),
        np.array([k for k, _ in rows], dtype=whole),
        np.array([place[body_of(s.number)] for _, s in rows], dtype=whole),
        np.array([lens[photos[k].lens] for k, _ in rows], dtype=whole),
        np.array([s.corners for _, s in rows], dtype=float).reshape(-1, 4, 2),
        np.array([flat_corners(s.number) for _, s in rows]).reshape(-1, 4, 2),
        np.array([is_cuff(body) for body in bodies], dtype=bool),
    )


def twice(photo: Photo) -> set[int]:
    """Numbers that a photo shows more than once: nobody knows which is which."""
    return {number for number, count in Counter(seen.number for seen in photo.seen).items() if count > 1}
