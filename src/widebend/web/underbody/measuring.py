"""Measuring under the vehicle: a helper for each way of holding a tape, with what it gives and where it can go."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial

from flask import Blueprint, g, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError, MissingError
from ...core.records import Survey
from ...core.units import format_length
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState, keep_design, keep_survey, run_edit
from ..page.figures import number, typing_unit
from ..page.reader import Reader
from .keeping import targets, with_answer, with_copy, with_way
from .measuring_forms import HELPERS, MOST_TAPES, Answer
from .page import page
from .tools import taken_with

room = Blueprint("measure", __name__, url_prefix="/jobs/<int:job_id>/underbody/measure")


@room.route("/<key>", methods=["GET", "POST"])
@room.route("", methods=["GET", "POST"])
def show(job_id: int, key: str = "tapes") -> ResponseReturnValue:
    """A helper, and when it was filled in, what it gives."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    return _render(here, FormState(), 200, key=key)


def _render(here: AtHand, said: FormState, code: int = 200, *, key: str) -> ResponseReturnValue:
    if key not in HELPERS:
        raise MissingError("there is no such way of measuring")
    helper, survey = HELPERS[key], here.design.survey
    typed: Mapping[str, str] = request.form if request.method == "POST" else {}
    answers: list[Answer] = []
    if request.method == "POST":
        try:
            answers = helper.work(Reader(request.form, typing_unit()), survey)
        except InputError as exc:
            said.errors = said.errors or {"": str(exc)}
        except Faults as faults:
            said.errors = faults.errors
        code = 422 if said.errors and code == 200 else code
    options = {f.key: f.options for f in helper.fields}
    options |= {f"mark{n}": ("", *(m.name for m in survey.marks)) for n in range(1, MOST_TAPES + 1)}
    panel = {
        "helper": helper,
        "helpers": list(HELPERS.values()),
        "typed": dict(typed),
        "options": options,
        "answers": answers,
        "targets": [targets(a, here) for a in answers],
        "kept_fields": _kept(typed),
    }
    return page(here, said, code, "measure", panel)


def _kept(typed: Mapping[str, str]) -> dict[str, str]:
    """Return the typed fields, to be worked out again when an answer is put somewhere."""
    return {k: v for k, v in typed.items() if k not in ("csrf_token", "rev", "tab", "to", "name", "answer")}


@room.post("/<key>/put")
def put(job_id: int, key: str) -> ResponseReturnValue:
    """Work the reading out again and put it where it was told to go."""
    said = FormState()

    def keep(connection: Connection, here: AtHand) -> None:
        helper = HELPERS.get(key)
        if helper is None:
            raise EditError("there is no such way of measuring")
        answers = helper.work(Reader(request.form, typing_unit()), here.design.survey)
        n = int(number(request.form.get("answer"), 0))
        answer = answers[min(max(n, 0), len(answers) - 1)]
        where = request.form.get("to", "")
        if where not in {t for t, _ in targets(answer, here)}:
            raise EditError("choose where it should go", "to")
        _put(connection, here, answer, where, said)

    return run_edit(job_id, said, keep, partial(_render, key=key), lambda: url_for(".show", job_id=job_id, key=key))


def _put(connection: Connection, here: AtHand, answer: Answer, where: str, said: FormState) -> None:
    kind, _, item = where.partition(":")
    tools = taken_with(request.form)
    answer = replace(answer, how=f"{tools}: {answer.how}" if tools else answer.how)
    design, survey = here.design, here.design.survey
    if kind == "run":
        keep_design(connection, here, with_copy(design, item, answer), "copied the old pipe", _design_base())
        said.note = "The old pipe is the run now: look at it on the Route step."
        return
    if kind == "way":
        keep_design(
            connection, here, with_way(design, item, answer), f"direction by {tools or 'measuring'}", _design_base()
        )
        said.note = "The direction is set: it shows on the Layout step."
        return
    changed, name = with_answer(survey, kind, item, answer)
    keep_survey(
        connection,
        here,
        Survey.model_validate(changed.model_dump()),
        f"measured {name}" + (f" ({tools})" if tools else ""),
    )
    said.note = f"Put: {name}, ± {format_length(answer.plus_minus_mm, g.unit)}, {answer.how}."


def _design_base() -> int:
    """The revision of the design that the page was made on: the page's own is the survey's."""
    return int(number(request.form.get("design_rev"), 0))
