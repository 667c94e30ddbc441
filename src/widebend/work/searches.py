"""Long searches for a way as tasks: asked for by a page, done by any worker, told of as they go, stopped when asked.

The queue is procrastinate's, in the same database: a worker that dies leaves its task with a stale heartbeat, and
another takes it up again from the start. A search is told of at each of its steps; each telling asks whether to stop.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, dataclass
from functools import partial
from typing import Any

from procrastinate import App, PsycopgConnector
from psycopg.types.json import Jsonb

from ..core.errors import EditError, WideBendError
from ..core.records import Design
from ..core.routing import OnProgress, Progress, Proposals, Wish, improve, mend, seek, together
from ..formats.proposals_json import proposals_data, read_proposals
from ..store.database import Connection, Database, queries
from ..store.files import with_meshes
from .nests import NestWish, look_longer
from .photos import PhotoWish, place_many
from .removal_path import OUT_KINDS, OutWish, take_out

Report = Callable[[str, float, dict[str, Any] | None], None]  # words, share, the best so far as data
Solve = Callable[[Design, dict[str, Any], Report], dict[str, Any]]

QUEUE, TASK = "searches", "search"
MOST_TRIES = 3  # a search that killed this many workers is given up
MOST_WAITING, MOST_OWN = 24, 4  # in line for the workers: of everybody together, of one person
KEPT_DAYS, KEPT_LAST = 30, 5  # an ended search is kept so long, and the last few of a design for good
AT_ONCE_DAYS = 2  # what was found while a page waited


class Stopped(Exception):
    """Somebody asked for the search to stop, or another worker has taken it up since."""


@dataclass(frozen=True)
class Turn:
    """Which taking up of a search this is: a worker that was taken for dead writes nothing over its successor's."""

    id: int
    tries: int


def queue_app(url: str, database: Database) -> App:
    """The queue of a database as a worker sees it."""
    app = App(connector=PsycopgConnector(conninfo=url))
    app.task(name=TASK, queue=QUEUE)(lambda search_id: do_search(database, search_id))
    return app


def read_wish(data: dict[str, Any]) -> Wish:
    """A wish from its data."""
    return Wish(**{**data, "through": tuple(data["through"]), "avoid": tuple(data["avoid"])})


def ask(
    connection: Connection,
    design_id: int,
    revision: int,
    design: Design,
    run_id: str,
    wish: Wish | OutWish | NestWish | PhotoWish,
    so_far: Proposals | None = None,
    *,
    who: str,
) -> int:
    """Write down a search, with what is known already, and put it on the queue, as one: its id.

    The same question that goes on already is joined; another of the same design takes its place. Of what stands in
    line everybody's first comes before anybody's second. Raises EditError when too many do, of all or of `who`.
    """
    asked = {"design_id": design_id, "revision": revision, "run": run_id, "wish": Jsonb(asdict(wish))}
    same = queries.same_search(connection, **asked)
    if same:
        return int(same["id"])
    if queries.searches_waiting(connection) >= MOST_WAITING:
        raise EditError(f"{MOST_WAITING} searches stand in line already: try again when some have ended")
    own = queries.searches_of(connection, who=who)
    if own["waiting"] >= MOST_OWN:
        raise EditError(f"{MOST_OWN} searches of yours stand in line already: try again when some have ended")
    row = queries.add_search(
        connection,
        **asked,
        who=who,
        design=Jsonb(design.model_dump(mode="json")),
        found=Jsonb(proposals_data(so_far)) if so_far else None,
    )
    queries.stop_other_searches(connection, design_id=design_id, id=row["id"])
    queries.queue_search(connection, id=row["id"], before=own["open"])
    return int(row["id"])


def tidy(database: Database) -> None:
    """Put back on the queue what fell off it, and let go of what ended long ago."""
    with database.transaction() as connection:
        queries.queue_lost_searches(connection)
        queries.clear_searches(connection, days=KEPT_DAYS, last=KEPT_LAST)
        queries.clear_ways_at_once(connection, days=AT_ONCE_DAYS)


def do_search(database: Database, search_id: int) -> None:
    """Do one search, to its end or until it should stop; what fails is said in words, never left hanging."""
    with database.transaction() as connection:
        row = queries.begin_search(connection, id=search_id)
        if row is None:
            queries.settle_search(connection, id=search_id)
            return
        design = Design.model_validate(row["design"])
        design = design.replace(survey=with_meshes(connection, design.survey))
    turn = Turn(search_id, row["tries"])
    end = partial(_end, database, turn)
    if row["tries"] > MOST_TRIES:
        return end("failed", "it broke off three times: ask for less of it, or simplify")
    kind = row["wish"]["kind"]
    solvers: dict[str, Solve] = {
        "nest": _nests,
        "photos": partial(_photos, database),
        **dict.fromkeys(OUT_KINDS, _sections_out),
    }
    solve = solvers.get(kind, _ways)
    try:
        found = solve(design, row, partial(_tell, database, turn))
    except Stopped:
        return end("stopped", "stopped; what was found so far is kept")
    except WideBendError as exc:
        return end("failed", str(exc))
    except Exception:
        end("failed", "the program failed on this one; the fault is in the worker's log")
        raise
    end("done", "", found)


def _ways(design: Design, row: dict[str, Any], report: Report) -> dict[str, Any]:
    """The ways that are found, with those that were known."""
    wish = read_wish(row["wish"])
    known = read_proposals(row["found"], design, row["run"]) if row["found"] and wish.kind == "find" else None

    def tell(told: Progress) -> None:
        best = together(known, told.best, wish.weigh) if told.best else None
        report(told.words, told.share, proposals_data(best) if best else None)

    return proposals_data(together(known, answer(design, row["run"], wish, tell), wish.weigh))


def _sections_out(design: Design, row: dict[str, Any], report: Report) -> dict[str, Any]:
    return take_out(design, OutWish(**row["wish"]), lambda words, share: report(words, share, None))


def _nests(_design: Design, row: dict[str, Any], report: Report) -> dict[str, Any]:
    return look_longer(row["wish"], report)


def _photos(database: Database, _design: Design, row: dict[str, Any], report: Report) -> dict[str, Any]:
    return place_many(database, row["wish"], report)


def answer(design: Design, run_id: str, wish: Wish, tell: OnProgress) -> Proposals:
    """Return the search that a wish asks for."""
    if wish.kind == "improve":
        return improve(design, run_id, wish)
    return mend(design, run_id, wish, tell) if wish.kind == "mend" else seek(design, run_id, wish, tell)


def _tell(database: Database, turn: Turn, words: str, share: float, found: dict[str, Any] | None) -> None:
    with database.transaction() as connection:
        kept = Jsonb(found) if found else None
        row = queries.tell_search(connection, **asdict(turn), said=words, share=share, found=kept)
    if row is None or row["state"] != "working":
        raise Stopped


def _end(database: Database, turn: Turn, state: str, said: str, found: dict[str, Any] | None = None) -> None:
    with database.transaction() as connection:
        queries.end_search(connection, **asdict(turn), state=state, said=said, found=Jsonb(found) if found else None)
