"""The cut list as CSV: one row a piece, always mm and degrees, UTF-8, comma, one heading line."""

from __future__ import annotations

import csv
import io
from dataclasses import asdict, fields

from ...core.cutting import CutList
from ...core.records import Design
from ..csv_cells import as_text
from .cut_rows import CutRow, rows


def write_cut_csv(design: Design, cuts: CutList) -> str:
    """The cut list of a run. Cells that a spreadsheet would run as a formula are quoted with an apostrophe."""
    out = io.StringIO()
    writer = csv.DictWriter(out, [f.name for f in fields(CutRow)], lineterminator="\n")
    writer.writeheader()
    for row in rows(design, cuts):
        writer.writerow({key: as_text(str(value)) for key, value in asdict(row).items()})
    return out.getvalue()
