"""The shelf: its items by kind, what is low, a new item, and bookings with who and when."""

from __future__ import annotations

from typing import Any, get_args

from flask import Blueprint, g, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue
from pydantic import ValidationError

from ...core.errors import EditError, InputError, MissingError
from ...core.records import Kit, KitLine, StockItem, StockKind
from ...core.units import format_length
from ...facts import TUBE_METALS
from ...formats.design_json import first_fault
from ...formats.kit_lines import EXAMPLE, read_kit_lines
from ...store import stock
from ...store.database import Connection
from ..page.at_hand import transaction
from ..page.edits import Faults, FormState
from ..page.figures import typing_unit
from ..page.people import remembered, who_is_here, who_says
from ..page.reader import EXACT, Before, Reader

room = Blueprint("stock", __name__, url_prefix="/stock")

KINDS = get_args(StockKind)
LENGTHS = ("od_mm", "wall_mm", "length_mm", "clr_mm", "leg_mm", "measured_od_mm", "measured_clr_mm", "out_of_round_mm")


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


@room.get("/<int:item_id>")
def edit_item(item_id: int) -> ResponseReturnValue:
    """The shelf with one item in the form, to put right what it is."""
    return _page(FormState(), right=item_id)


def _page(said: FormState, code: int = 200, right: int | None = None) -> ResponseReturnValue:
    with transaction() as connection:
        shelf, lines, kits = stock.shelf(connection), stock.book(connection), stock.kits(connection)
    one = next((one for one in shelf if one.id == right), None)
    if right is not None and one is None:
        raise MissingError("That item is no longer on the shelf")
    find = request.values.get("find", "").strip().lower()
    rows = [one for one in shelf if not one.is_used_up and all(w in _searched(one) for w in find.split())]
    rows.sort(key=lambda one: (not one.is_low, KINDS.index(one.item.kind), one.item.words()))
    return render_template(
        "stock/shelf.html",
        rows=rows,
        low=[one for one in shelf if one.is_low],
        lines=lines,
        said=said,
        kinds=KINDS,
        find=find,
        who=who_is_here(),
        right=right,
        has=_shown(one.item, g.unit) if one else {},
        kits=kits,
        kit_example=EXAMPLE,
        materials=[("", "—"), *TUBE_METALS.items()],
    ), code


def _searched(one: stock.OnShelf) -> str:
    item = one.item
    return f"{item.words(g.unit)} {item.words('mm')} {item.supplier} {item.bin}".lower()


@room.post("/add")
def add() -> ResponseReturnValue:
    """A new kind of stock, or an offcut."""

    def put(connection: Connection, who: str) -> str:
        item, counted = _read_item()
        stock.add(connection, item, counted, who)
        return f"On the shelf: {counted} x {item.words(g.unit)}."

    return _edit(put)


@room.post("/<int:item_id>/right")
def put_right(item_id: int) -> ResponseReturnValue:
    """Say better what an item is; its count and its book stay."""

    def put(connection: Connection, who: str) -> str:
        one = next((one for one in stock.shelf(connection) if one.id == item_id), None)
        if one is None:
            raise MissingError("That item is no longer on the shelf")
        before = Before(one.item, _shown(one.item, g.unit), _shown(one.item, EXACT))
        item, _ = _read_item(before)
        stock.put_right(connection, item_id, item, who)
        return f"Put right: {item.words(g.unit)}."

    return _edit(put, right=item_id)


@room.post("/kits")
def add_kit() -> ResponseReturnValue:
    """A kit that a supplier offers."""

    def put(connection: Connection, _who: str) -> str:
        reader = Reader(request.form, typing_unit())
        name, supplier = reader.words("kit_name"), reader.words("kit_supplier")
        price = reader.number("kit_price", 0.0, 1e6)
        if not name:
            reader.errors["kit_name"] = "a kit needs a name"
        lines: tuple[KitLine, ...] = ()
        try:
            lines = read_kit_lines(request.form.get("kit_lines", "")[:4000], typing_unit())
        except InputError as exc:
            reader.errors["kit_lines"] = str(exc)
        reader.finish()
        stock.add_kit(connection, Kit(name=name, supplier=supplier, price=price, lines=lines))
        return f"On offer: {name}. Every job's bars to cut now say whether it is worth it."

    return _edit(put)


@room.post("/kits/<int:kit_id>/drop")
def drop_kit(kit_id: int) -> ResponseReturnValue:
    """A kit is offered no more."""

    def gone(connection: Connection, _who: str) -> str:
        stock.drop_kit(connection, kit_id)
        return "That kit is offered no more."

    return _edit(gone)


@room.post("/<int:item_id>/book")
def book(item_id: int) -> ResponseReturnValue:
    """Take, bring back, receive a delivery, or say what was counted."""

    def move(connection: Connection, who: str) -> str:
        why, reader = request.form.get("why", ""), Reader(request.form, typing_unit())
        counted = reader.number("number", 0, stock.MOST_AT_ONCE)
        reader.finish()
        number = int(counted)
        if counted != number:
            raise EditError("a whole number: half a bend is an offcut", "number")
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
def drop(item_id: int) -> ResponseReturnValue:
    """Take a wrong entry off the list."""

    def gone(connection: Connection, _who: str) -> str:
        stock.drop(connection, item_id)
        return "Taken off the list."

    return _edit(gone, item_id)


def _edit(change: Any, item_id: int | None = None, right: int | None = None) -> ResponseReturnValue:
    """Carry out one booking; what is wrong stands at its field, with what was typed."""
    said = FormState(piece=str(item_id) if item_id else None)
    who = who_says()
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
        return _page(said, code, right)
    return remembered(make_response(redirect(url_for("stock.show", done=said.note), 303)), who)


def _shown(item: StockItem, unit: str) -> dict[str, str]:
    """An item's fields as the form shows them."""

    def length(mm: float) -> str:
        return repr(float(mm)) if unit == EXACT else format_length(mm, unit, 2, suffix=False)

    found = {key: value for key, value in item.model_dump().items() if value not in (None, "", False)}
    shown = {
        key: length(value) if key in LENGTHS else f"{value:g}" if isinstance(value, float) else str(value)
        for key, value in found.items()
    }
    return shown | ({"is_offcut": "yes"} if item.is_offcut else {})


def _read_item(before: Before | None = None) -> tuple[StockItem, int]:
    """An item as its form says it, with what it was before. Raises Faults, or ValidationError in the record's own
    words.
    """
    reader = Reader(request.form, typing_unit(), before)
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
    values |= {"whole_ends": int(reader.number("whole_ends", 0, 2))} if reader.given("whole_ends") else {}
    counted = int(reader.number("counted", 0, stock.MOST_AT_ONCE)) if reader.given("counted") else 1
    reader.finish()
    return StockItem.model_validate(values), counted
