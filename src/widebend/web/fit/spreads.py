"""The shop's own spreads on the Fit step: what its fit logs found beside what is used, and taking them."""

from __future__ import annotations

from functools import partial
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.fitting import ENOUGH, OwnSpread, as_built, learned_spreads
from ...core.records import Rules
from ...core.units import Length, format_length
from ...store import jobs
from ...store.database import Connection
from ..page.at_hand import AtHand, at_hand, solved, transaction

room = Blueprint("fit_spreads", __name__, url_prefix="/jobs/<int:job_id>/fit/spreads")

MOST_JOBS = 40
# by operation: what it is in words, the rule it is kept as, whether it is a length
KEPT: dict[str, tuple[str, str, bool]] = {
    "cut": ("a cut's length", "cut_spread_mm", True),
    "bend": ("a stock bend's angle", "bend_spread_deg", False),
    "clock": ("a clock round the tube", "clock_spread_mm", True),
    "joint": ("how a joint stands each way", "tack_spread_deg", False),
}


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here, own, of = _found(connection, job_id)
        book = jobs.rules(connection)
    rows = [_row(one, book) for one in own]
    return render_template("fit/spreads.html", here=here, step="fit", rows=rows, of=of, enough=ENOUGH)


def _row(one: OwnSpread, book: Rules) -> dict[str, Any]:
    words, rule, is_length = KEPT[one.operation]
    now = float(getattr(book, rule))
    said = [format_length(v, g.unit, 2) if is_length else f"{v:.2f}°" for v in (now, one.deviation)]
    return {"words": words, "now": said[0], "own": said[1], "count": one.count, "enough": one.enough}


def _found(connection: Connection, job_id: int) -> tuple[AtHand, list[OwnSpread], int]:
    """Return the spreads found in all fit logs, and the number of jobs."""
    here, built = at_hand(connection, job_id), []
    known = jobs.with_something_fitted(connection, MOST_JOBS)
    for one in known:
        design = at_hand(connection, one).design
        for run in {f.run for f in design.fitted}:
            now = solved(design, ("as built", run), partial(as_built, design, run))
            if now is not None:
                built.append(now)
    return here, learned_spreads(built), len(known)


@room.post("")
def take(job_id: int) -> ResponseReturnValue:
    """From now on the shop uses its own, where enough was found."""
    with transaction() as connection:
        _, own, _ = _found(connection, job_id)
        book, name = jobs.rules(connection), jobs.shop_name(connection)
        update: dict[str, Any] = {}
        for one in own:
            _, rule, is_length = KEPT[one.operation]
            if one.enough and request.form.get(one.operation, "yes") == "yes":
                value = max(round(one.deviation, 3), 0.01)
                update[rule] = Length(value) if is_length else min(5.0, value)
        if update:
            jobs.set_shop(connection, name, Rules.model_validate({**book.model_dump(), **update}))
    return redirect(url_for("fit_spreads.show", job_id=job_id), 303)
