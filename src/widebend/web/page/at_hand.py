"""The job at hand: its newest revisions, the shop's rules put in, its review; and what was worked out, kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import cached_property
from threading import Lock
from typing import Any, TypeVar

from flask import current_app, g

from ...core.cutting import BendPlan
from ...core.laying import System, View, system_of
from ...core.nesting import plan_from_kept
from ...core.records import Design, Rules, Settings, Survey
from ...core.review import Review, review
from ...formats.design_json import design_from, survey_from, write_design
from ...store import job_stock, jobs, people
from ...store.database import Connection, Database
from ...store.files import with_meshes
from ...store.revisions import Revision, content_of, newest_of_each
from .progress import Step, steps

T = TypeVar("T")


def database() -> Database:
    found: Database = current_app.extensions["database"]
    return found


@contextmanager
def transaction() -> Iterator[Connection]:
    """A connection for one request's work. Asked for within itself it is the same one, in a savepoint: a request that
    took a second connection while others wait for their first would hold up everybody.
    """
    held: Connection | None = g.get("connection")
    if held is not None:
        with held.transaction():
            yield held
        return
    with database().transaction() as connection:
        g.connection = connection
        try:
            yield connection
            _note_change(connection)
        except BaseException:
            g.to_note = None  # it is undone: refused, or failed
            raise
        finally:
            g.connection = None


def _note_change(connection: Connection) -> None:
    """Keep who changed what in the same transaction as the change: both are kept or neither."""
    to_note: people.Note | None = g.get("to_note")
    if to_note is not None and people.note_if_changed(connection, to_note):
        g.to_note = None


@dataclass(frozen=True)
class Opened:
    """A design among what is under the vehicle, by the shop's rules; as it lies, and its review, once that is asked
    for: most edits change a design without asking what was wrong with it.
    """

    design: Design
    lay: Callable[[], System]
    look: Callable[[], Review]

    @cached_property
    def system(self) -> System:
        return self.lay()

    @cached_property
    def found(self) -> Review:
        return self.look()


@dataclass(frozen=True)
class AtHand:
    """A job with its newest design, opened."""

    job: jobs.Job
    opened: Opened
    design_revision: Revision
    survey_revision: Revision
    bends: BendPlan = field(default_factory=dict)  # where they come from, once they were taken from the shelf

    @property
    def design(self) -> Design:
        return self.opened.design

    @property
    def system(self) -> System:
        return self.opened.system

    @property
    def found(self) -> Review:
        return self.opened.found

    @property
    def line(self) -> list[Step]:
        """How far the job is, step by step."""
        return steps(self.job, self.design, self.found, self.bends)

    @property
    def number(self) -> int:
        return self.design_revision.number


def at_hand(connection: Connection, job_id: int, *, hold: bool = False) -> AtHand:
    """Load a job for a room; held, nobody else appends to its survey or design until this transaction ends. Raises
    LookupError.
    """
    job = jobs.get(connection, job_id)
    if hold:
        jobs.hold(connection, job)
    design_revision, survey_revision = newest_of_each(connection, job.design_id, job.survey_id)
    found = opened(connection, design_revision, survey_revision, job.title, job.road_use)
    was = job_stock.taken(connection, job_id)
    return AtHand(job, found, design_revision, survey_revision, plan_from_kept(was.nest) if was else {})


def opened(
    connection: Connection, design: Revision, survey: Revision, title: str, use: str, view: View | None = None
) -> Opened:
    """A revision of a design with one of its survey and the shop's rules; unasked, as this device looks at it. What is
    worked out for it is kept.
    """
    if "rules" not in g:
        g.rules = jobs.rules(connection)
    book, seen = g.rules, view or g.sight.view
    kept, surveys = in_memory("kept"), in_memory("surveys")
    key = _design_key(design, survey, book, title, use)

    def content(revision: Revision) -> dict[str, Any]:
        return content_of(connection, revision.document_id, revision.number)

    def put_together() -> Design:
        record = surveys.get(_named(survey), lambda: with_meshes(connection, survey_from(content(survey))))
        return _in_the_shop(design_from(content(design)), record, book, title, use)

    together: Design = kept.get(key, put_together)

    def lay() -> System:
        return kept.get((*key, "laid"), lambda: system_of(together))

    return Opened(together, lay, lambda: kept.get((*key, seen), lambda: review(together, seen, lay())))


def keep_edited(here: AtHand, design: Design, revision: Revision) -> None:
    """Keep a design that was just appended as `revision` of the job at hand: it is shown next, and need not be read."""
    was, job = here.design, here.job
    whole = _in_the_shop(design, was.survey, was.settings.rules, was.name, was.settings.use)
    key = _design_key(revision, here.survey_revision, was.settings.rules, job.title, job.road_use)
    in_memory("kept").get(key, lambda: whole)


def _design_key(design: Revision, survey: Revision, book: Rules, title: str, use: str) -> tuple[Any, ...]:
    return _named(design), _named(survey), book.model_dump_json(), title, use


def in_memory(what: str) -> LruCache:
    """Return one of this process's caches: "kept" by revision, "surveys", or "solved" by the text of a design."""
    found: LruCache = current_app.extensions[what]
    return found


def _named(revision: Revision) -> tuple[int, int, float]:
    """Return the key of a revision: it never changes, and a filled-in shop starts with new times."""
    return revision.document_id, revision.number, revision.made_at.timestamp()


class LruCache:
    """The last few things that were worked out from what never changes, by its name: most edits need the one before."""

    def __init__(self, most: int = 72) -> None:
        self.most = most
        self._held: OrderedDict[Any, Any] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Any, make: Callable[[], T]) -> T:
        """Return the entry under a key, made now where there is none."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                return self._held[key]  # type: ignore[no-any-return]
        made = make()
        with self._lock:
            self._held[key] = made
            while len(self._held) > self.most:
                self._held.popitem(last=False)
        return made


def solved(design: Design, what: tuple[Any, ...], work: Callable[[], T]) -> T:
    """Return an answer worked out for a design, cached by the design's text: to show or take it again does not solve
    again.
    """
    return in_memory("solved").get((write_design(design), *what), work)


def _in_the_shop(design: Design, survey: Survey, rules: Rules, name: str, use: str) -> Design:
    """A design with its survey, the shop's rule book, and the use the intake says."""
    settings = design.settings.replace(rules=rules, use=use)
    return design.replace(survey=survey, settings=settings, name=name)


def stored(design: Design) -> dict[str, Any]:
    """A design as kept: its survey has revisions of its own, its rules are the shop's."""
    settings = design.settings.replace(rules=Settings().rules)
    return jobs.dump(design.replace(survey=Survey(), settings=settings))
