"""How a figure is shown and typed: by the person's own unit."""

from __future__ import annotations

import math
import re
import secrets
from datetime import date

from flask import Flask, g, request

from ...core.errors import EditError
from ...core.quoting import money
from ...core.units import (
    format_angle,
    format_clock,
    format_length,
    format_pressure,
    format_speed,
    format_temperature,
)

UNITS = {"mm": "mm", "in": "inches", "in16": "inches, sixteenths", "in32": "inches, thirty-seconds"}


def unit_of(text: str | None) -> str:
    return text if text in UNITS else "mm"


def typing_unit() -> str:
    """Return the unit of a bare number in a field: mm, or inches when the person sees inches."""
    return "mm" if g.unit == "mm" else "in"


def tape_step(unit: str) -> float:
    """Return the resolution of a tape [mm]: a millimetre, or a sixteenth of an inch."""
    return 1.0 if unit == "mm" else 25.4 / (32 if unit == "in32" else 16)


def page_tab(text: str | None) -> str:
    """The token of an open page: bursts of edits from one page are not conflicts."""
    return text if text and re.fullmatch(r"[0-9a-f]{16}", text) else secrets.token_hex(8)


def is_htmx() -> bool:
    return request.headers.get("HX-Request") == "true"


def install_filters(app: Flask) -> None:
    """Figures in templates, always by the person's own unit."""
    app.jinja_env.filters["mm"] = lambda v, digits=1: format_length(v, g.unit, digits)
    app.jinja_env.filters["mm_bare"] = lambda v, digits=1: format_length(v, g.unit, digits, suffix=False)
    app.jinja_env.filters["named"] = lambda options: [(option, option) for option in options]  # named as they are
    app.jinja_env.filters["kpa"] = lambda pa: format_pressure(pa, g.unit)
    app.jinja_env.filters["celsius"] = lambda c: format_temperature(c, g.unit)
    app.jinja_env.filters["speed"] = lambda m_s: format_speed(m_s, g.unit)
    app.jinja_env.filters["deg"] = format_angle
    app.jinja_env.filters["money"] = money
    app.jinja_env.filters["clock"] = format_clock
    app.jinja_env.globals["units"] = UNITS
    app.jinja_env.globals["unit_name"] = lambda: "mm" if g.unit == "mm" else "in"


def whole(text: str | None) -> int:
    """A number of a thing of ours from a form; 0, which nothing has, for what is none."""
    return int(text) if text and text.isascii() and text.isdecimal() and len(text) < 10 else 0


def day(text: str | None, key: str) -> date | None:
    """A day from a form; none where nothing is typed. Raises EditError at `key`."""
    try:
        return date.fromisoformat(text.strip()) if text and text.strip() else None
    except ValueError as exc:
        raise EditError("a day like 2026-12-24", key) from exc


def number(text: str | None, otherwise: float) -> float:
    """A plain number from a request's own state, not from a person: nonsense gives `otherwise`."""
    try:
        value = float(text or "")
    except ValueError:
        return otherwise
    return value if math.isfinite(value) and abs(value) < 1e6 else otherwise
