"""Every refusal in words: a page for a whole page, a notice beside the work for a part of one. Nobody sees a trace."""

from __future__ import annotations

import errno
import socket
import time
from contextlib import suppress
from functools import partial
from typing import Any
from urllib.parse import urlsplit

import psycopg
from flask import Flask, current_app, make_response, render_template, request
from flask.typing import ResponseReturnValue
from flask_wtf.csrf import CSRFError
from psycopg_pool import PoolTimeout
from werkzeug.exceptions import HTTPException, SecurityError

from ...core.errors import MissingError, WideBendError
from .edits import STATE_FIELDS

LONGEST_S, MOST_BYTES, CHUNK = 10.0, 300_000_000, 65_536  # how much of what is too large is waited for
FULL = (
    "The disk is full, so nothing could be written: this change is not kept, everything before it is. "
    "Make room on the disk that holds the program's data; then it goes on."
)
HELD = (
    "Somebody else is saving this just now. Nothing was changed: go back and try again in a moment; "
    "what you entered is still on the page."
)
AWAY = "The database does not answer. It is started again within seconds: try again then. What was kept before is safe."


def _came_from() -> str:
    """The page of ours that led here, to go back to; empty for none."""
    came = urlsplit(request.referrer or "")
    return came._replace(scheme="", netloc="").geturl() if came.netloc == request.host and came.path else ""


def _entered() -> list[tuple[str, str]]:
    """Return the fields of a refused form, to be read off where the page it was on is gone."""
    return [
        (key.replace("_", " "), value[:2000])
        for key, value in request.form.items()
        if key not in STATE_FIELDS and value
    ]


# what is refused with the same words always: the fault or code, the answer's code, its title, its words
ALWAYS: tuple[tuple[type[Exception] | int, int, str, str], ...] = (
    (404, 404, "Not here", "There is nothing at this address. The shop floor has every open job."),
    (400, 400, "Not understood", "The request was not complete. Go back and try again; nothing was changed."),
    (
        CSRFError,
        400,
        "Page too old",
        "This page is from before the program was set up again. Reload it and enter the change again.",
    ),
    (405, 405, "Not this way", "That address takes no such request."),
    (413, 413, "Too big", "What was sent is larger than this can take. Nothing was changed."),
    (psycopg.errors.DiskFull, 507, "No room", FULL),
    (psycopg.errors.LockNotAvailable, 503, "Busy", HELD),
    (psycopg.errors.QueryCanceled, 503, "Busy", HELD),
    (psycopg.OperationalError, 503, "No database", AWAY),
    (PoolTimeout, 503, "No database", AWAY),
)


def handle_errors(app: Flask, log_at: str) -> None:
    """Answer what is refused or fails; `log_at` is where the faults of ours are written."""
    for fault, code, title, words in ALWAYS:
        app.register_error_handler(fault, partial(_always, code, title, words))

    @app.errorhandler(MissingError)
    def _gone(exc: MissingError) -> ResponseReturnValue:
        return refusal(404, "Not here", f"{exc}. The shop floor has every open job.")

    @app.errorhandler(WideBendError)
    def _refused(exc: WideBendError) -> ResponseReturnValue:
        return refusal(422, "Not possible", str(exc))

    @app.errorhandler(psycopg.IntegrityError)
    @app.errorhandler(psycopg.DataError)
    def _not_taken(exc: psycopg.Error) -> ResponseReturnValue:
        # the last line: a form should have said it at the field, so it is written down to be mended
        current_app.logger.error("the books refused what a form let through: %s", exc)
        what = (exc.diag.constraint_name or "a number in it").replace("_", " ")
        return refusal(
            422,
            "Not kept",
            f"The books do not take that ({what}): too large, too long, or not there. Nothing was changed.",
        )

    @app.errorhandler(SecurityError)
    def _host(_exc: Any) -> tuple[str, int]:
        # refused before any room was reached: no page of ours can be built for a foreign name
        return "This program answers on this machine only, at 127.0.0.1 or localhost.", 400

    @app.errorhandler(OSError)
    def _system(exc: OSError) -> ResponseReturnValue:
        if exc.errno == errno.ENOSPC:
            return refusal(507, "No room", FULL)
        if exc.errno == errno.EAGAIN:
            if "gunicorn.socket" in request.environ:  # nobody waits for the rest a second time
                request.environ["gunicorn.socket"].shutdown(socket.SHUT_RD)
            return refusal(408, "Half sent", "The request came in half: send it again.", entered=False)
        raise exc

    @app.errorhandler(500)
    def _broken(_exc: Any) -> ResponseReturnValue:
        words = f"The program failed on this one. What was kept before is safe. The fault is written to {log_at}."
        return refusal(500, "Our fault", words)


def _read_the_rest() -> None:
    """Take in what is too large, and let it go: a browser that is cut off while it sends never reads the answer."""
    until, left = time.monotonic() + LONGEST_S, MOST_BYTES
    with suppress(OSError):
        while left > 0 and time.monotonic() < until and (part := request.environ["wsgi.input"].read(CHUNK)):
            left -= len(part)


def _always(code: int, title: str, words: str, exc: Exception) -> ResponseReturnValue:
    if code == 413:
        _read_the_rest()
    if code in (503, 507):
        current_app.logger.warning("%s: %s", title, exc)
    return refusal(code, title, words, entered=not isinstance(exc, HTTPException) or isinstance(exc, CSRFError))


def refusal(code: int, title: str, words: str, *, entered: bool = True) -> ResponseReturnValue:
    """A refusal as a page, or beside the work; `entered`: show what the form held, not where reading it failed."""
    said = {"title": title, "words": words, "entered": _entered() if entered else []}
    if "HX-Request" not in request.headers:
        return render_template("page/error.html", **said, back=_came_from()), code
    # beside the work: what was typed there stays on the page
    answer = make_response(render_template("page/_error.html", **said), code)
    answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = "#trouble", "innerHTML"
    return answer
