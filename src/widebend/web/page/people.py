"""Who is at this device: a first name, remembered here; the shop's books say who did what."""

from __future__ import annotations

from flask import Response, request

WHO_DAYS, MOST = 400, 40


def who_is_here() -> str:
    """The name this device was last used by; empty before anybody said."""
    return " ".join(request.cookies.get("who", "").split())[:MOST]


def who_says() -> str:
    """The name that a form brings, or the one remembered here."""
    return " ".join(request.form.get("who", "").split())[:MOST] or who_is_here()


def remembered(answer: Response, who: str) -> Response:
    """The answer, with who it was kept on this device."""
    answer.set_cookie("who", who, max_age=WHO_DAYS * 86_400, samesite="Strict", httponly=True)
    return answer
