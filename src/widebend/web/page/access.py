"""Who may do what: signed in by role, the demo on this machine by anybody, a quote's link by whoever has it."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, abort, current_app, g, redirect, request, session, url_for
from flask.typing import ResponseReturnValue

from ...store import jobs, people
from ...store.people import Person, Role
from .at_hand import transaction
from .figures import is_htmx
from .refusals import refusal

EVERYBODY: tuple[Role, ...] = people.ROLES
BENCH: tuple[Role, ...] = ("owner", "fabricator")
DESK: tuple[Role, ...] = ("owner", "front desk")
OWNER: tuple[Role, ...] = ("owner",)
OPEN = ("link", "signing")  # without sign-in: a customer's link, the sign-in itself
# who may look, who may change, by blueprint; one that is not named here opens to nobody
RIGHTS: dict[str, tuple[tuple[Role, ...], tuple[Role, ...]]] = {
    **dict.fromkeys(
        ("floor", "intake", "talk", "hours", "account", "customers", "board", "handover", "cards"),
        (EVERYBODY, EVERYBODY),
    ),
    **dict.fromkeys(("rules", "equipment"), (EVERYBODY, BENCH)),
    "quote": (EVERYBODY, DESK),
    "carrying": (EVERYBODY, EVERYBODY),
    "rates": (DESK, OWNER),
    "months": (DESK, DESK),
    "people": (OWNER, OWNER),
}
BENCH_ROOMS = (
    "underbody",
    "layout",
    "route",
    "hang",
    "cut",
    "gas",
    "fit",
    "weld",
    "stock",
)  # every blueprint of these rooms
QUIET = ("floor.preferences",)  # nothing of the shop's changes by it

# of a form the audit keeps what was typed: not what only carries the page, nor what nobody else may know
UNSAID = (
    "csrf_token",
    "rev",
    "tab",
    "to",
    "signature",
    "stroke",
    "shape",
    "look",
    "w-beside",
    "old",
    "again",
    "from_mm",
    "to_mm",
    "then",
)
MOST_SAID = 40

DEMO = Person(0, "", "owner", must_change=False)


def guard(app: Flask, rooms: dict[str, str]) -> None:
    """Ask who it is before every request; `rooms` is each blueprint's room."""
    app.extensions["rooms"] = rooms
    app.before_request(_let_in)
    app.jinja_env.globals |= {"may_change": may_change, "whose_to_change": whose_to_change}


def rights_of(blueprint: str, rooms: dict[str, str]) -> tuple[tuple[Role, ...], tuple[Role, ...]] | None:
    """Who may look at a blueprint's pages, and who may change there; None for one that nobody may."""
    if blueprint in RIGHTS:
        return RIGHTS[blueprint]
    return (EVERYBODY, BENCH) if rooms.get(blueprint) in BENCH_ROOMS else None


def may_change(blueprint: str) -> bool:
    """Whether who is here may change something there."""
    rights = rights_of(blueprint, current_app.extensions["rooms"])
    return rights is not None and g.person is not None and g.person.role in rights[1]


def whose_to_change() -> str:
    """Whose it is to change what this page shows, where it is not theirs who looks at it; nothing where it is."""
    blueprint = request.blueprint or ""
    rights = rights_of(blueprint, current_app.extensions["rooms"])
    person: Person | None = g.get("person")
    looks_only = rights is not None and person is not None and person.role in rights[0] and person.role not in rights[1]
    return " or ".join(rights[1]) if rights and looks_only else ""


def _let_in() -> ResponseReturnValue | None:
    g.person = None
    endpoint = request.endpoint or ""
    if endpoint == "static" or not endpoint:
        return None
    blueprint = endpoint.partition(".")[0]
    with transaction() as connection:
        if "key" in session:
            g.person = people.of_session(connection, session["key"])
        if g.person is None and on_this_machine() and jobs.is_demo(connection):
            g.person = DEMO
    if blueprint in OPEN:
        return None
    if g.person is None:
        return _asked_to_sign_in()
    if g.person.must_change and blueprint != "account":
        if request.method != "GET":
            return refusal(401, "Choose a password", "Choose a password of your own first. Nothing was kept.")
        return redirect(url_for("account.show"), 303)
    rights = rights_of(blueprint, _rooms())
    changes = request.method not in ("GET", "HEAD", "OPTIONS")
    if rights is None or g.person.role not in rights[1 if changes else 0]:
        return _refused(rights, changes=changes)
    if changes and endpoint not in QUIET:
        g.to_note = _note_of(g.person)
    return None


def _rooms() -> dict[str, str]:
    found: dict[str, str] = current_app.extensions["rooms"]
    return found


def on_this_machine() -> bool:
    """Whether the request came over loopback."""
    return request.remote_addr in ("127.0.0.1", "::1")


def _asked_to_sign_in() -> ResponseReturnValue:
    if is_htmx() or request.method != "GET":
        # what was typed is still on the page it was typed on
        words = "You are not signed in any more: sign in in another tab, then do it again here. Nothing was kept."
        return refusal(401, "Sign in", words)
    return redirect(url_for("signing.show", to=request.full_path.rstrip("?")), 303)


def _refused(rights: tuple[tuple[Role, ...], tuple[Role, ...]] | None, *, changes: bool) -> ResponseReturnValue:
    if rights is None:
        abort(404)
    who = " or ".join(rights[1 if changes else 0])
    return refusal(403, "Not yours", f"This is for the {who}: ask them, or sign in as one. Nothing was changed.")


def _note_of(person: Person) -> people.Note:
    """Return the line of the audit for this request."""
    route = (request.endpoint or "").replace(".", ": ").replace("_", " ")
    of = [f"{key} {value}" for key, value in (request.view_args or {}).items() if key != "job_id"]
    said = [
        f"{key} {value.strip()[:MOST_SAID]}"
        for key, value in request.form.items()
        if value.strip() and key not in UNSAID and "password" not in key
    ]
    what = ", ".join([route, *of, *said])
    return people.Note(person.name or "demo", what, (request.view_args or {}).get("job_id"), request.remote_addr or "")


def safe_path(text: str) -> str:
    """A path of ours to go back to; the floor for anything else."""
    split = urlsplit(text)
    plain = text.isprintable() and "\\" not in text and text.startswith("/") and not text.startswith("//")
    return text if plain and not split.netloc and not split.scheme else "/"
