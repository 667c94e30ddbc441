"""Lengths, angles and clock readings as people in the shop write them.

Inside the core a length is mm and an angle is degrees. A `Length` remembers what was typed, so that 2 1/2" is shown
back as 2 1/2" and never as 63.5.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from fractions import Fraction
from typing import Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from .errors import InputError

MM_PER_INCH = 25.4  # exact since the international yard and pound agreement of 1959
SAME_MM = 1e-6
SAME_SIZE_MM = 0.05  # diameters, walls and radii this near each other are one size
MOST_TYPED = 40
LONGEST_MM = 50_000.0  # nothing under a road vehicle is longer; catches a slipped decimal point

_FRACTION = r"(?:(?P<whole>\d+)[ -]+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)"
_DECIMAL = r"(?P<decimal>\d+(?:\.\d*)?|\.\d+)"
_UNIT = r"(?P<unit>mm|cm|m|in|inch|inches|\"|″|'')?"
_FEET = re.compile(r"^(?P<feet>\d+(?:\.\d+)?)\s*(?:'(?!')|′|ft\b)\s*(?P<rest>.*)$")
_LENGTH = re.compile(rf"^(?P<sign>[+-]?)\s*(?:{_FRACTION}|{_DECIMAL})\s*{_UNIT}$", re.IGNORECASE)
_COMMA = re.compile(r"(?<=\d),(?=\d{1,2}(?!\d)|\d{4})")
_NUMBER = re.compile(r"^[+-]?(?:\d+(?:\.\d*)?|\.\d+)$")
_TO_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH}
_WHAT_WORKS = 'write it like 63.5, 2 1/2", 1\' 4 3/8" or 10 mm'


class Length(float):
    """A length in mm that may carry the text a person typed for it.

    In JSON it is a plain number, or ``{"mm": 63.5, "typed": "2 1/2\\""}`` where a person typed it.
    """

    __slots__ = ("typed",)
    typed: str | None

    def __new__(cls, mm: float, typed: str | None = None) -> Length:
        value = super().__new__(cls, mm)
        value.typed = typed
        return value

    @classmethod
    def __get_pydantic_core_schema__(cls, source: Any, handler: GetCoreSchemaHandler) -> CoreSchema:
        number = core_schema.float_schema(allow_inf_nan=False, ge=-LONGEST_MM, le=LONGEST_MM, strict=True)
        pair = core_schema.typed_dict_schema(
            {
                "mm": core_schema.typed_dict_field(number),
                "typed": core_schema.typed_dict_field(core_schema.str_schema(max_length=MOST_TYPED)),
            },
            extra_behavior="forbid",
        )
        either = core_schema.tagged_union_schema(
            {"pair": pair, "number": number}, lambda v: "pair" if isinstance(v, dict) else "number"
        )
        return core_schema.no_info_wrap_validator_function(
            cls._read,
            either,
            # a length stays one within the program: an edit is looked at again without writing out its lengths
            serialization=core_schema.plain_serializer_function_ser_schema(
                lambda value, info: value if info.mode == "python" else cls._dump(value), info_arg=True
            ),
        )

    @classmethod
    def __get_pydantic_json_schema__(cls, schema: CoreSchema, handler: GetJsonSchemaHandler) -> dict[str, Any]:
        return {
            "description": "a length in mm, or with the text a person typed for it",
            "anyOf": [
                {"type": "number"},
                {
                    "type": "object",
                    "properties": {"mm": {"type": "number"}, "typed": {"type": "string"}},
                    "required": ["mm", "typed"],
                    "additionalProperties": False,
                },
            ],
        }

    @classmethod
    def _read(cls, value: Any, check: Callable[[Any], Any]) -> Length:
        if type(value) is cls and -LONGEST_MM <= value <= LONGEST_MM and len(value.typed or "") <= MOST_TYPED:
            return value
        # the schema's own number drops the subclass: a length goes to it as the pair it stands for
        found = check(cls._dump(value) if isinstance(value, Length) else value)
        return cls(found["mm"], found["typed"]) if isinstance(found, dict) else cls(found)

    @staticmethod
    def _dump(value: float) -> float | dict[str, float | str]:
        typed = getattr(value, "typed", None)
        return {"mm": float(value), "typed": typed} if typed else float(value)


def parse_length(text: str, unit: str = "mm", *, least: float | None = None, most: float | None = None) -> Length:
    """Read a length as it is written in the shop, in mm.

    `unit` ("mm" or "in") is what a bare number means; a fraction without a unit is always inches, since nobody
    writes fractions of a millimetre. `least` and `most` are bounds in mm.

    Raises InputError naming what was typed and what would be readable.

    >>> float(parse_length('2 1/2"')), float(parse_length("1' 4 3/8\\""))
    (63.5, 415.925)
    """
    typed = text.strip()
    mm = _read_length(typed, unit)
    if not math.isfinite(mm) or abs(mm) > LONGEST_MM:
        raise InputError(f"{_short(typed)} is more than {LONGEST_MM / 1000:.0f} m: {_WHAT_WORKS}")
    if least is not None and mm < least:
        raise InputError(f"{_short(typed)} is too small: {format_length(least, unit)} or more")
    if most is not None and mm > most:
        raise InputError(f"{_short(typed)} is too much: {format_length(most, unit)} or less")
    return Length(mm, typed)


def pointed(typed: str) -> str:
    """A length with a decimal comma as one with a point. A comma before three digits may stand for thousands: it stays,
    and whoever reads the length asks.

    >>> pointed("63,5"), pointed("1,500"), pointed("2 1/2")
    ('63.5', '1,500', '2 1/2')
    """
    return typed if "." in typed else _COMMA.sub(".", typed, count=1) if typed.count(",") == 1 else typed


def as_typed(length: float, unit: str = "mm") -> str | None:
    """Return the typed text of a length, where it means the same to somebody who types in `unit`; none otherwise.

    >>> as_typed(parse_length("63.5")), as_typed(parse_length("63.5"), "in"), as_typed(parse_length("2 1/2"), "in")
    ('63.5', None, '2 1/2')
    """
    typed = getattr(length, "typed", None)
    if not typed or abs(_read_length(typed, unit) - float(length)) > SAME_MM:
        return None
    return str(typed)


def _read_length(typed: str, unit: str) -> float:
    if not typed:
        raise InputError(f"nothing was entered: {_WHAT_WORKS}")
    if len(typed) > 40:
        raise InputError(f"{_short(typed)} is too long to be a length: {_WHAT_WORKS}")
    if feet := _FEET.match(typed):
        return float(feet["feet"]) * 12 * MM_PER_INCH + (_read_length(feet["rest"], "in") if feet["rest"] else 0.0)
    match = _LENGTH.match(pointed(typed))
    if not match:
        hint = "write it without the comma, or with a point for decimals" if "," in typed else _WHAT_WORKS
        raise InputError(f"{_short(typed)} is not a length: {hint}")
    sign = -1.0 if match["sign"] == "-" else 1.0
    if match["top"] is None:
        return sign * float(match["decimal"]) * _TO_MM[_plain_unit(match["unit"]) or unit]
    if int(match["bottom"]) == 0:
        raise InputError(f"{_short(typed)} divides by zero: {_WHAT_WORKS}")
    value = int(match["whole"] or 0) + Fraction(int(match["top"]), int(match["bottom"]))
    return sign * float(value) * _TO_MM[_plain_unit(match["unit"]) or "in"]


def _plain_unit(unit: str | None) -> str | None:
    if not unit:
        return None
    return unit.lower() if unit.lower() in ("mm", "cm", "m") else "in"


def _short(typed: str) -> str:
    return f"“{typed[:24]}…”" if len(typed) > 25 else f"“{typed}”"


def parse_number(text: str, what: str, least: float, most: float, unit: str = "") -> float:
    """Read a plain number between `least` and `most`; `what` names it in the message. Raises InputError."""
    typed = text.strip().rstrip("°").removesuffix(unit).removesuffix("deg").strip().replace(",", ".")
    if not typed:
        raise InputError(f"{what}: nothing was entered, write a number from {least:g} to {most:g}")
    if not _NUMBER.match(typed):
        raise InputError(f"{what}: {_short(typed)} is not a number, write one from {least:g} to {most:g}")
    value = float(typed)
    if not least <= value <= most:
        raise InputError(f"{what}: {_short(typed)} is outside {least:g} to {most:g}")
    return value


POWER_KW = {"kw": 1.0, "hp": 0.745699872, "bhp": 0.745699872, "ps": 0.73549875, "cv": 0.73549875}


def parse_power(text: str, least: float, most: float) -> float:
    """A power [kW], typed in kW, hp (mechanical) or PS (metric). Raises InputError.

    >>> parse_power("220", 1, 999), round(parse_power("300 hp", 1, 999), 1)
    (220.0, 223.7)
    """
    typed = text.strip().lower().replace(",", ".")
    unit = next((u for u in ("kw", "bhp", "hp", "ps", "cv") if typed.endswith(u)), "")
    try:
        value = float(typed.removesuffix(unit).strip()) * POWER_KW[unit or "kw"]
    except ValueError:
        value = math.nan
    if not least <= value <= most:
        raise InputError(f"a power from {least:g} to {most:g} kW, or with hp or PS behind it: 300 hp")
    return value


def parse_angle(text: str, what: str = "angle", least: float = -360.0, most: float = 360.0) -> float:
    """Read an angle in degrees. Raises InputError."""
    return parse_number(text, what, least, most)


def parse_clock(text: str) -> float:
    """Read a clock direction ("3", "1:15", "12:01.4", "12 o'clock") as degrees clockwise from 12.

    Raises InputError.

    >>> parse_clock("3:00"), parse_clock("12:30"), parse_clock("12:01,4")
    (90.0, 15.0, 0.7)
    """
    match = re.match(r"^(\d{1,2})(?::(\d{1,2}(?:[.,]\d{1,2})?))?\s*(?:o'?clock)?$", text.strip(), re.IGNORECASE)
    minutes = float((match[2] or "0").replace(",", ".")) if match else 60.0
    if not match or int(match[1]) > 12 or minutes >= 60.0:
        raise InputError(f"{_short(text.strip())} is not a clock direction: write it like 3, 1:15 or 12:30")
    return (int(match[1]) % 12) * 30.0 + minutes / 2.0


def format_clock(deg: float) -> str:
    """Degrees clockwise from 12 as h:mm, to five minutes (2.5 deg), as a person points.

    >>> format_clock(37.4), format_clock(359.9)
    ('1:15', '12:00')
    """
    minutes = round((deg % 360.0) * 2 / 5) * 5 % 720
    return f"{minutes // 60 or 12}:{minutes % 60:02d}"


def format_clock_exactly(deg: float) -> str:
    """A clock direction to type back: as `format_clock` says it where it lies there to a tenth of a degree, no finer
    than an angle finder reads, else with tenths of a minute (0.05 deg).

    >>> format_clock_exactly(0.08), format_clock_exactly(0.7), format_clock_exactly(359.8)
    ('12:00', '12:01.4', '11:59.6')
    """
    tenths = round((deg % 360.0) * 20) % 7200
    if min(tenths % 50, -tenths % 50) <= 2:
        return format_clock(deg)
    hours, rest = divmod(tenths, 600)
    return f"{hours or 12}:{rest // 10:02d}" + (f".{rest % 10}" if rest % 10 else "")


def format_length(mm: float, unit: str = "mm", digits: int = 1, *, suffix: bool = True) -> str:
    """A length for people: `unit` is "mm", "in" (decimal inches), "in16" or "in32" (fractions to 1/16 or 1/32).

    >>> format_length(63.5), format_length(63.5, "in16"), format_length(63.5, "in"), format_length(77.0, "in32")
    ('63.5 mm', '2 1/2 in', '2.5 in', '3 1/32 in')
    """
    if unit == "mm":
        text, tail = _rounded(mm, digits), " mm"
    elif unit == "in":
        text, tail = _rounded(mm / MM_PER_INCH, digits + 2), " in"
    else:
        text, tail = _fraction(mm / MM_PER_INCH, 32 if unit == "in32" else 16), " in"
    return text + tail if suffix else text


def _rounded(value: float, digits: int) -> str:
    """Half rounded away from zero, as people round: 95.25 is 95.3, never 95.2."""
    scaled = math.floor(abs(value) * 10**digits + 0.5 + 1e-9) / 10**digits
    return _trim(f"{math.copysign(scaled, value):.{digits}f}")


def _trim(text: str) -> str:
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text


def _fraction(inches: float, finest: int) -> str:
    parts = round(abs(inches) * finest)
    sign = "-" if inches < 0 and parts else ""
    whole, part = divmod(parts, finest)
    if not part:
        return f"{sign}{whole}"
    fraction = Fraction(part, finest)
    return f"{sign}{f'{whole} ' if whole else ''}{fraction.numerator}/{fraction.denominator}"


def format_angle(deg: float, digits: int = 1) -> str:
    """An angle for people, without needless zeros."""
    return _trim(f"{deg:.{digits}f}") + "°"


PSI_PA, FEET_M, MILE_KM = 6894.757293, 0.3048, 1.609344


def format_pressure(pa: float, unit: str = "mm") -> str:
    """A pressure for people: kPa, or psi where lengths are inches.

    >>> format_pressure(7100.0), format_pressure(7100.0, "in16"), format_pressure(42.0)
    ('7.1 kPa', '1.03 psi', '0.04 kPa')
    """
    value, digits, word = (pa / 1000, 1, "kPa") if unit == "mm" else (pa / PSI_PA, 2, "psi")
    if abs(value) < 1:
        digits = 2
    return f"{_trim(f'{value:.{digits}f}')} {word}"


def format_temperature(celsius: float, unit: str = "mm") -> str:
    """A temperature for people, to the degree: °C, or °F where lengths are inches.

    >>> format_temperature(500.0), format_temperature(500.0, "in")
    ('500 °C', '932 °F')
    """
    return f"{celsius:.0f} °C" if unit == "mm" else f"{celsius * 1.8 + 32:.0f} °F"


def format_road(kmh: float, unit: str = "mm") -> str:
    """A road speed: km/h, or mph where lengths are inches."""
    return f"{kmh:.0f} km/h" if unit == "mm" else f"{kmh / MILE_KM:.0f} mph"


def format_speed(m_s: float, unit: str = "mm") -> str:
    """A gas's speed: m/s, or ft/s where lengths are inches."""
    return f"{m_s:.0f} m/s" if unit == "mm" else f"{m_s / FEET_M:.0f} ft/s"
