"""How an edit beside the design travels: changed in one transaction, or the page again with what is wrong."""

from __future__ import annotations

from collections.abc import Callable

from flask import make_response, redirect, request
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, InputError
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState
from ..page.people import remembered, who_says


def office_edit(
    job_id: int,
    change: Callable[[Connection, AtHand, str], None],
    page: Callable[[AtHand, FormState, int], ResponseReturnValue],
    back: str,
) -> ResponseReturnValue:
    """Carry out one change of a job by who says so, then go `back`; refused, the page says why, with what was typed."""
    said, who = FormState(), who_says()
    try:
        with transaction() as connection:
            change(connection, at_hand(connection, job_id), who)
    except Faults as faults:
        said.errors = faults.errors
    except (EditError, InputError) as exc:
        said.errors = {getattr(exc, "field", ""): str(exc)}
    if not said.errors:
        return remembered(make_response(redirect(back, 303)), who)
    said.typed = request.form.to_dict()
    with transaction() as connection:
        return page(at_hand(connection, job_id), said, 422)
