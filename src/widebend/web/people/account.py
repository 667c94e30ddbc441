"""One's own account: another password, where one is signed in."""

from __future__ import annotations

from flask import Blueprint, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import EditError
from ...store import people
from ..page.at_hand import transaction
from ..page.edits import FormState

room = Blueprint("account", __name__, url_prefix="/account")


@room.get("")
def show() -> ResponseReturnValue:
    return _page(FormState())


def _page(said: FormState, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        where = people.sessions(connection, g.person.id, session.get("key", ""))
    return render_template("people/account.html", said=said, where=where, least=people.LEAST_LETTERS), code


@room.post("/password")
def password() -> ResponseReturnValue:
    """Another password; every other device is signed out."""
    said = FormState()
    try:
        if request.form.get("password") != request.form.get("again"):
            raise EditError("not twice the same", "again")
        with transaction() as connection:
            people.may_try(connection, g.person.name, request.remote_addr or "")
            people.change_password(
                connection,
                g.person.id,
                request.form.get("old", ""),
                request.form.get("password", ""),
                session.get("key", ""),
            )
    except EditError as exc:
        if isinstance(exc, people.WrongPasswordError):
            with transaction() as connection:
                people.tried(connection, g.person.name, request.remote_addr or "")
        said.errors = {exc.field: str(exc)}
        return _page(said, 422)
    return redirect(url_for("floor.show"), 303)


@room.post("/end")
def end() -> ResponseReturnValue:
    """Sign one of one's devices out."""
    with transaction() as connection:
        people.end_session_of(connection, g.person.id, request.form.get("session", "")[:16])
    return redirect(url_for("account.show"), 303)
