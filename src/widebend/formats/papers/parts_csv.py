"""The parts list of a job as a table: what is to buy by its supplier, then what the shelf has."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from ...core.nesting import PartsLine, by_supplier
from ..csv_cells import as_text

COLUMNS = ("supplier", "what", "to buy", "wanted", "on the shelf", "unit", "price each", "note")


def write_parts_csv(lines: Sequence[PartsLine]) -> str:
    """Comma separated, a line a part, with a heading; no cell is run as a formula."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(COLUMNS)
    bought = [line for group in by_supplier(lines).values() for line in group]
    for line in (*bought, *(one for one in lines if not one.to_buy)):
        figures = (f"{v:g}" for v in (line.to_buy, line.wanted, line.on_shelf))
        each = "" if line.each is None else f"{line.each:g}"
        texts = (as_text(text) for text in (line.supplier, line.words, *figures, line.unit, each, line.note))
        table.writerow(texts)
    return out.getvalue()
