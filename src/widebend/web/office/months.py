"""The months: hours planned against taken by kind of step, what was earned an hour, mistakes; drawn."""

from __future__ import annotations

from datetime import date
from typing import Any

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from ...core.quoting import STEPS
from ...store import handovers, quotes
from ...store.handovers import Month
from ..page.at_hand import transaction

room = Blueprint("months", __name__, url_prefix="/months")


@room.get("")
def show() -> ResponseReturnValue:
    with transaction() as connection:
        found, pricing = handovers.months(connection), quotes.pricing(connection)
    looked_at = next((m for m in found if m.name == request.args.get("month")), found[0] if found else None)
    rows = [_row(m) for m in found]
    return render_template(
        "office/months.html",
        rows=rows,
        month=looked_at,
        currency=pricing.currency,
        hour=pricing.hour,
        most_h=max([1.0, *(max(r["planned"], r["took"]) for r in rows)]),
        most_money=max([1, *(m.net for m in found)]),
        steps=_steps(looked_at) if looked_at else [],
    )


def _row(month: Month) -> dict[str, Any]:
    planned, took = (sum(pair[k] for pair in month.steps.values()) / 60.0 for k in (0, 1))
    return {"of": month, "words": f"{date.fromisoformat(month.name + '-01'):%b %Y}", "planned": planned, "took": took}


def _steps(month: Month) -> list[dict[str, Any]]:
    """The steps of the jobs that ended in a month, in the order of work, with how wide their bars are."""
    pairs = {step: month.steps[step] for step in STEPS if step in month.steps}
    most = max([1.0, *(value for pair in pairs.values() for value in pair)])
    return [
        {"step": step, "planned": planned, "took": took, "planned_share": planned / most, "took_share": took / most}
        for step, (planned, took) in pairs.items()
    ]
