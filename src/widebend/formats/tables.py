"""A list as a workbook: one sheet, figures as figures, no cell run as a formula."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import date
from typing import Any

from .csv_cells import as_text


def write_table(title: str, rows: Sequence[Sequence[Any]]) -> bytes:
    """Rows with their heading first."""
    from openpyxl import Workbook
    from openpyxl.styles import Font

    book = Workbook(write_only=False)
    sheet = book.active
    assert sheet is not None  # a new workbook has one
    sheet.title = title
    for row in rows:
        sheet.append([cell if isinstance(cell, int | float | date) else as_text(str(cell)) for cell in row])
    for cell in sheet[1]:
        cell.font = Font(bold=True)
    sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()
