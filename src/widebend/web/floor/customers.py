"""One box that finds customers, vehicles and jobs; a customer with all work; merged, exported, erased."""

from __future__ import annotations

import json
from dataclasses import asdict
from typing import Any

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError, MissingError
from ...store import customers
from ..page.at_hand import transaction
from ..page.edits import FormState
from ..page.figures import whole

room = Blueprint("customers", __name__)


@room.get("/find")
def find() -> ResponseReturnValue:
    """Show the matches of the search box; a number of a job that there is goes straight to it."""
    text = request.args.get("q", "")
    with transaction() as connection:
        found = customers.find(connection, text)
    if text.strip().isdecimal() and any(str(job["id"]) == text.strip() for job in found.jobs):
        return redirect(url_for("intake.show", job_id=int(text)), 303)
    return render_template("floor/find.html", found=found, text=text[:80])


@room.get("/customers/<int:customer_id>")
def show(customer_id: int) -> ResponseReturnValue:
    return _page(customer_id, FormState())


def _page(customer_id: int, said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        one = customers.get(connection, customer_id)
    return render_template("floor/customer.html", one=one, said=said), code


def _edit(customer_id: int, change: Any) -> ResponseReturnValue:
    said = FormState(piece=request.form.get("vehicle") or "")
    try:
        with transaction() as connection:
            customers.get(connection, customer_id)
            change(connection)
    except EditError as exc:
        said.errors, said.typed = {exc.field: str(exc)}, request.form.to_dict()
        return _page(customer_id, said, 422)
    return redirect(url_for("customers.show", customer_id=customer_id), 303)


@room.post("/customers/<int:customer_id>")
def change(customer_id: int) -> ResponseReturnValue:
    return _edit(
        customer_id,
        lambda connection: customers.change(
            connection, customer_id, request.form.get("name", ""), request.form.get("phone", "")
        ),
    )


@room.post("/customers/<int:customer_id>/vehicle")
def vehicle(customer_id: int) -> ResponseReturnValue:
    """A vehicle put right, or another one."""
    number = whole(request.form.get("vehicle"))
    return _edit(
        customer_id,
        lambda connection: customers.change_vehicle(
            connection, customer_id, number, request.form.get("kind", ""), request.form.get("plate", "")
        ),
    )


@room.post("/customers/<int:customer_id>/merge")
def merge(customer_id: int) -> ResponseReturnValue:
    """This one is another one, who keeps everything."""
    into = whole(request.form.get("into"))
    try:
        with transaction() as connection:
            customers.merge(connection, customer_id, into)
    except (EditError, MissingError) as exc:
        return _page(customer_id, FormState(errors={"": str(exc)}), 422)
    return redirect(url_for("customers.show", customer_id=into), 303)


@room.get("/customers/<int:customer_id>.json")
def export(customer_id: int) -> Response:
    """Everything that is kept of one person."""
    with transaction() as connection:
        one = customers.get(connection, customer_id)
    text = json.dumps({k: v for k, v in asdict(one).items() if k != "like"}, indent=2, default=str, ensure_ascii=False)
    return Response(
        text + "\n",
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="customer-{customer_id}.json"'},
    )


@room.post("/customers/<int:customer_id>/erase")
def erase(customer_id: int) -> ResponseReturnValue:
    """Take a person out of the books, after their name was typed."""

    def gone(connection: Any) -> None:
        one = customers.get(connection, customer_id)
        if " ".join(request.form.get("sure", "").split()) != one.name:
            raise EditError(f"type “{one.name}” to erase them for good", "sure")
        customers.erase(connection, customer_id)

    return _edit(customer_id, gone)
