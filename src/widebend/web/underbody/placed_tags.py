"""A job's photos of tags placed all at once, kept by what went in; and what they become."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping

from flask import current_app

from ...core.errors import InputError
from ...core.photos import Asked, Known, Proposal, Sight, Solved, Taped, proposals, solve, spot, spot_proposal
from ...store.tag_photos import KeptPhoto, TagKnown
from ..page.at_hand import Kept

AT_ONCE = 60  # photos that a page waits for


def solved_of(photos: list[KeptPhoto], known: TagKnown) -> tuple[Solved | None, str]:
    """All photos placed at once, kept by what went in; why not, where they cannot be."""
    kept: Kept = current_app.extensions["solved"]
    asked = Asked(
        known.bar_mm or None,
        tuple(Taped(a, b, mm) for a, b, mm in known.tapes),
        Known(known.places, known.rail_heights_mm, known.on_wheels),
    )
    key = ("tags", tuple(one.id for one in photos), repr(asked))
    try:
        return kept.get(key, lambda: solve([one.photo for one in photos[:AT_ONCE]], asked)), ""
    except InputError as exc:
        return None, str(exc)


def offered(solved: Solved, known: TagKnown) -> list[Proposal]:
    """What tags become, and spots that were pointed at in two photos."""
    found = proposals(solved, known.names)
    for name, sights in known.spots.items() if not solved.lacking else ():
        with contextlib.suppress(InputError):
            found.append(spot_proposal(name, spot(sights_of(solved, sights))))
    return found


def sights_of(solved: Solved, sights: Mapping[int, tuple[float, float]]) -> list[Sight]:
    """Where a spot was pointed at, in photos that have their place."""
    placed = {photo.name: photo for photo in solved.photos}
    return [(placed[str(number)], at) for number, at in sights.items() if str(number) in placed]
