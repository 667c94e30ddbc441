"""A job's pieces and parts as a workbook: two sheets, figures as figures, no cell run as a formula."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from openpyxl import Workbook
from openpyxl.styles import Font

from ...core.nesting import PartsLine
from ..csv_cells import as_text
from .cut_rows import CutRow

PIECES = (
    "run",
    "piece",
    "what",
    "from",
    "length",
    "keep",
    "heel",
    "throat",
    "heel from the stock's end",
    "throat from the stock's end",
    "throat round the tube",
    "clock",
    "back",
    "bosses and branches",
    "note",
)
PARTS = ("what", "wanted", "unit", "on the shelf", "to buy", "to order", "supplier", "price each", "days", "note")


def write_workbook(runs: Sequence[tuple[str, Sequence[CutRow]]], parts: Sequence[PartsLine]) -> bytes:
    """Pieces of all runs, then the parts list."""
    book = Workbook()
    pieces = book.active
    pieces.title = "pieces"
    _row(pieces, PIECES)
    for name, rows in runs:
        for row in rows:
            marks = (row.heel, row.throat, row.heel_from_end, row.throat_from_end, row.round_the_tube)
            _row(
                pieces,
                (
                    name,
                    row.number,
                    row.what,
                    row.source,
                    row.length,
                    row.keep,
                    *marks,
                    row.clock,
                    row.station,
                    row.fixed,
                    row.note,
                ),
            )
    sheet = book.create_sheet("parts")
    _row(sheet, PARTS)
    for line in parts:
        _row(
            sheet,
            (
                line.words,
                line.wanted,
                line.unit,
                line.on_shelf,
                line.to_buy,
                line.to_order,
                line.supplier,
                line.each,
                line.lead_days,
                line.note,
            ),
        )
    for one in book.worksheets:
        one.freeze_panes = "A2"
        for cell in one[1]:
            cell.font = Font(bold=True)
        for column in one.columns:
            widest = max(len(str(cell.value or "")) for cell in column)
            one.column_dimensions[column[0].column_letter].width = min(48, widest + 2)
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _row(sheet: Any, values: Sequence[object]) -> None:
    """A line of cells; text that a program would run is made plain text."""
    sheet.append([as_text(value) if isinstance(value, str) else value for value in values])
