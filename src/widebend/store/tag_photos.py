"""Photos of printed tags, what each saw, and what is known beside them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

import numpy as np
from psycopg.types.json import Jsonb

from ..core.errors import EditError
from ..core.photos import Photo, SetName, Sighting
from ..formats.tag_photos import TagPhoto
from .database import Connection, queries

MOST_PHOTOS = 200
MOST_PLACED = 12  # answers kept of a job: each of its sets, a few changes back


@dataclass(frozen=True)
class KeptPhoto:
    """A photo as it is kept, without its pixels; what it saw is in `photo`."""

    id: int
    photo: Photo
    trouble: str
    who: str
    made_at: datetime
    in_set: SetName
    bytes: int


@dataclass(frozen=True)
class TagKnown:
    """The person's figures beside the photos [mm]: the printed bar as measured; lengths taped between the places of two
    tags; typed places of tags; the rails' underside at the front and rear tags, at ride; what tags are called;
    whether the floor's tags lie where the wheels stand; spots by their names, where each was pointed at in which
    photo [pixels].
    """

    bar_mm: float | None = None
    tapes: tuple[tuple[int, int, float], ...] = ()
    places: Mapping[int, tuple[float, float, float]] = field(default_factory=dict)
    rail_heights_mm: tuple[float, float] | None = None
    names: Mapping[int, str] = field(default_factory=dict)
    on_wheels: bool = True
    spots: Mapping[str, Mapping[int, tuple[float, float]]] = field(default_factory=dict)


def add(
    connection: Connection,
    job_id: int,
    photo: TagPhoto,
    seen: tuple[Sighting, ...],
    trouble: str,
    who: str,
    in_set: SetName = "ride",
) -> int | None:
    """Keep a photo with what it saw: its id; None where it is there already. Raises EditError where there are too
    many.
    """
    if len(of_job(connection, job_id)) >= MOST_PHOTOS:
        raise EditError(f"at most {MOST_PHOTOS} photos a job: let some go first", "photos")
    data = [[one.number, np.round(one.corners, 4).tolist()] for one in seen]
    added = queries.add_tag_photo(
        connection,
        job_id=job_id,
        sha256=photo.sha256,
        content=photo.jpeg,
        width=photo.width,
        height=photo.height,
        focal_px=photo.focal_px,
        lens=photo.lens,
        seen=Jsonb(data),
        trouble=trouble,
        who=who,
        in_set=in_set,
    )
    return int(added) if added else None


def of_job(connection: Connection, job_id: int) -> list[KeptPhoto]:
    """A job's photos, the oldest first."""
    return [_kept(row) for row in queries.tag_photos(connection, job_id=job_id)]


def _kept(row: Mapping[str, Any]) -> KeptPhoto:
    seen = tuple(Sighting(int(number), np.array(corners, dtype=float)) for number, corners in row["seen"])
    photo = Photo(str(row["id"]), row["width"], row["height"], row["focal_px"], row["lens"], seen)
    return KeptPhoto(row["id"], photo, row["trouble"], row["who"], row["made_at"], row["in_set"], row["bytes"])


def pixels(connection: Connection, job_id: int, photo_id: int) -> bytes | None:
    """A photo's JPEG, or None."""
    row = queries.tag_photo(connection, job_id=job_id, photo_id=photo_id)
    return bytes(row["content"]) if row else None


def delete_photo(connection: Connection, job_id: int, photo_id: int) -> None:
    queries.drop_tag_photo(connection, job_id=job_id, photo_id=photo_id)


@dataclass(frozen=True)
class Placed:
    """The outcome of placing a set of photos: the answer as data, or why there is none."""

    found: Mapping[str, Any] | None
    why: str


def placed(connection: Connection, job_id: int, asked: bytes) -> Placed | None:
    """Return the outcome of placing by the digest of the question; None where nobody placed it yet."""
    row = queries.placed_photos(connection, job_id=job_id, asked=asked)
    return Placed(row["found"], row["why"]) if row else None


def keep_placed(connection: Connection, job_id: int, asked: bytes, one: Placed) -> None:
    """Keep what placing came to."""
    found = Jsonb(dict(one.found)) if one.found is not None else None
    queries.keep_placed_photos(connection, job_id=job_id, asked=asked, found=found, why=one.why[:400])
    queries.drop_older_placed(connection, job_id=job_id, most=MOST_PLACED)


def known(connection: Connection, job_id: int) -> TagKnown:
    """Return the known figures beside a job's photos."""
    row = queries.tag_known(connection, job_id=job_id)
    return known_from(row["tag_known"] if row else {})


def known_from(data: Mapping[str, Any]) -> TagKnown:
    """Return the known figures from their data."""
    heights = data.get("rail_heights_mm")
    return TagKnown(
        data.get("bar_mm"),
        tuple((int(a), int(b), float(mm)) for a, b, mm in data.get("tapes", ())),
        {int(n): (float(x), float(y), float(z)) for n, (x, y, z) in data.get("places", {}).items()},
        (float(heights[0]), float(heights[1])) if heights else None,
        {int(n): str(name) for n, name in data.get("names", {}).items()},
        bool(data.get("on_wheels", True)),
        {
            str(name): {int(photo): (float(x), float(y)) for photo, (x, y) in sights.items()}
            for name, sights in data.get("spots", {}).items()
        },
    )


def set_known(connection: Connection, job_id: int, said: TagKnown) -> None:
    """Say what is known."""
    queries.set_tag_known(connection, job_id=job_id, known=Jsonb(known_data(said)))


def known_data(said: TagKnown) -> dict[str, Any]:
    """Return the known figures as plain data."""
    return {
        "bar_mm": said.bar_mm,
        "tapes": [list(tape) for tape in said.tapes],
        "places": {str(n): list(place) for n, place in said.places.items()},
        "rail_heights_mm": list(said.rail_heights_mm) if said.rail_heights_mm else None,
        "names": {str(n): name for n, name in said.names.items()},
        "on_wheels": said.on_wheels,
        "spots": {name: {str(photo): list(at) for photo, at in sights.items()} for name, sights in said.spots.items()},
    }
