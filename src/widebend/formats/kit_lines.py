"""The lines of a kit, one for each thing, as a person writes it: "4 bend 63.5 x 1.5 304, 90 deg, radius 95.25".

Words may stand in any order after the count and the kind. Bare figures are lengths in the person's unit.
"""

from __future__ import annotations

import re
from typing import Any, get_args

from pydantic import ValidationError

from ..core.errors import InputError
from ..core.records import KitLine, StockItem, StockKind
from ..core.units import parse_length
from ..facts import TUBE_METALS
from .design_json import first_fault

KINDS: tuple[str, ...] = get_args(StockKind)
EXAMPLE = "4 bend 63.5 x 1.5 304, 90 deg, radius 95.25, legs 100"

_LENGTH = r"((?:\d+ \d+/\d+|\d+/\d+|\d+(?:\.\d+)?|\.\d+)(?:\s*(?:mm|cm|in\b|\"))?)"
_FIGURES = {
    "angle_deg": re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)\s*(?:°|deg\w*)", re.IGNORECASE),
    "clr_mm": re.compile(rf"(?:radius|clr)\s+{_LENGTH}", re.IGNORECASE),
    "leg_mm": re.compile(rf"legs?\s+{_LENGTH}", re.IGNORECASE),
    "length_mm": re.compile(rf"(?:long|length)\s+{_LENGTH}", re.IGNORECASE),
}
_TUBE = re.compile(rf"{_LENGTH}\s*[x×]\s*{_LENGTH}", re.IGNORECASE)


def read_kit_lines(text: str, unit: str) -> tuple[KitLine, ...]:
    """The lines of a kit. Raises InputError naming the line and what it lacks."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    if not lines:
        raise InputError(f"say what is in it, a line for each thing: {EXAMPLE}")
    found = []
    for k, line in enumerate(lines, 1):
        try:
            found.append(_line(line, unit))
        except InputError as exc:
            raise InputError(f"line {k}: {exc}") from exc
        except ValidationError as exc:
            raise InputError(f"line {k}: {first_fault(exc)[1]}") from exc
    return tuple(found)


def _line(line: str, unit: str) -> KitLine:
    begin = re.match(r"(\d+)\s*(?:x\s+|×\s*)?(.*)", line)
    if begin is None:
        raise InputError(f"how many first, then what: {EXAMPLE}")
    rest = begin[2]
    kind = next((k for k in sorted(KINDS, key=len, reverse=True) if re.match(rf"{k}s?\b", rest, re.IGNORECASE)), None)
    if kind is None:
        raise InputError(f"what is it? one of {', '.join(KINDS)}")
    rest = re.sub(rf"^{kind}s?\b[\s,]*", "", rest, flags=re.IGNORECASE)
    values: dict[str, Any] = {"kind": kind}
    for key, pattern in _FIGURES.items():
        if figure := pattern.search(rest):
            text = figure[1].strip()
            values[key] = float(text) if key == "angle_deg" else parse_length(text, unit)
            rest = rest[: figure.start()] + rest[figure.end() :]
    if tube := _TUBE.search(rest):
        values["od_mm"], values["wall_mm"] = (parse_length(each.strip(), unit) for each in tube.groups())
        rest = rest[: tube.start()] + rest[tube.end() :]
    for material in TUBE_METALS:
        if re.search(rf"(?<![\w.]){material}(?![\w.])", rest, re.IGNORECASE):
            values["material"] = material
            rest = re.sub(rf"(?<![\w.]){material}(?![\w.])", "", rest, flags=re.IGNORECASE)
    values["name"] = " ".join(re.sub(r"[,;]", " ", rest).split())[:80]
    return KitLine(count=int(begin[1]), item=StockItem.model_validate(values))
