"""The rooms of the shop as web pages: one blueprint a room, templates and static files beside them.

May import everything below it. A view parses what was posted, calls one or two functions, renders: no arithmetic of
the trade here, in a template or in a script. The browser draws what the server computed.
"""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from datetime import timedelta

from flask import Flask, Request, Response, g, request, session
from flask.sessions import SecureCookieSession, SecureCookieSessionInterface
from flask_wtf.csrf import CSRFProtect
from itsdangerous import BadSignature
from werkzeug.routing import IntegerConverter, Map

from ..core.errors import InputError
from ..instruments.taking import Instrument, Tool
from ..store.database import Database
from . import cut, fit, floor, gas, hang, layout, office, people, route, stock, underbody, weld
from .drawing.svg import svg
from .page.access import guard
from .page.at_hand import LruCache
from .page.figures import install_filters, page_tab, unit_of
from .page.refusals import handle_errors
from .page.sight import sight_from
from .page.uploads import allow_files
from .warm import compile_all, warm_up

__all__ = ["compile_all", "create_app", "warm_up"]

MOST_POSTED_BYTES = 2_500_000
ROOMS = {
    "floor": floor,
    "stock": stock,
    "underbody": underbody,
    "layout": layout,
    "route": route,
    "hang": hang,
    "cut": cut,
    "gas": gas,
    "fit": fit,
    "weld": weld,
    "office": office,
    "people": people,
}

CONTENT_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)


class Number(IntegerConverter):
    """A number in an address: one that the books could hold."""

    def __init__(self, of: Map) -> None:
        super().__init__(of, max=2**31 - 1)


class AgelessSessions(SecureCookieSessionInterface):
    """Sessions whose signature counts and whose date does not: a page left open, or a clock set back, loses nothing."""

    def open_session(self, app: Flask, request: Request) -> SecureCookieSession | None:
        signer = self.get_signing_serializer(app)
        if signer is None:
            return None
        try:
            return self.session_class(signer.loads(request.cookies.get(self.get_cookie_name(app), "")))
        except BadSignature:
            return self.session_class()


def create_app(
    database_url: str,
    *,
    secret: str,
    testing: bool = False,
    tools_at: Mapping[Instrument, Tool] | None = None,
    log_at: str = "the log",
    join_at: str = "",
    names: Sequence[str] = (),
) -> Flask:
    """The application; `tools_at` is where measuring tools answer, `log_at` where faults are written, `join_at` where
    tablets join and by which `names`. The pool is opened by the server process.
    """
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=secret,
        MAX_CONTENT_LENGTH=MOST_POSTED_BYTES,
        MAX_FORM_MEMORY_SIZE=MOST_POSTED_BYTES,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        TRUSTED_HOSTS=["127.0.0.1", "localhost", "[::1]", *names],
        SESSION_COOKIE_SECURE=bool(join_at),
        JOIN_AT=join_at,
        WTF_CSRF_TIME_LIMIT=None,  # a page may stay open under a vehicle for weeks
        PERMANENT_SESSION_LIFETIME=timedelta(days=400),  # the most a browser keeps
        TESTING=testing,
    )
    app.url_map.converters["int"] = Number
    app.session_interface = AgelessSessions()
    app.extensions["database"] = Database(database_url)
    app.extensions |= {"kept": LruCache(), "surveys": LruCache(most=32), "solved": LruCache(most=32)}
    app.extensions["tools"] = dict(tools_at or {})
    app.before_request(allow_files)  # before the token is looked for, which reads the form
    CSRFProtect(app)
    install_filters(app)
    app.jinja_env.filters["svg"] = svg
    blueprints = {b: name for name, room in ROOMS.items() for b in room.BLUEPRINTS}
    for blueprint in blueprints:
        app.register_blueprint(blueprint)
    app.before_request(_read_preferences)
    app.before_request(_refuse_control_characters)
    guard(app, {blueprint.name: room for blueprint, room in blueprints.items()})
    app.after_request(_secure)
    handle_errors(app, log_at)
    return app


def _read_preferences() -> None:
    session.permanent = True
    g.unit = unit_of(request.cookies.get("unit"))
    g.view_flipped = request.cookies.get("lie") == "turned"
    g.sight = sight_from(request.cookies)
    g.tab = page_tab(request.values.get("tab"))


CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")


def _refuse_control_characters() -> None:
    """No field of any form holds what no keyboard writes: names are printed, sorted, put into files and headers."""
    for source in (request.args, request.form):
        for key, value in source.items(multi=True):
            if CONTROL.search(key) or CONTROL.search(value):
                name = CONTROL.sub(" ", key)[:40]
                raise InputError(f"“{name}” holds a character that cannot be written: type it again by hand")


def _secure(response: Response) -> Response:
    response.headers["Content-Security-Policy"] = CONTENT_POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "same-origin"
    response.headers["X-Frame-Options"] = "DENY"
    response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
    if response.mimetype == "text/html":
        response.headers["Cache-Control"] = "no-store"
    elif request.endpoint != "static" and "Cache-Control" not in response.headers:
        response.headers["Cache-Control"] = "private, no-cache"  # papers and files are one person's to see
    return response
