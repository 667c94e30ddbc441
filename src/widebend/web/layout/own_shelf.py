"""The shop's own shelf on the Layout step: hardware with its measures drawn, kept for every job; CSV in and out."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, Response, redirect, request, url_for
from flask.typing import ResponseReturnValue

from ...core.editing import add_part, placed_at
from ...core.errors import EditError, InputError
from ...core.hardware import SHELF, Kind, Stocked, Values
from ...core.records import Surface
from ...facts import Metal
from ...formats.shelf_csv import read_shelf, write_shelf
from ...store import shelf
from ...store.database import Connection
from ..drawing.measures import draw_measures
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState, keep_design, run_edit
from ..page.figures import number, typing_unit
from ..page.reader import Reader
from .parts import measure_as_shown, measures_as_shown, read_measures
from .sheets import render_sheet

room = Blueprint("own_shelf", __name__, url_prefix="/jobs/<int:job_id>/layout/shelf")

MOST_CSV_BYTES = 200_000


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id, FormState())


def _page(job_id: int, said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        return _render(at_hand(connection, job_id), said, code, shelf.items(connection))


def _render(
    here: AtHand, said: FormState, code: int, items: dict[int, Stocked], bad: list[Any] | None = None
) -> ResponseReturnValue:
    kind = SHELF.get(said.typed.get("kind") or request.args.get("kind", ""), SHELF["muffler"])
    return render_sheet(
        here,
        said,
        code,
        "own_shelf.show",
        "layout/_sheet_own_shelf.html",
        items=[_row(i, s) for i, s in items.items()],
        kind=kind,
        kinds=[(k.key, k.name) for k in SHELF.values()],
        drawing=_drawn(kind),
        bad=bad or [],
        usual=measures_as_shown(kind),
        table=said.typed.get("table", ""),
        metals=[("", "as the pipe"), *((m, m) for m in get_args(Metal))],
        surfaces=[(s, s) for s in get_args(Surface)],
    )


def _drawn(kind: Kind) -> Any:
    return draw_measures(kind, {m.key: m.usual for m in kind.measures})


def _row(item_id: int, stocked: Stocked) -> dict[str, Any]:
    kind = SHELF.get(stocked.kind)
    measures = {m.key: m for m in kind.measures} if kind else {}
    words = [
        f"{measures[k].words} {measure_as_shown(measures[k].kind, v)}"
        for k, v in stocked.values.items()
        if k in measures
    ]
    mass = f"{stocked.mass_kg:g} kg" if stocked.mass_kg is not None else "mass not known"
    return {
        "id": item_id,
        "name": stocked.name,
        "kind": kind.name if kind else stocked.kind,
        "words": ", ".join([*words, mass, stocked.metal or ""]).rstrip(", "),
    }


@room.post("/keep")
def keep(job_id: int) -> ResponseReturnValue:
    """Put one on the shelf."""
    reader = Reader(request.form, typing_unit())
    said = FormState(typed={k: v for k, v in request.form.items() if k != "csrf_token"})
    try:
        stocked = _read(reader)
    except Faults as faults:
        said.errors = faults.errors
        return _page(job_id, said, 422)
    except InputError as exc:
        said.errors = {"kind": str(exc)}
        return _page(job_id, said, 422)
    with transaction() as connection:
        shelf.keep(connection, stocked)
    return redirect(url_for("own_shelf.show", job_id=job_id), 303)


def _read(reader: Reader) -> Stocked:
    kind = SHELF.get(request.form.get("kind", ""))
    if kind is None:
        raise InputError("choose what kind it is")
    name = reader.words("name")
    if not name:
        reader.errors["name"] = "what is it called?"
    mass = reader.number("mass", 0.0, 200.0) if reader.given("mass") else None
    metal, surface = (
        reader.choice("metal", ("", *get_args(Metal)), ""),
        reader.choice("surface", get_args(Surface), "bare"),
    )
    values: Values = read_measures(reader, kind)
    item = {"kind": kind.key, "name": name, "values": dict(values), "mass_kg": mass, "metal": metal or None}
    stocked = Stocked.model_validate(item | {"surface": surface})
    stocked.item()
    return stocked


@room.post("/drop")
def drop(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        shelf.drop(connection, int(number(request.form.get("id"), 0)))
    return redirect(url_for("own_shelf.show", job_id=job_id), 303)


@room.post("/set-down")
def set_down(job_id: int) -> ResponseReturnValue:
    """A copy of one in the design, at a place or for a run to carry."""
    said = FormState()

    def change(connection: Connection, here: AtHand) -> None:
        stocked = shelf.items(connection).get(int(number(request.form.get("id"), 0)))
        if stocked is None:
            raise EditError("that is no longer on the shelf")
        reader = Reader(request.form, typing_unit())
        at = reader.point("p_x", "p_y", "p_z") if reader.given("p_x") else None
        reader.finish()
        design, said.piece = add_part(
            here.design, stocked.item(), stocked.name, placed_at(at, (1, 0, 0)) if at else None
        )
        said.note = f"Set down the {stocked.name}."
        keep_design(connection, here, design, f"set down the {stocked.name}")

    def render(here: AtHand, said: FormState, code: int) -> ResponseReturnValue:
        with transaction() as connection:
            return _render(here, said, code, shelf.items(connection))

    return run_edit(
        job_id, said, change, render, lambda: url_for("layout.show", job_id=job_id, part=said.piece or None)
    )


@room.get("/shelf.csv")
def csv_out(job_id: int) -> Response:
    with transaction() as connection:
        text = write_shelf(shelf.items(connection).values())
    headers = {"Content-Disposition": 'attachment; filename="shelf.csv"'}
    return Response(text, mimetype="text/csv", headers=headers)


@room.post("/table")
def csv_in(job_id: int) -> ResponseReturnValue:
    """Bring in a table: every line that can be read, and what is wrong with the others."""
    text = request.form.get("table", "")
    said = FormState(typed={"table": text})
    try:
        if len(text.encode()) > MOST_CSV_BYTES:
            raise InputError("more than 200 kB: bring it in in parts")
        good, bad = read_shelf(text)
    except InputError as exc:
        said.errors = {"table": str(exc)}
        return _page(job_id, said, 422)
    with transaction() as connection:
        for stocked in good:
            shelf.keep(connection, stocked)
        if not bad:
            said.typed = {}
        said.note = f"{len(good)} put on the shelf."
        return _render(at_hand(connection, job_id), said, 422 if bad else 200, shelf.items(connection), bad)
