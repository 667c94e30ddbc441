"""Known figures beside photos of tags, typed and read: the bar, tapes, places, the rails' heights, names."""

from __future__ import annotations

import re
from collections.abc import Mapping

from flask import g

from ...core.errors import EditError
from ...core.photos import job_of
from ...core.units import format_length, parse_length
from ...store.tag_photos import TagKnown
from ..page.figures import typing_unit

LINE = re.compile(r"^\s*(\d+)\s*[:=,]?\s*(.+?)\s*$")


def typed(known: TagKnown) -> dict[str, str]:
    """Return the known figures as typed: a line for each."""

    def bare(mm: float) -> str:
        return format_length(mm, g.unit, 1, suffix=False)

    return {
        "bar": bare(known.bar_mm) if known.bar_mm else "",
        "tapes": "\n".join(f"{a} {b} {bare(mm)}" for a, b, mm in known.tapes),
        "places": "\n".join(f"{n} {' '.join(map(bare, place))}" for n, place in known.places.items()),
        "heights": " ".join(map(bare, known.rail_heights_mm)) if known.rail_heights_mm else "",
        "names": "\n".join(f"{n} {name}" for n, name in known.names.items()),
        "on_wheels": "yes" if known.on_wheels else "",
    }


def read_known(form: Mapping[str, str]) -> TagKnown:
    """Return the typed figures but for spots. Raises EditError at the field."""
    bar = _lengths(form, "bar", 1, least=80.0, most=120.0)
    heights = _lengths(form, "heights", 2, least=50.0, most=3000.0)
    tapes = tuple((int(a), int(b), mm) for (a, b), (mm,) in _rows(form, "tapes", 2, 1))
    places = {number: (at[0], at[1], at[2]) for (number,), at in _rows(form, "places", 1, 3)}
    return TagKnown(
        bar[0] if bar else None,
        tapes,
        places,
        (heights[0], heights[1]) if heights else None,
        _names(form),
        form.get("on_wheels") == "yes",
    )


def _names(form: Mapping[str, str]) -> dict[int, str]:
    names = {}
    for line in form.get("names", "").splitlines():
        found = LINE.match(line)
        if line.strip() and (found is None or job_of(int(found[1][:6])) is None):
            raise EditError(f"“{line.strip()[:40]}”: a tag's number, then what it is on", "names")
        if found and line.strip():
            names[int(found[1])] = found[2][:80]
    return names


def _lengths(form: Mapping[str, str], key: str, count: int, least: float, most: float) -> list[float]:
    """This many lengths in one field, or none. Raises EditError."""
    parts = form.get(key, "").split()
    if parts and len(parts) != count:
        raise EditError(f"{count} length{'s' if count > 1 else ''}, or nothing", key)
    try:
        return [float(parse_length(part, typing_unit(), least=least, most=most)) for part in parts]
    except ValueError as exc:
        raise EditError(str(exc), key) from exc


def _rows(form: Mapping[str, str], key: str, tags: int, lengths: int) -> list[tuple[list[int], list[float]]]:
    """Lines of tags' numbers, then lengths. Raises EditError naming the line."""
    rows = []
    for line in form.get(key, "").splitlines():
        parts = line.replace(",", " ").split()
        if not parts:
            continue
        numbers = [int(part) for part in parts[:tags] if part.isdecimal() and len(part) < 5]
        if len(parts) != tags + lengths or len(numbers) != tags or any(job_of(n) is None for n in numbers):
            wanted = f"{tags} tag number{'s' if tags > 1 else ''}, then {lengths} length{'s' if lengths > 1 else ''}"
            raise EditError(f"“{line.strip()[:40]}”: {wanted}", key)
        try:
            rows.append(
                (
                    numbers,
                    [float(parse_length(part, typing_unit(), least=-20_000.0, most=20_000.0)) for part in parts[tags:]],
                )
            )
        except ValueError as exc:
            raise EditError(f"“{line.strip()[:40]}”: {exc}", key) from exc
    return rows
