"""Signing in and out."""

from __future__ import annotations

from flask import Blueprint, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue

from ... import demo
from ...store import jobs, people
from ..page.access import on_this_machine, safe_path
from ..page.at_hand import transaction

room = Blueprint("signing", __name__)

DEMO_ELSEWHERE = (
    "these are the demo's books: they open on the machine they are on. Put the demo away there to begin your own"
)


@room.get("/sign-in")
def show() -> ResponseReturnValue:
    return _page("")


def _page(wrong: str, code: int = 200) -> ResponseReturnValue:
    with transaction() as connection:
        shop, is_demo = jobs.shop_name(connection), jobs.is_demo(connection)
    logins = demo.LOGINS if is_demo and on_this_machine() else {}
    name, to = request.form.get("name", "")[:40], safe_path(request.values.get("to", "/"))
    return render_template("people/sign_in.html", wrong=wrong, shop=shop, logins=logins, name=name, to=to), code


@room.post("/sign-in")
def sign_in() -> ResponseReturnValue:
    address, name = request.remote_addr or "", request.form.get("name", "")[:80]
    with transaction() as connection:
        if jobs.is_demo(connection) and not on_this_machine():
            return _page(DEMO_ELSEWHERE, 422)
        who = people.known(connection, name, address)
    # between the two: it takes long, and whoever else wants a connection does not wait for it
    try:
        opens = who is not None and who.opens_to(request.form.get("password", ""))
    except people.BusyError as busy:
        return _page(str(busy), 503)
    with transaction() as connection:
        found = people.let_in(connection, who, name, address, opens=opens) if who else None
        if found is not None:
            _new_session()
            session["key"] = people.begin_session(connection, found.id, request.user_agent.string, address)
            people.note(connection, found.name, "signed in", None, address)
        else:
            people.note(connection, name[:40], "was not let in", None, address)
    if found is None:
        return _page(people.WRONG, 422)
    return redirect(safe_path(request.form.get("to", "/")), 303)


@room.post("/sign-out")
def sign_out() -> ResponseReturnValue:
    with transaction() as connection:
        if "key" in session:
            people.end_session(connection, session["key"])
            people.note(connection, g.person.name if g.person else "", "signed out", None, request.remote_addr or "")
    _new_session()
    return redirect(url_for("signing.show"), 303)


def _new_session() -> None:
    """Nothing of the session before stays but the mark its forms were signed by: ticks made without a connection wait
    on the device with it, and are sent after signing in again.
    """
    mark = session.get("csrf_token")
    session.clear()
    if mark:
        session["csrf_token"] = mark
