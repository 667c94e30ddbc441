"""A set of a job's photos of tags as it is placed: at once where they are few, by the queue where they are many; and
what they become.
"""

from __future__ import annotations

import contextlib
import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import get_args

from flask import request

from ...core.errors import InputError
from ...core.photos import PlacedPhoto, SetName, Sight, Solved, spot
from ...core.records import Design
from ...core.tagged import Proposal, proposals, spot_proposal, travels
from ...formats.solved_json import read_solved, solved_data
from ...store import tag_photos
from ...store.database import Connection
from ...store.searches import Search, newest_for
from ...store.tag_photos import KeptPhoto, TagKnown
from ...work.photos import PhotoWish, place, wish_for
from ..page.at_hand import AtHand, database, in_memory

FIRST: SetName = "ride"  # the set that the others hang on
AT_ONCE = 80  # photos that a page waits for; more are the queue's
SETS: dict[SetName, str] = {
    "ride": "as it stands",
    "droop": "axle down",
    "bump": "axle up",
    "fitted": "pipe tacked in",
}


@dataclass(frozen=True)
class Placing:
    """A set of photos and what came of it: all photos of the job, what is known, the answer or why there is none, and
    the search that places it where the queue does; whether the queue has still to be asked.
    """

    which: SetName
    all_photos: tuple[KeptPhoto, ...]
    known: TagKnown
    solved: Solved | None
    first: Solved | None
    why: str
    search: Search | None = None
    to_ask: bool = False

    @property
    def photos(self) -> list[KeptPhoto]:
        """The photos of this set."""
        return [one for one in self.all_photos if one.in_set == self.which]


def wanted_set() -> SetName:
    """The set that the address or the form names."""
    said = request.values.get("set", "ride")
    return next((one for one in get_args(SetName) if one == said), "ride")


def have_placed(job_id: int, which: SetName) -> None:
    """Place a set, and the first that holds it, where a page waits for that and nobody did it yet: with no record held
    and no transaction open, for it may take seconds. What it comes to is kept for every process.
    """
    for one in dict.fromkeys((FIRST, which)):
        with database().transaction() as connection:
            photos, known = tag_photos.of_job(connection, job_id), tag_photos.known(connection, job_id)
            wish = wish_for(job_id, one, photos, known)
            if not 2 <= len(wish.photos) <= AT_ONCE or tag_photos.placed(connection, job_id, _digest(wish)):
                continue
        try:
            found = tag_photos.Placed(solved_data(place(one, photos, known)), "")
        except InputError as exc:
            found = tag_photos.Placed(None, str(exc))
        with database().transaction() as connection:
            tag_photos.keep_placed(connection, job_id, _digest(wish), found)


def _digest(wish: PhotoWish) -> bytes:
    """Return a digest of the question."""
    return hashlib.sha256(repr(wish).encode()).digest()


def placing_of(connection: Connection, here: AtHand, which: SetName) -> Placing:
    """A set as it is placed now."""
    photos = tuple(tag_photos.of_job(connection, here.job.id))
    known = tag_photos.known(connection, here.job.id)
    mine = [one for one in photos if one.in_set == which]
    first: Solved | None = None
    if which != "ride":
        first, why = _placed(connection, here, "ride", photos, known)[:2]
        if first is None:
            return Placing(which, photos, known, None, None, why or "place the photos at ride first")
    if len(mine) < 2:
        return Placing(which, photos, known, None, first, "")
    solved, why, search, to_ask = _placed(connection, here, which, photos, known)
    return Placing(which, photos, known, solved, first or solved, why, search, to_ask)


def _placed(
    connection: Connection, here: AtHand, which: SetName, photos: Sequence[KeptPhoto], known: TagKnown
) -> tuple[Solved | None, str, Search | None, bool]:
    kept = in_memory("solved")
    wish = wish_for(here.job.id, which, photos, known)
    if len(wish.photos) < 2:
        return None, "", None, False
    if len(wish.photos) <= AT_ONCE:
        placed = tag_photos.placed(connection, here.job.id, _digest(wish))
        if placed is None:  # something changed since the page began: the next one places it
            return None, "the photos changed meanwhile: load the page again", None, False
        data = dict(placed.found or {})
        solved = kept.get(("tags", _digest(wish)), lambda: read_solved(data)) if data else None
        return solved, placed.why, None, False
    search = newest_for(connection, here.job.design_id, asdict(wish))
    if search and search.state == "done" and search.found:
        found = search.found
        return kept.get(("queued tags", search.id), lambda: read_solved(found)), "", None, False
    why = search.said if search and search.state == "failed" else ""
    so_far = read_solved(search.found) if search and search.goes_on and search.found else None
    return so_far, why, search if search and search.goes_on else None, not (search and search.goes_on)


def offered(placing: Placing, design: Design) -> list[Proposal]:
    """Return the proposals from tags, and spots that were pointed at in two photos; of a second set, what travelled."""
    solved, known = placing.solved, placing.known
    if solved is None or solved.lacking:
        return []
    if placing.which != "ride":
        assert placing.first is not None  # it holds the second set
        return travels(placing.first, solved, placing.which, known.names, design)
    found = proposals(solved, known.names, design)
    for name, sights in known.spots.items():
        with contextlib.suppress(InputError):
            found.append(spot_proposal(name, spot(sights_of(solved, sights)), design))
    return found


def sights_of(solved: Solved, sights: Mapping[int, tuple[float, float]]) -> list[Sight]:
    """Where a spot was pointed at, in photos that have their place."""
    placed: dict[str, PlacedPhoto] = {photo.name: photo for photo in solved.photos}
    return [(placed[str(number)], at) for number, at in sights.items() if str(number) in placed]
