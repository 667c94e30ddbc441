"""What every room needs: the job at hand, how to show a figure, the window on the strips."""

from __future__ import annotations

import math
import re
import secrets
from collections import OrderedDict
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any, TypeVar

from flask import Flask, current_app, g, request

from ..core.laying import VIEWS, System, View
from ..core.records import Design, Rules, Settings, Survey
from ..core.review import Review, review
from ..core.survey import bounds
from ..core.units import format_angle, format_clock, format_length
from ..formats.design_json import design_from, survey_from, write_design
from ..store import jobs
from ..store.database import Connection, Database, queries
from ..store.files import with_meshes
from ..store.revisions import Revision, newest

T = TypeVar("T")

UNITS = {"mm": "mm", "in": "inches", "in16": "inches, fractions"}
LEAST_WINDOW_MM = 150.0


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
        finally:
            g.connection = None


def unit_of(text: str | None) -> str:
    return text if text in UNITS else "mm"


def typing_unit() -> str:
    """What a bare number means in a field: mm, or inches when the person sees inches."""
    return "mm" if g.unit == "mm" else "in"


def page_tab(text: str | None) -> str:
    """The token of an open page: bursts of edits from one page are not conflicts."""
    return text if text and re.fullmatch(r"[0-9a-f]{16}", text) else secrets.token_hex(8)


def is_htmx() -> bool:
    return request.headers.get("HX-Request") == "true"


def install_filters(app: Flask) -> None:
    """Figures in templates, always by the person's own unit."""
    app.jinja_env.filters["mm"] = lambda v, digits=1: format_length(v, g.unit, digits)
    app.jinja_env.filters["mm_bare"] = lambda v, digits=1: format_length(v, g.unit, digits, suffix=False)
    app.jinja_env.filters["deg"] = format_angle
    app.jinja_env.filters["clock"] = format_clock
    app.jinja_env.globals["units"] = UNITS
    app.jinja_env.globals["unit_name"] = lambda: "mm" if g.unit == "mm" else "in"


# --- the job at hand --------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class AtHand:
    """A job with its newest design, the survey and the shop's rules put in, and its review."""

    job: jobs.Job
    design: Design
    design_revision: Revision
    survey_revision: Revision
    found: Review

    @property
    def number(self) -> int:
        return self.design_revision.number


def at_hand(connection: Connection, job_id: int, *, hold: bool = False) -> AtHand:
    """Load a job for a room; held, nobody else appends to its survey or design until this transaction ends. Raises
    LookupError.
    """
    job = jobs.get(connection, job_id)
    if hold:
        for document in (job.survey_id, job.design_id):  # always in this order: two who hold both never wait in a ring
            queries.lock_document(connection, document_id=document)
    design_revision, survey_revision = newest(connection, job.design_id), newest(connection, job.survey_id)
    design, found = checked(connection, design_revision, survey_revision, job.title, job.road_use)
    return AtHand(job, design, design_revision, survey_revision, found)


def checked(
    connection: Connection, design: Revision, survey: Revision, title: str, use: str, view: View | None = None
) -> tuple[Design, Review]:
    """A revision of a design with one of its survey and the shop's rules, and its review; unasked, as this device looks
    at it.
    """
    book, seen = jobs.rules(connection), view or g.sight.view
    key = (_named(design), _named(survey), book.model_dump_json(), seen, title, use)
    kept: Kept = current_app.extensions["kept"]
    found: tuple[Design, Review] = kept.get(key, lambda: _checked(connection, design, survey, book, title, use, seen))
    return found


def _named(revision: Revision) -> tuple[int, int, float]:
    """What a revision is known by: it never changes, and a filled-in shop starts with new times."""
    return revision.document_id, revision.number, revision.made_at.timestamp()


def _checked(
    connection: Connection, design: Revision, survey: Revision, book: Rules, title: str, use: str, view: View
) -> tuple[Design, Review]:
    kept: Kept = current_app.extensions["kept"]
    record = kept.get(_named(survey), lambda: with_meshes(connection, survey_from(survey.content)))
    whole = _put_together(design.content, record, book, title, use)
    return whole, review(whole, view)


class Kept:
    """The last few things that were worked out from what never changes, by its name: most edits need the one before."""

    def __init__(self, most: int = 48) -> None:
        self.most = most
        self._held: OrderedDict[Any, Any] = OrderedDict()
        self._lock = Lock()

    def get(self, key: Any, make: Callable[[], T]) -> T:
        """What is kept under a key, or made now and kept."""
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
    """What was worked out for a design, kept by the design's text: to show or take it again does not solve again."""
    kept: Kept = current_app.extensions["solved"]
    return kept.get((write_design(design), *what), work)


def _put_together(content: dict[str, Any], survey: Survey, rules: Rules, name: str, use: str) -> Design:
    """A stored design with its survey, the shop's rule book, and the use the intake says."""
    design = design_from(content)
    settings = design.settings.model_copy(update={"rules": rules, "use": use})
    return design.model_copy(update={"survey": survey, "settings": settings, "name": name})


