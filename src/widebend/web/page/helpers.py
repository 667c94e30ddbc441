"""Helpers at the bench: a few figures typed, an answer at once, nothing kept. All of a helper is in its address."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from flask import g, request

from ...core.units import format_length
from .figures import typing_unit
from .reader import Reader

T = TypeVar("T")
LARGEST_MM = 3000.0


@dataclass(frozen=True)
class HelperField:
    """A field of a helper: its usual value, and its kind: "mm", "deg", "count", or what can be chosen."""

    key: str
    words: str
    usual: float | str
    kind: str | tuple[str, ...] = "mm"
    least: float = 0.0
    most: float = LARGEST_MM

    @property
    def options(self) -> tuple[str, ...]:
        """Return the options; nothing where it is typed."""
        return () if isinstance(self.kind, str) else self.kind

    @property
    def unit(self) -> str:
        """Return the hint beside the label."""
        return {"deg": "degrees", "mm": "mm" if g.unit == "mm" else "in"}.get(str(self.kind), "")

    @property
    def shown(self) -> str:
        """Its usual value as it would be typed."""
        if self.kind == "mm":
            return format_length(float(self.usual), g.unit, 2, suffix=False)
        return self.usual if isinstance(self.usual, str) else f"{self.usual:g}"


class Figures:
    """Typed values: numbers and choices by the key of their field."""

    def __init__(self, numbers: Mapping[str, float], chosen: Mapping[str, str]) -> None:
        self.numbers, self.chosen = numbers, chosen

    def __getitem__(self, key: str) -> float:
        return self.numbers[key]


@dataclass(frozen=True)
class Helper(Generic[T]):
    """One helper: its key, name, fields, and what it does with them."""

    key: str
    name: str
    fields: tuple[HelperField, ...]
    work: Callable[[Figures], T]

    def read(self) -> Figures:
        """The fields as typed; an empty one takes what is usual. Raises Faults."""
        reader = Reader(request.args, typing_unit())
        numbers: dict[str, float] = {}
        chosen: dict[str, str] = {}
        for asked in self.fields:
            if asked.options:
                chosen[asked.key] = reader.choice(asked.key, asked.options, str(asked.usual))
            elif not reader.given(asked.key):
                numbers[asked.key] = float(asked.usual)
            elif asked.kind == "deg":
                numbers[asked.key] = reader.angle(asked.key, asked.words, asked.least, min(asked.most, 360.0))
            elif asked.kind == "count":
                numbers[asked.key] = round(reader.number(asked.key, asked.least, asked.most))
            else:
                numbers[asked.key] = float(reader.length(asked.key, asked.least, asked.most))
        reader.finish()
        return Figures(numbers, chosen)

    def typed(self) -> dict[str, Any]:
        """Return the typed fields, to be asked for again: nothing else that an address may hold."""
        return {asked.key: request.args[asked.key] for asked in self.fields if asked.key in request.args}

    def shown(self) -> dict[str, str]:
        """Every field as it stands: as typed, or as it usually is."""
        return {asked.key: request.args.get(asked.key) or asked.shown for asked in self.fields}


@dataclass
class Answer:
    """A helper's answer: figures (label, value), a wrap template (head, rows), a drawing, what the shelf takes."""

    figures: list[tuple[str, str]] = field(default_factory=list)
    table: list[tuple[str, ...]] = field(default_factory=list)
    heads: tuple[str, ...] = ()
    note: str = ""
    paths: list[tuple[str, str]] = field(default_factory=list)
    drawing_words: str = ""
    shelf: dict[str, str] = field(default_factory=dict)
