"""Cells of a table that a spreadsheet opens: what would be taken for a formula is written as text."""

from __future__ import annotations

FORMULA = ("=", "+", "@", "\t", "\r")


def as_text(cell: str) -> str:
    """A cell that no spreadsheet computes: one that begins like a formula gets an apostrophe in front."""
    starts = cell.startswith(FORMULA) or (cell.startswith("-") and not cell[1:2].isdecimal())
    return f"'{cell}" if starts else cell


def as_typed(cell: str) -> str:
    """The cell as it was before `as_text`."""
    return cell[1:] if cell.startswith("'") and as_text(cell[1:]) == cell else cell
