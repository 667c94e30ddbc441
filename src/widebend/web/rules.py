"""The shop's rule book: needed gaps, each with where its default comes from, all changeable."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for

from ..core.records import Rules
from ..core.units import format_length
from ..store import jobs
from ..store.database import queries
from .edits import Faults
from .reader import Reader
from .shared import transaction, typing_unit

room = Blueprint("rules", __name__)

BOOK = (
    ("hard_gap_mm", "gap to hard things that move with the body"),
    ("engine_gap_mm", "gap to what rocks with the engine"),
    ("axle_gap_mm", "gap to what travels with an axle"),
    ("driveline_gap_mm", "gap to the propshaft and what goes with it"),
    ("steering_gap_mm", "gap to what the steering moves"),
    ("moving_gap_mm", "gap to anything else that moves"),
    ("fuel_line_gap_mm", "gap to a fuel line"),
    ("fuel_tank_gap_mm", "gap to a fuel tank"),
    ("brake_hose_gap_mm", "gap to a brake hose"),
    ("wiring_gap_mm", "gap to wiring"),
    ("rubber_boot_gap_mm", "gap to a rubber boot"),
    ("plastic_gap_mm", "gap to plastic"),
    ("heat_shy_gap_mm", "gap to anything else that is heat-shy"),
    ("soft_gap_mm", "gap to soft things: bumper, trim"),
    ("low_line_gap_mm", "gap over the low line"),
    ("own_gap_mm", "gap of a pipe to its own pipe"),
)


@room.get("/rules")
def show() -> Any:
    with transaction() as connection:
        book, shop = jobs.rules(connection), queries.shop(connection)
    typed = {key: format_length(getattr(book, key), g.unit, 2, suffix=False) for key, _ in BOOK}
    typed["name"] = shop["name"] if shop else ""
    return render_template("rules.html", book=BOOK, typed=typed, errors={}, defaults=Rules())


@room.post("/rules")
def change() -> Any:
    reader = Reader(request.form, typing_unit())
    values = {key: reader.length(key, 0.0, 500.0) for key, _ in BOOK}
    name = reader.words("name", 80)
    if not name:
        reader.errors["name"] = "what is the shop called?"
    try:
        reader.finish()
    except Faults as faults:
        return render_template("rules.html", book=BOOK, typed=request.form, errors=faults.errors, defaults=Rules()), 422
    with transaction() as connection:
        jobs.set_shop(connection, name, Rules(**values))
    return redirect(url_for("floor.show"), 303)