def stored(design: Design) -> dict[str, Any]:
    """A design as kept: its survey has revisions of its own, its rules are the shop's."""
    settings = design.settings.model_copy(update={"rules": Settings().rules})
    return jobs.dump(design.model_copy(update={"survey": Survey(), "settings": settings}))


# --- what is shown of the things ------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Sight:
    """What of the things is drawn, and which states are reckoned with. Hidden: natures, or "moving"."""

    near: bool = False
    hide: tuple[str, ...] = ()
    view: View = "coming"


EVERYTHING = Sight()
HIDEABLE = ("hard", "heat-shy", "soft", "moving")


def sight_from(cookies: Mapping[str, str]) -> Sight:
    """What this device was last told to show."""
    hide = tuple(kind for kind in HIDEABLE if kind in cookies.get("hide", "").split("."))
    view: View = cookies.get("view", "coming")  # type: ignore[assignment]
    return Sight(cookies.get("show") == "near", hide, view if view in VIEWS else "coming")


# --- the window on the strips ---------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Window:
    """What part of the vehicle the strips show, and how wide they are drawn. Lengths mm, width in pixels."""

    low: float
    high: float
    width_px: int = 1240
    turned: bool = False
    unit: str = "mm"

    @classmethod
    def default(cls, system: System, survey: Survey | None = None) -> Window:
        """Everything of the system, or of the survey while there is none."""
        xs = [float(p.point[0]) for run in system.runs for piece in run.pieces for p in (piece.inlet, piece.outlet)]
        xs += [float(run.start.point[0]) for run in system.runs]
        xs += [float(run.aim.point[0]) for run in system.runs if run.aim]
        for body in system.bodies:
            xs += [float(body.segment[3]), float(body.segment[3] + body.segment[6] * body.segment[1])]
        if len(xs) < 2 or max(xs) - min(xs) < 300:
            xs += [x for thing in (survey.things if survey else ()) for x in _extent(thing.shape)] or [800.0, 4400.0]
        pad = max(120.0, 0.04 * (max(xs) - min(xs)))
        return cls(min(xs) - pad, max(xs) + pad)

    @property
    def span(self) -> float:
        return self.high - self.low

    def zoomed(self, factor: float, about: float | None = None) -> Window:
        middle = (self.low + self.high) / 2 if about is None else min(max(about, self.low), self.high)
        span = min(max(self.span * factor, LEAST_WINDOW_MM), 12_000.0)
        share = (middle - self.low) / self.span
        low = middle - share * span
        return replace(self, low=low, high=low + span)

    def moved(self, share: float) -> Window:
        return replace(self, low=self.low + share * self.span, high=self.high + share * self.span)


def _extent(shape: Any) -> list[float]:
    """How far along the vehicle a bounded shape reaches."""
    around = bounds(shape)
    return [float(around[0][0]), float(around[1][0])] if around else []


def window_from_request(found: Review, survey: Survey, width_cookie: str = "w") -> Window:
    """The window a request asks for: its bounds, then a zoom or a move, or fit. Nonsense falls back to fit.

    `width_cookie` names how wide this room's strips are on the device: "w", or "w-beside" with the slice beside them.
    """
    fit = Window.default(found.system, survey)
    width = int(
        min(max(number(request.cookies.get(width_cookie), 1240.0 if width_cookie == "w" else 925.0), 320.0), 3000.0)
    )
    low, high = number(request.values.get("from_mm"), math.nan), number(request.values.get("to_mm"), math.nan)
    window = replace(fit, width_px=width, turned=bool(g.lie), unit=g.unit)
    if math.isfinite(low) and math.isfinite(high) and LEAST_WINDOW_MM <= high - low <= 12_000:
        window = replace(window, low=low, high=high)
    sight = request.values.get("sight", "")
    cursor = number(request.values.get("cursor"), (window.low + window.high) / 2)
    moves = {
        "closer": lambda: window.zoomed(0.6, cursor),
        "wider": lambda: window.zoomed(1 / 0.6, cursor),
        "forward": lambda: window.moved(-0.3),
        "rearward": lambda: window.moved(0.3),
        "fit": lambda: replace(fit, width_px=width, turned=bool(g.lie), unit=g.unit),
    }
    if sight.startswith("at:"):
        here = number(sight[3:], cursor)
        span = min(window.span, 900.0)
        return replace(window, low=here - span / 2, high=here + span / 2)
    return moves[sight]() if sight in moves else window


def number(text: str | None, otherwise: float) -> float:
    """A plain number from a request's own state, not from a person: nonsense gives `otherwise`."""
    try:
        value = float(text or "")
    except ValueError:
        return otherwise
    return value if math.isfinite(value) and abs(value) < 1e6 else otherwise
