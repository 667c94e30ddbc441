"""Reading a form as a person fills it in: every wrong field is found, not only the first."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from ..core.errors import InputError
from ..core.units import Length, parse_angle, parse_clock, parse_length
from .edits import Faults

T = TypeVar("T")


class Reader:
    """Reads fields of one form, collecting what is wrong instead of stopping at the first."""

    def __init__(self, form: Mapping[str, str], unit: str) -> None:
        self.form, self.unit = form, unit
        self.errors: dict[str, str] = {}

    def length(self, field: str, least: float | None = None, most: float | None = None) -> Length:
        return self._try(field, lambda t: parse_length(t, self.unit, least=least, most=most), Length(0.0))

    def optional(self, field: str, least: float = 0.0) -> Length | None:
        return self.length(field, least) if self.given(field) else None

    def given(self, field: str) -> bool:
        return bool(self.form.get(field, "").strip())

    def point(self, *fields: str) -> tuple[Length, Length, Length]:
        """Three lengths: back, right, up."""
        x, y, z = (self.length(field) for field in fields)
        return x, y, z

    def angle(self, field: str, what: str, least: float = -180.0, most: float = 180.0) -> float:
        return self._try(field, lambda t: parse_angle(t or "0", what, least, most), 0.0)

    def clock(self, field: str) -> float:
        """A clock direction [deg from 12]."""
        return self._try(field, parse_clock, 0.0)

    def number(self, field: str, least: float, most: float) -> float:
        """A plain number within bounds."""
        text = self.form.get(field, "").strip().replace(",", ".")
        try:
            value = float(text)
        except ValueError:
            value = math.nan
        if not least <= value <= most:
            self.errors[field] = f"a number from {least:g} to {most:g}"
            return least
        return value

    def choice(self, field: str, allowed: Any, otherwise: str) -> str:
        value = self.form.get(field, otherwise)
        if value not in allowed:
            self.errors[field] = f"one of {', '.join(allowed)}"
            return otherwise
        return value

    def words(self, field: str, most: int = 80) -> str:
        text = self.form.get(field, "").replace("\x00", "").strip()
        if len(text) > most:
            self.errors[field] = f"at most {most} letters, this is {len(text)}"
        return text[:most]

    def _try(self, field: str, read: Callable[[str], T], otherwise: T) -> T:
        try:
            return read(self.form.get(field, ""))
        except InputError as exc:
            self.errors[field] = str(exc)
            return otherwise

    def finish(self) -> None:
        if self.errors:
            raise Faults(self.errors)
