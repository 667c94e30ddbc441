"""Who is at this device: who is signed in, else a first name that was typed here and is remembered."""

from __future__ import annotations

from flask import Response, g, request

WHO_DAYS, MOST = 400, 40


def who_is_here() -> str:
    """Who is signed in, or the name this device was last used by; empty before anybody said."""
    return _signed_in() or " ".join(request.cookies.get("who", "").split())[:MOST]


def who_says() -> str:
    """Who is signed in, else the name that a form brings, or the one remembered here where it brings none."""
    if _signed_in() or "who" not in request.form:
        return who_is_here()
    return " ".join(request.form["who"].split())[:MOST]


def _signed_in() -> str:
    person = g.get("person")
    return person.name if person else ""


def remembered(answer: Response, who: str) -> Response:
    """The answer, with who it was kept on this device."""
    answer.set_cookie("who", who, max_age=WHO_DAYS * 86_400, samesite="Strict", httponly=True)
    return answer
