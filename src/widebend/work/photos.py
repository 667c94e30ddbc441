"""A job's photos of tags placed all at once: by a page while it waits, or on the queue where they are many."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from ..core.errors import InputError
from ..core.photos import Known, KnownBeside, SetName, Solved, Taped, solve, solve_beside
from ..formats.solved_json import solved_data
from ..store import tag_photos
from ..store.database import Database
from ..store.tag_photos import KeptPhoto, TagKnown

OnProgress = Callable[[str, float], None]
FIRST_FEW = 24  # photos that are drawn while the others are placed


@dataclass(frozen=True)
class PhotoWish:
    """Which photos of which job are to be placed, in which set, with what is known beside them as data."""

    job_id: int
    which: SetName
    photos: tuple[int, ...]
    known: dict[str, Any]
    kind: Literal["photos"] = "photos"


def wish_for(job_id: int, which: SetName, photos: Sequence[KeptPhoto], known: TagKnown) -> PhotoWish:
    """The wish to place a set; of another set than the first the first's photos count too."""
    mine = tuple(one.id for one in photos if one.in_set in ("ride", which))
    said = {key: value for key, value in tag_photos.known_data(known).items() if key not in ("names", "spots")}
    return PhotoWish(job_id, which, mine, said)


def place(which: SetName, photos: Sequence[KeptPhoto], known: TagKnown, tell: OnProgress = lambda *_: None) -> Solved:
    """A set placed under the vehicle. Raises InputError where it cannot be."""
    asked = asked_of(known)
    first = solve([one.photo for one in photos if one.in_set == "ride"], asked, tell)
    if which == "ride":
        return first
    if first.lacking:
        raise InputError(f"the photos at ride have no place yet: {first.lacking}")
    return solve_beside([one.photo for one in photos if one.in_set == which], asked, first)


def asked_of(known: TagKnown) -> KnownBeside:
    """Return the known figures as the adjustment takes them."""
    return KnownBeside(
        known.bar_mm or None,
        tuple(Taped(a, b, mm) for a, b, mm in known.tapes),
        Known(known.places, known.rail_heights_mm, known.on_wheels),
    )


def place_many(
    database: Database, wish: dict[str, Any], report: Callable[[str, float, dict[str, Any] | None], None]
) -> dict[str, Any]:
    """The queue's task: those photos placed, as data; the first few by themselves are told of before all are."""
    with database.transaction() as connection:
        photos = [one for one in tag_photos.of_job(connection, wish["job_id"]) if one.id in set(wish["photos"])]
    known, which = tag_photos.known_from(wish["known"]), wish["which"]
    few = [one for one in photos if one.in_set == "ride"][:FIRST_FEW]
    if which == "ride" and len(few) < len(photos):
        with contextlib.suppress(InputError):  # the others may say what these lack
            some = solved_data(place(which, few, known))
            report(f"the first {len(few)} photos, the others are being placed", 0.05, some)
    return solved_data(place(which, photos, known, lambda words, share: report(words, share, None)))
