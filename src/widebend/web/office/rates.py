"""The shop's rates: an hour, mark-up, tax, deposit, what one of each step takes, what things cost it."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.quoting import STEPS, money
from ...core.records import USUAL_MINUTES, Pricing, TubeBy
from ...facts import Process
from ...store import hours, quotes
from ..page.as_shown import refuse_overtaken, stamp
from ..page.at_hand import transaction
from ..page.edits import Faults, FormState
from ..page.figures import typing_unit
from ..page.money import parse_money
from ..page.reader import Reader

room = Blueprint("rates", __name__, url_prefix="/rates")

PROCESSES, TUBE_BY = get_args(Process), get_args(TubeBy)
SHARES = (
    ("metal_markup", "mark-up on metal, in 100"),
    ("parts_markup", "on parts, in 100"),
    ("tax", "tax, in 100"),
    ("deposit", "deposit, in 100"),
)
COUNTED = {
    "remove old": "a system",
    "cut": "a piece",
    "face": "a face",
    "fit up": "a joint; at the vehicle twice that",
    "tack": "a joint",
    "weld": "a metre by TIG",
    "purge": "a joint",
    "hangers": "a hanger",
    "refits": "a trial fit",
    "finish": "a joint",
    "test": "a system",
}
MONTHS = 12


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


def _page(said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        pricing, past = quotes.pricing(connection), hours.past(connection)
        mistakes = hours.mistakes(connection, MONTHS)
    shown = _shown(pricing)
    planned = {step: sum(job.estimated.get(step, 0.0) for job in past) / 60 for step in STEPS}
    took = {step: sum(job.taken.get(step, 0.0) for job in past) / 60 for step in STEPS}
    by_step = [
        {
            "step": step,
            "counted": COUNTED[step],
            "usual": USUAL_MINUTES[step],
            "planned": planned[step],
            "took": took[step],
            "minutes": shown[f"min-{step}"],
        }
        for step in STEPS
    ]
    most = max([*planned.values(), *took.values()])
    return render_template(
        "office/rates.html",
        pricing=pricing,
        said=said,
        shares=shown,
        share_words=SHARES,
        as_shown=stamp(shown),
        by_step=by_step,
        most=most,
        processes=PROCESSES,
        hour=shown["hour"],
        tube_by=TUBE_BY,
        jobs=len(past),
        mistakes=mistakes,
        months=MONTHS,
    ), code


def _shown(pricing: Pricing) -> dict[str, str]:
    """Every rate as its field shows it."""
    return {
        "hour": money(pricing.hour),
        "currency": pricing.currency,
        "day_hours": f"{pricing.day_hours:g}",
        "valid_days": str(pricing.valid_days),
        "process": pricing.process,
        "tube_by": pricing.tube_by,
        **{key: f"{100 * getattr(pricing, key):g}" for key, _ in SHARES},
        **{f"min-{step}": f"{pricing.minutes.get(step, 0.0):g}" for step in STEPS},
    }


@room.post("")
def change() -> ResponseReturnValue:
    """Every rate of the shop at once."""
    said, reader = FormState(), Reader(request.form, typing_unit())
    try:
        values: dict[str, Any] = {"currency": request.form.get("currency", "").strip()[:4]}
        try:
            values["hour"] = parse_money(request.form.get("hour", ""))
        except ValueError as exc:
            reader.errors["hour"] = str(exc)
        for key, _ in SHARES:
            values[key] = reader.number(key, 0.0, 300.0 if "markup" in key else 100.0) / 100
        values["day_hours"] = reader.number("day_hours", 1.0, 16.0)
        values["valid_days"] = int(reader.number("valid_days", 1, 365))
        values["process"] = reader.choice("process", PROCESSES, "TIG")
        values["tube_by"] = reader.choice("tube_by", TUBE_BY, "the metre")
        values["minutes"] = {step: reader.number(f"min-{step}", 0.0, 1000.0) for step in STEPS}
        reader.finish()
        with transaction() as connection:
            kept = quotes.pricing(connection, hold=True)
            refuse_overtaken(_shown(kept))
            quotes.set_pricing(connection, Pricing.model_validate(kept.model_dump() | values))
    except Faults as faults:
        said.errors, said.typed = faults.errors, request.form.to_dict()
        return _page(said, 422)
    return redirect(url_for("rates.show"), 303)


@room.post("/forget")
def forget() -> ResponseReturnValue:
    """A price that was typed is asked for again."""
    with transaction() as connection:
        kept = quotes.pricing(connection, hold=True)
        each = {words: price for words, price in kept.each.items() if words != request.form.get("words")}
        quotes.set_pricing(connection, kept.replace(each=each))
    return redirect(url_for("rates.show"), 303)
