"""The shelf: its items by kind, what is low, a new item, and bookings with who and when."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, Response, g, redirect, render_template, request, url_for
from pydantic import ValidationError

from ...core.cutting import MATERIAL_NAMES
from ...core.errors import EditError
from ...core.records import StockItem, StockKind
from ...formats.design_json import first_fault
from ...store import stock
from ...store.database import Connection
from ..page.at_hand import transaction
from ..page.edits import Faults, Said
from ..page.figures import typing_unit
from ..page.reader import Reader

room = Blueprint("stock", __name__, url_prefix="/stock")

KINDS = get_args(StockKind)
WHO_DAYS = 400
LENGTHS = ("od_mm", "wall_mm", "length_mm", "clr_mm", "leg_mm", "measured_od_mm", "measured_clr_mm", "out_of_round_mm")


@room.get("")
def show() -> Any:
    return _page(Said())


def _page(said: Said, code: int = 200) -> Any:
    with transaction() as connection:
        shelf, lines = stock.shelf(connection), stock.book(connection)
    find = request.values.get("find", "").strip().lower()
    rows = [one for one in shelf if not one.is_used_up and all(w in _searched(one) for w in find.split())]
    rows.sort(key=lambda one: (not one.is_low, KINDS.index(one.item.kind), one.item.words()))
    return render_template(
        "stock/shelf.html", rows=rows, low=[one for one in shelf if one.is_low], lines=lines, said=said, kinds=KINDS,
        find=find, who=request.cookies.get("who", ""), materials=[("", "—"), *MATERIAL_NAMES.items()],
    ), code  # fmt: skip


def _searched(one: stock.OnShelf) -> str:
    item = one.item
    return f"{item.words(g.unit)} {item.words('mm')} {item.supplier} {item.bin}".lower()


@room.post("/add")
def add() -> Any:
    """A new kind of stock, or an offcut."""

    def put(connection: Connection, who: str) -> str:
        item, counted = _read_item()
        stock.add(connection, item, counted, who)
        return f"On the shelf: {counted} x {item.words(g.unit)}."

    return _edit(put)


@room.post("/<int:item_id>/book")
def book(item_id: int) -> Any:
    """Take, bring back, receive a delivery, or say what was counted."""

    def move(connection: Connection, who: str) -> str:
        why, reader = request.form.get("why", ""), Reader(request.form, typing_unit())
        number = int(reader.number("number", 0, stock.MOST_AT_ONCE))
        if float(reader.form.get("number", "0").replace(",", ".") or 0) != number:
            raise EditError("a whole number: half a bend is an offcut", "number")
        reader.finish()
        if why == "count":
            off = stock.recount(connection, item_id, number, who)
            return (
                f"Counted {number}: {abs(off)} {'more' if off > 0 else 'fewer'} than thought." if off else "As thought."
            )
        verbs = {"take": "took", "return": "brought back", "receive": "received"}
        if why not in verbs:
            raise EditError("take, bring back, receive or count", "why")
        left = stock.move(connection, item_id, why, number, who)  # type: ignore[arg-type]
        return f"{who} {verbs[why]} {number}; {left} on the shelf."

    return _edit(move, item_id)


@room.post("/<int:item_id>/drop")
def drop(item_id: int) -> Any:
    """Take a wrong entry off the list."""

    def gone(connection: Connection, _who: str) -> str:
        stock.drop(connection, item_id)
        return "Taken off the list."

    return _edit(gone, item_id)


def _edit(change: Any, item_id: int | None = None) -> Any:
    """Carry out one booking; what is wrong stands at its field, with what was typed."""
    said = Said(piece=str(item_id) if item_id else None)
    who = " ".join(request.form.get("who", "").split())[:40]
    code = 200
    try:
        if not who:
            raise EditError("who? a first name is enough", "who")
        with transaction() as connection:
            said.note = change(connection, who)
    except Faults as faults:
        said.errors, code = faults.errors, 422
    except ValidationError as exc:
        said.errors, code = {"": first_fault(exc)[1]}, 422
    except EditError as exc:
        said.errors, code = {exc.field or "": str(exc)}, 422
    if code != 200:
        said.typed = {k: v for k, v in request.form.items() if k != "csrf_token"}
        return _page(said, code)
    answer: Response = redirect(url_for("stock.show", done=said.note), 303)  # type: ignore[assignment]
    answer.set_cookie("who", who, max_age=WHO_DAYS * 86_400, samesite="Strict")
    return answer


def _read_item() -> tuple[StockItem, int]:
    """An item as its form says it. Raises Faults, or ValidationError in the record's own words."""
    reader = Reader(request.form, typing_unit())
    values: dict[str, Any] = {"kind": reader.choice("kind", KINDS, KINDS[0])}
    values |= {key: reader.length(key, 0.01, 20_000.0) for key in LENGTHS if reader.given(key)}
    if reader.given("angle_deg"):
        values["angle_deg"] = reader.angle("angle_deg", "the angle", 0.1, 180.0)
    if reader.given("price"):
        values["price"] = reader.number("price", 0.0, 1e6)
    values |= {key: int(reader.number(key, 1, 10_000)) for key in ("pack",) if reader.given(key)}
    values |= {key: int(reader.number(key, 0, 400)) for key in ("lead_days",) if reader.given(key)}
    values |= {key: int(reader.number(key, 0, 10_000)) for key in ("low",) if reader.given(key)}
    values |= {key: reader.words(key) for key in ("name", "finish", "supplier", "bin")}
    values["material"] = request.form.get("material") or None
    values["is_offcut"] = request.form.get("is_offcut") == "yes"
    counted = int(reader.number("counted", 0, stock.MOST_AT_ONCE)) if reader.given("counted") else 1
    reader.finish()
    return StockItem.model_validate(values), counted
