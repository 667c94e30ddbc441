"""The cut list as CSV: one row a piece, always mm and degrees, UTF-8, comma, one heading line."""

from __future__ import annotations

import csv
import io
from dataclasses import asdict, fields

from ..core.cutting import CutList
from ..core.records import Design
from .cut_rows import CutRow, rows


def write_cut_csv(design: Design, cuts: CutList) -> str:
    """The cut list of a run. Cells that a spreadsheet would run as a formula are quoted with an apostrophe."""
    out = io.StringIO()
    writer = csv.DictWriter(out, [f.name for f in fields(CutRow)], lineterminator="\n")
    writer.writeheader()
    for row in rows(design, cuts):
        writer.writerow({key: _safe(str(value)) for key, value in asdict(row).items()})
    return out.getvalue()


def _safe(cell: str) -> str:
    formula = cell.startswith(("=", "+", "@")) or (cell.startswith("-") and not cell[1:2].isdigit())
    return "'" + cell if formula else cell
