"""Who works here: roles, one-time passwords, who left; and the list of what was done."""

from __future__ import annotations

from flask import Blueprint, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...store import people
from ...store.database import Connection
from ..page.at_hand import transaction
from ..page.edits import FormState
from ..page.figures import whole

room = Blueprint("people", __name__, url_prefix="/people")


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


def _page(said: FormState, code: int = 200, told: tuple[str, str] | None = None) -> ResponseReturnValue:
    """The page; `told` is whose one-time password was made just now, and shown this once."""
    with transaction() as connection:
        found = people.everybody(connection)
    return render_template("people/staff.html", said=said, people=found, roles=people.ROLES, told=told), code


@room.post("/add")
def add() -> ResponseReturnValue:
    said, password = FormState(typed=request.form.to_dict()), people.one_time_password()
    name = " ".join(request.form.get("name", "").split())
    try:
        with transaction() as connection:
            people.add(connection, name, request.form.get("role", ""), password)
    except EditError as exc:
        said.errors = {exc.field: str(exc)}
        return _page(said, 422)
    return _page(FormState(), 200, (name, password))


@room.post("/change")
def change() -> ResponseReturnValue:
    """Another role, a new one-time password, or gone."""
    said, person_id, what = FormState(), whole(request.form.get("person", "")), request.form.get("what", "")
    told = None
    try:
        with transaction() as connection:
            told = _changed(connection, person_id, what)
    except EditError as exc:
        said.errors = {"": str(exc)}
        return _page(said, 422)
    return _page(said, 200, told) if told else redirect(url_for("people.show"), 303)


def _changed(connection: Connection, person_id: int, what: str) -> tuple[str, str] | None:
    if what == "password":
        name = next((p["name"] for p in people.everybody(connection) if p["id"] == person_id and not p["gone"]), "")
        if not name:
            raise EditError("they are not here any more")
        return name, people.give_password(connection, person_id)
    if what == "gone":
        people.goes(connection, person_id)
    else:
        people.set_role(connection, person_id, what)
    return None


@room.get("/audit")
def audit() -> ResponseReturnValue:
    """Show the audit, the newest first, a hundred lines at a time."""
    job, who, before = (request.args.get(key, "") for key in ("job", "who", "before"))
    with transaction() as connection:
        found = people.audit(connection, job_id=whole(job) or None, who=who[:80] or None, before=whole(before) or None)
    return render_template("people/audit.html", found=found, job=whole(job) or "", who=who[:80])
