"""How an edit of a survey or a design travels: parse, change, review, keep as a revision; or refuse with both shown."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from flask import g, redirect, request
from flask.typing import ResponseReturnValue
from pydantic import ValidationError

from ...core.errors import EditError, InputError, MissingError
from ...core.records import Design, Survey
from ...core.routing import Proposals, Wish
from ...formats.design_json import first_fault
from ...store import jobs, revisions
from ...store.database import Connection
from ...store.searches import Search
from .at_hand import AtHand, at_hand, keep_edited, stored, transaction
from .figures import is_htmx, number
from .people import who_is_here


@dataclass(frozen=True)
class Refused:
    """An edit that could not be kept: what was wanted, and what came first."""

    yours: str
    base: int
    later: list[revisions.Later]


@dataclass
class FormState:
    """A page's messages beside the record: errors at their field, what was typed, who came first."""

    errors: dict[str, str] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    note: str = ""
    refused: Refused | None = None
    piece: str | None = None
    proposals: Proposals | None = None
    ghost: int = 0
    keep: str = ""
    wish: Wish | None = None
    search: Search | None = None
    goes_on: bool = False  # the page has a worker look further as soon as it is there


class Unchanged(Exception):
    """Raised where an entry changes nothing: there is no edit and nothing to say."""


class Faults(Exception):
    """Several fields of one form are wrong, each with its own words."""

    def __init__(self, errors: dict[str, str]) -> None:
        super().__init__("; ".join(errors.values()))
        self.errors = errors


def run_edit(
    job_id: int,
    said: FormState,
    change: Callable[[Connection, AtHand], None],
    render: Callable[[AtHand, FormState, int], ResponseReturnValue],
    back: Callable[[], str],
) -> ResponseReturnValue:
    """Carry out one edit: `change` alters and keeps it, or raises; then the page again, with what there is to say."""
    code = 200
    try:
        with transaction() as connection:
            # held before it is read: an edit is made on what the last one left, also when two come at once
            change(connection, at_hand(connection, job_id, hold=True))
    except Unchanged:
        pass
    except revisions.StaleEdit as stale:
        said.refused, code = Refused(words_of(request.form), stale.base, stale.later), 409
    except Faults as faults:
        said.errors, code = faults.errors, 422
    except ValidationError as exc:
        said.errors, code = {"": first_fault(exc)[1]}, 422
    except (InputError, EditError) as exc:
        said.errors, code = {getattr(exc, "field", "") or request.form.get("field", ""): str(exc)}, 422
    if code != 200:
        said.note = ""
        said.typed = {k: v for k, v in request.form.items() if k != "csrf_token"}
    elif not is_htmx():
        return redirect(back(), 303)
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return render(here, said, code)


def base_revision() -> int:
    """The revision an edit says it was made on."""
    return int(number(request.form.get("rev"), 0))


def keep_design(connection: Connection, here: AtHand, design: Design, why: str, base: int | None = None) -> None:
    """Append a design, made on `base` where that is not the page's own revision. Raises revisions.StaleEdit."""
    made_on = base_revision() if base is None else base
    design = design.validated()
    appended = revisions.append(
        connection, here.job.design_id, made_on, stored(design), why, g.tab, here.survey_revision.number, who_is_here()
    )
    keep_edited(here, design, appended)


def keep_survey(connection: Connection, here: AtHand, survey: Survey, why: str) -> None:
    """Append a survey. Raises revisions.StaleEdit."""
    revisions.append(
        connection, here.job.survey_id, base_revision(), jobs.dump(survey), why, g.tab, author=who_is_here()
    )


def step_history(connection: Connection, document_id: int, which: str) -> str:
    """Undo or redo; what to say when there is nothing."""
    move: Callable[..., revisions.Revision] = revisions.undo if which == "undo" else revisions.redo
    try:
        move(connection, document_id, base_revision(), g.tab, who_is_here())
    except MissingError as exc:
        return f"There is {exc}."
    return ""


# what a form carries besides what a person enters
STATE_FIELDS = {
    "csrf_token",
    "rev",
    "tab",
    "from_mm",
    "to_mm",
    "run",
    "piece",
    "then",
    "cursor",
    "sight",
    "view",
    "field",
    "shown",
    "handle",
    "thing",
    "part",
    "id",
    "put",
    "take",
    "dx",
    "dy",
}
FIELD_WORDS = {
    "length_mm": "the length",
    "angle_deg": "the turn",
    "roll_deg": "the clock",
    "clr_mm": "the radius",
    "od": "diameter",
    "x": "back",
    "y": "right",
    "z": "up",
    "kind": "a new",
    "which": "",
    "locked": "locked:",
}


def words_of(form: Any) -> str:
    """Return the entries in words, for showing beside what came first."""
    said = [
        f"{FIELD_WORDS.get(key, key.replace('_', ' '))} {value}".strip()
        for key, value in form.items()
        if key not in STATE_FIELDS | {"value", "step"} and value
    ]
    name = FIELD_WORDS.get(form.get("field", ""), "")
    if form.get("step"):
        said.append(f"{name} by {form['step']} steps")
    elif form.get("value") and name:
        said.append(f"{name} to {form['value']}")
    return ", ".join(said)[:300] or "something"
