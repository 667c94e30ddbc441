"""Ways found for a page: at once and kept by the text of the design, or by a worker and kept in the database."""

from __future__ import annotations

import hashlib
import json
import time
from dataclasses import asdict
from typing import Any

from flask import current_app, request

from ...core.errors import EditError, MissingError
from ...core.records import Design, Run
from ...core.routing import WEIGHED_BY, WEIGHS, Progress, Proposals, Wish, parts_of
from ...formats.design_json import write_design
from ...formats.proposals_json import proposals_data, read_proposals
from ...store.database import Connection
from ...store.searches import Search, keep_ways_at_once, search, ways_at_once
from ...work.removal_path import OUT_KINDS
from ...work.searches import answer, read_wish
from ..page.at_hand import AtHand, solved, transaction
from ..page.edits import FormState
from ..page.figures import number
from ..page.made_by import made_by
from .wishes_form import as_query, wish_from

PATIENCE_S = 2.0  # once there is a way to show
LONGEST_S = 3.5  # when there is none yet: a worker goes on, while the page says how far it is
KINDS = {"find": "ways found", "improve": "made better, the same way", "mend": "mended, the rest as it is"}


class TooLong(EditError):
    """Nothing was found in so long a time that nobody waits for it."""


def quick(design: Design, run_id: str, wish: Wish) -> Proposals:
    """Ways found within a page's time: showing another ghost or taking one does not solve again, whichever process does
    it. Raises TooLong, or EditError where nothing can be found.
    """

    def look() -> Proposals:
        known = known_at_once(design, run_id, wish)
        if known is None:
            known = _within_patience(design, run_id, wish)
            with transaction() as connection:
                keep_ways_at_once(connection, _asked(design, run_id, wish), proposals_data(known))
        return known

    return solved(design, ("found", run_id, wish), look)


def known_at_once(design: Design, run_id: str, wish: Wish) -> Proposals | None:
    """Return ways found before; start no search."""
    with transaction() as connection:
        found = ways_at_once(connection, _asked(design, run_id, wish))
    return read_proposals(found, design, run_id) if found else None


def _asked(design: Design, run_id: str, wish: Wish) -> bytes:
    """The digest of a question, and of the program that answers it."""
    question = json.dumps([made_by(), run_id, asdict(wish)], sort_keys=True)
    return hashlib.sha256(write_design(design) + question.encode()).digest()


class _Enough(Exception):
    """There is something to show, and the page has waited long enough."""


def _within_patience(design: Design, run_id: str, wish: Wish) -> Proposals:
    """Return ways found within a page's time: once there is a way, other sides are looked for only so long; a worker
    looks for the rest. Raises TooLong.
    """
    begun, best = time.monotonic(), None

    def tell(told: Progress) -> None:
        nonlocal best
        best = told.best or best
        waited = 0.0 if current_app.testing else time.monotonic() - begun
        if best and waited > PATIENCE_S:
            raise _Enough
        if not best and waited > LONGEST_S:
            raise TooLong(f"nothing found in {LONGEST_S:g} seconds: look longer, or begin from a piece further ahead")

    try:
        return answer(design, run_id, wish, tell)
    except _Enough:
        assert best is not None  # it was seen before that was raised
        return best


def of_search(kept: Search, design: Design) -> Proposals | None:
    """Return the ways that a search has found so far."""
    return read_proposals(kept.found, design, kept.run) if kept.found else None


def way_search(connection: Connection, here: AtHand, search_id: int) -> Search:
    """A search for ways of this job. Raises MissingError for one of another job, or for other long work."""
    kept = search(connection, search_id)
    if kept.design_id != here.job.design_id or kept.wish.get("kind") in OUT_KINDS:
        raise MissingError("That search is of another job")
    return kept


def ways_before(connection: Connection, here: AtHand, run: Run) -> Proposals | None:
    """The ways that a form is about; None when it is about closing."""
    if request.form.get("search"):
        kept = way_search(connection, here, int(number(request.form["search"], 0)))
        return of_search(kept, here.design) if kept.revision == here.number else None
    if request.form.get("about") == "ways":
        return quick(here.design, run.id, wish_from(request.form, run))
    return None


def show_search(said: FormState, kept: Search, design: Design) -> None:
    """Put a search into what the page says."""
    said.search, said.wish = kept, read_wish(kept.wish)
    said.proposals = of_search(kept, design)


def asked_words(said: FormState, run: Run, design: Design) -> dict[str, Any]:
    """The wish in words and links, for the page: what is wished, what could be, in what order."""
    wish = said.wish or Wish()
    there = set(wish.through)
    survey = design.survey
    places = [(w.id, w.name) for w in survey.windows] + [(m.id, m.name) for m in survey.marks]
    return {
        "kind": wish.kind,
        "title": KINDS[wish.kind],
        "query": as_query(said.keep, wish),
        "weighs": [(words, key == wish.weigh, as_query(said.keep, wish, weigh=key)) for key, words in WEIGHS.items()],
        "weigh": WEIGHS[wish.weigh],
        "weighed_by": WEIGHED_BY[wish.weigh],
        "wished": [(words, as_query(said.keep, less)) for words, less in parts_of(wish, survey)],
        "choosing": bool(wish.through or wish.until),
        "places": [
            (name, as_query(said.keep, wish, through=",".join((*wish.through, key))))
            for key, name in places
            if key not in there
        ],
        "until": [
            (i + 1, as_query(said.keep, wish, until=p.id))
            for i, p in enumerate(run.pieces)
            if i > (wish.keep or 0) and wish.keep is not None
        ],
        "avoid": {
            f"{s.side}:{s.thing}": as_query(said.keep, wish, avoid=",".join((*wish.avoid, f"{s.side}:{s.thing}")))
            for p in (said.proposals.found if said.proposals else ())
            for s in p.sides
        },
        "fields": [
            (k, v)
            for k, v in (
                ("keep", said.keep),
                ("until", wish.until),
                ("through", ",".join(wish.through)),
                ("avoid", ",".join(wish.avoid)),
                ("weigh", wish.weigh),
                ("kind", wish.kind),
            )
        ],
    }
