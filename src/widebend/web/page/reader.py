"""Reading a form as a person fills it in: every wrong field is found, not only the first."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, TypeVar

from ...core.errors import InputError
from ...core.units import Length, parse_angle, parse_clock, parse_length
from .edits import Faults

T = TypeVar("T")


def _plain(text: str) -> str:
    """Text as any browser sends it back: line ends its own way, no space around."""
    return "\n".join(line.strip() for line in text.strip().splitlines())


AS_IS = "as it is"  # a choice for what none of the usual ones describes: a slanted axis, positions listed one by one
EXACT = "exact"  # the "unit" in which a form shows its values unrounded


@dataclass(frozen=True)
class Before:
    """The values a form is about to change: the record, its fields as they were shown, and the same unrounded."""

    item: Any
    shown: Mapping[str, str]
    exact: Mapping[str, str]


class Reader:
    """Reads fields of one form, collecting what is wrong instead of stopping at the first.

    With what was there before, a field whose text is as it was shown keeps its value as it was: a figure that was
    rounded for showing never comes back as the value.
    """

    def __init__(self, form: Mapping[str, str], unit: str, before: Before | None = None) -> None:
        self.form, self.unit, self.before = form, unit, before
        self.errors: dict[str, str] = {}

    def same(self, *fields: str) -> bool:
        """Whether fields were left as they were shown; those of another shape or way are not asked at all."""
        if self.before is None:
            return False
        shown = self.before.shown
        return all(_plain(self.form.get(f, shown.get(f, ""))) == _plain(shown.get(f, "")) for f in fields)

    @property
    def unchanged(self) -> bool:
        """Whether all of the form is as it was shown."""
        return self.before is not None and self.same(*self.before.shown)

    def _as_it_was(self, field: str) -> float | None:
        """The unrounded value of a field that was left as it was shown."""
        if self.before is None or not self.given(field) or not self.same(field):
            return None
        exact = self.before.exact.get(field, "")
        return float(exact) if exact else None

    def length(self, field: str, least: float | None = None, most: float | None = None) -> Length:
        was = self._as_it_was(field)
        if was is not None and (least is None or was >= least) and (most is None or was <= most):
            return Length(was)
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
        was = self._as_it_was(field)
        if was is not None and least <= was <= most:
            return was
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
        if value == AS_IS and self.same(field):
            return value
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
