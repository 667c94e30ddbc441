"""The shop's shelf as a table: kind, name, measures as "od=63.5; long=300" in mm or deg, mass, metal, surface."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable
from dataclasses import dataclass

from pydantic import ValidationError

from ..core.errors import InputError
from ..core.hardware import SHELF, Stocked
from .csv_cells import as_text, as_typed

COLUMNS = ("kind", "name", "measures", "mass_kg", "metal", "surface")
MOST_LINES = 500


@dataclass(frozen=True)
class BadLine:
    """A line that was not taken, and why."""

    number: int
    reason: str


def write_shelf(items: Iterable[Stocked]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for item in items:
        measures = "; ".join(f"{key}={value:g}" for key, value in item.values.items())
        mass = "" if item.mass_kg is None else f"{item.mass_kg:g}"
        cells = (item.kind, item.name, measures, mass, item.metal or "", item.surface)
        writer.writerow([as_text(cell) for cell in cells])
    return out.getvalue()


def read_shelf(text: str) -> tuple[list[Stocked], list[BadLine]]:
    """Return the rows that were read, and every line that could not be. Raises InputError for another kind of table."""
    try:
        rows = [[as_typed(cell) for cell in row] for row in csv.reader(io.StringIO(text.lstrip("\ufeff")))]
    except csv.Error as exc:
        raise InputError(f"the quotes or commas of this table do not match ({exc})") from exc
    if not rows or [c.strip().lower() for c in rows[0]] != list(COLUMNS):
        raise InputError(f"the first line names the columns: {', '.join(COLUMNS)}")
    if len(rows) > MOST_LINES + 1:
        raise InputError(f"{len(rows) - 1} lines; at most {MOST_LINES} at once")
    good, bad = [], []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        try:
            good.append(_read(row))
        except (InputError, ValidationError) as exc:
            bad.append(BadLine(number, str(exc) if isinstance(exc, InputError) else exc.errors()[0]["msg"]))
    return good, bad


def _read(row: list[str]) -> Stocked:
    if len(row) != len(COLUMNS):
        raise InputError(f"{len(row)} columns, {len(COLUMNS)} wanted")
    kind, name, measures, mass, metal, surface = (cell.strip() for cell in row)
    if kind not in SHELF:
        raise InputError(f"no kind “{kind}”: one of {', '.join(SHELF)}")
    values = {}
    for pair in filter(None, (p.strip() for p in measures.split(";"))):
        key, _, text = pair.partition("=")
        try:
            values[key.strip()] = float(text)
        except ValueError:
            raise InputError(f"“{pair}” is not a measure like od=63.5") from None
    try:
        weight = float(mass) if mass else None
    except ValueError:
        raise InputError(f"“{mass}” is no mass in kg") from None
    item = {"kind": kind, "name": name, "values": values, "mass_kg": weight, "metal": metal or None}
    stocked = Stocked.model_validate(item | {"surface": surface or "bare"})
    stocked.item()  # a piece that cannot be made is refused here, not when it is wanted
    return stocked
