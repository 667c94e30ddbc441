"""The design file: JSON in the published schema (docs/formats/widebend-design.schema.json)."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from ..core.errors import DesignError
from ..core.records import FORMAT, VERSION, Design, Survey

MOST_BYTES = 2_000_000  # the fullest demo is under 60 kB; a file of this size is not a design


def read_design(data: bytes) -> Design:
    """A design from a file's bytes. Raises DesignError with the place inside the file and the reason."""
    document = json_object(data, MOST_BYTES, "design")
    kind, version = document.get("format"), document.get("version")
    if kind != FORMAT:
        raise DesignError("format", f"this is not a Wide Bend design: wanted “{FORMAT}”, got {_brief(kind)}")
    if version != VERSION:
        raise DesignError("version", f"this program reads version {VERSION}, the file is version {_brief(version)}")
    return design_from(document)


def json_object(data: bytes, most: int, what: str) -> dict[str, Any]:
    """A JSON object from a file's bytes, at most `most` of them; `what` it should be. Raises DesignError."""
    if len(data) > most:
        raise DesignError("", f"the file is {len(data) / 1e6:.1f} MB; a {what} is at most {most / 1e6:.0f} MB")
    try:
        document = json.loads(data.decode("utf-8-sig"), parse_constant=_no_constant)
    except UnicodeDecodeError as exc:
        raise DesignError("", "the file is not text in UTF-8") from exc
    except json.JSONDecodeError as exc:
        raise DesignError(f"line {exc.lineno}, column {exc.colno}", f"this is not JSON: {exc.msg}") from exc
    except DesignError:
        raise
    except ValueError as exc:  # a whole number of more digits than any length has
        raise DesignError("", f"a number in the file is longer than any in a {what}") from exc
    except RecursionError as exc:
        raise DesignError("", f"the file is nested deeper than any {what}") from exc
    if not isinstance(document, dict):
        raise DesignError("", f"a {what} is a JSON object, this is something else")
    return document


def _no_constant(name: str) -> float:
    raise DesignError("", f"{name} is not a number such a file can hold")


def _brief(value: object) -> str:
    text = json.dumps(value, default=str)
    return text if len(text) < 40 else text[:37] + "…"


def design_from(document: dict[str, Any]) -> Design:
    """A design from parsed JSON. Raises DesignError naming the first place that is wrong."""
    try:
        return Design.model_validate(document)
    except ValidationError as exc:
        place, reason = first_fault(exc)
        raise DesignError(place, reason) from exc


def first_fault(exc: ValidationError) -> tuple[str, str]:
    """Place and reason of the first thing wrong, in plain words."""
    fault = exc.errors(include_url=False)[0]
    loc = fault["loc"]
    steps = [str(step) for i, step in enumerate(loc) if not (i and str(step) in _TAGS and _is_tag(loc, i))]
    return ".".join(steps), _plain(fault["msg"])


# names of union members, which pydantic puts into a place and a person does not know
_TAGS = {"number", "pair", "leg", "bend", "mitre", "pie", "part", "box", "capsule", "cylinder", "sphere", "half-space"}


def _is_tag(loc: tuple[int | str, ...], i: int) -> bool:
    """A union's tag follows an index or a field that holds a union; field names of our own never collide there."""
    return isinstance(loc[i - 1], int) or loc[i - 1] == "shape" or str(loc[i]) in ("number", "pair")


def _plain(message: str) -> str:
    message = message.removeprefix("Value error, ")
    return message[0].lower() + message[1:] if message[:5] == "Input" else message


def write_design(design: Design) -> bytes:
    """A design as the bytes of its file: stable order, two spaces, newline at the end."""
    return (json.dumps(design.model_dump(mode="json", exclude_none=True), indent=2, ensure_ascii=False) + "\n").encode()


def survey_from(document: dict[str, Any]) -> Survey:
    """A survey from parsed JSON. Raises DesignError."""
    try:
        return Survey.model_validate(document)
    except ValidationError as exc:
        place, reason = first_fault(exc)
        raise DesignError(place, reason) from exc


def schema() -> dict[str, Any]:
    """The JSON Schema of a design file, as published in docs/formats/."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Design.model_json_schema(mode="validation"),
    }
