"""Long searches for a way as tasks: asked for by a page, done by any worker, told of as they go, stopped when asked.

The queue is procrastinate's, in the same database: a worker that dies leaves its task with a stale heartbeat, and
another takes it up again from the start. A search is told of at each of its steps; each telling asks whether to stop.
"""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Any

from procrastinate import App, PsycopgConnector, SyncPsycopgConnector
from psycopg.types.json import Jsonb

from ..core.errors import WideBendError
from ..core.proposals import Proposals
from ..core.records import Design
from ..core.rerouting import improve, mend
from ..core.wayfinding import Tell, Told, seek, together
from ..core.wishes import Wish
from ..formats.proposals_json import proposals_data, read_proposals
from ..store.database import Connection, Database, queries
from ..store.files import with_meshes

QUEUE, TASK = "searches", "search"
MOST_TRIES = 3  # a search that killed so many workers is given up


class Stopped(Exception):
    """Somebody asked for the search to stop."""


def queue_app(url: str, *, for_worker: bool = False) -> App:
    """The queue of a database: for a worker, or for a page that only puts tasks on it."""
    connector = PsycopgConnector(conninfo=url) if for_worker else SyncPsycopgConnector(conninfo=url)
    app = App(connector=connector)
    if for_worker:
        database = Database(url, most=2)
        database.open()
        app.task(name=TASK, queue=QUEUE)(lambda search_id: do_search(database, search_id))
    return app


def wish_data(wish: Wish) -> dict[str, Any]:
    """A wish as JSON data."""
    return asdict(wish)


def read_wish(data: dict[str, Any]) -> Wish:
    """A wish from its data."""
    return Wish(**{**data, "through": tuple(data["through"]), "avoid": tuple(data["avoid"])})


def ask(
    connection: Connection, design_id: int, revision: int, design: Design, run_id: str, wish: Wish,
    so_far: Proposals | None = None,
) -> int:  # fmt: skip
    """Write down a search, with what is known already; it is put on the queue by `put` when this is committed."""
    row = queries.add_search(connection, design_id=design_id, revision=revision, run=run_id,
                             wish=Jsonb(wish_data(wish)), design=Jsonb(design.model_dump(mode="json")),
                             found=Jsonb(proposals_data(so_far)) if so_far else None)  # fmt: skip
    return int(row["id"])


def put(url: str, search_id: int) -> None:
    """Put a search on the queue."""
    app = queue_app(url)
    with app.open():
        app.configure_task(TASK, queue=QUEUE).defer(search_id=search_id)


def do_search(database: Database, search_id: int) -> None:
    """Do one search, to its end or until it should stop; what fails is said in words, never left hanging."""
    with database.transaction() as connection:
        row = queries.begin_search(connection, id=search_id)
        if row is None:
            queries.settle_search(connection, id=search_id)
            return
        design = Design.model_validate(row["design"])
        design = design.model_copy(update={"survey": with_meshes(connection, design.survey)})
    wish = read_wish(row["wish"])
    known = read_proposals(row["found"], design, row["run"]) if row["found"] and wish.kind == "find" else None
    if row["tries"] > MOST_TRIES:
        return _end(database, search_id, "failed", "it broke off three times: find a way from further on, or simplify")

    def tell(told: Told) -> None:
        best = together(known, told.best, wish.weigh) if told.best else None
        _tell(database, search_id, replace(told, best=best))

    try:
        found = answer(design, row["run"], wish, tell)
    except Stopped:
        return _end(database, search_id, "stopped", "stopped; what was found so far is kept")
    except WideBendError as exc:
        return _end(database, search_id, "failed", str(exc))
    except Exception:
        _end(database, search_id, "failed", "the program failed on this one; the fault is in the worker's log")
        raise
    _end(database, search_id, "done", "", together(known, found, wish.weigh))


def answer(design: Design, run_id: str, wish: Wish, tell: Tell) -> Proposals:
    """What a wish asks for."""
    if wish.kind == "improve":
        return improve(design, run_id, wish)
    return mend(design, run_id, wish, tell) if wish.kind == "mend" else seek(design, run_id, wish, tell)


def _tell(database: Database, search_id: int, told: Told) -> None:
    found = Jsonb(proposals_data(told.best)) if told.best else None
    with database.transaction() as connection:
        row = queries.tell_search(connection, id=search_id, said=told.words, share=told.share, found=found)
    if row is None or row["state"] != "working":
        raise Stopped


def _end(database: Database, search_id: int, state: str, said: str, found: Proposals | None = None) -> None:
    with database.transaction() as connection:
        queries.end_search(connection, id=search_id, state=state, said=said,
                           found=Jsonb(proposals_data(found)) if found else None)  # fmt: skip
