"""Labels for cut pieces: what it is, which end faces the engine, and a QR to its card; on sheets of stickers."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass

import segno
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from . import print_fonts

# sheets of stickers as they are sold everywhere: page, across, down, label, left and top margin, gap across [mm]
SHEETS = {
    "a4": ((210.0, 297.0), 3, 8, (70.0, 37.0), 0.0, 0.5, 0.0),
    "letter": ((215.9, 279.4), 3, 10, (66.7, 25.4), 4.8, 12.7, 3.0),
}
PAD_MM, QUIET = 2.0, 2


@dataclass(frozen=True)
class PieceLabel:
    """One label: a big word, smaller lines, and where its QR leads."""

    title: str
    lines: tuple[str, ...]
    address: str


def write_labels(labels: Sequence[PieceLabel], sheet: str = "a4") -> bytes:
    """As many pages as it takes. Raises KeyError for a sheet that is not in SHEETS."""
    page, across, down, size, left, top, gap = SHEETS[sheet]
    print_fonts.register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(page[0] * mm, page[1] * mm), invariant=1)
    canvas.setTitle("Labels")
    canvas.setViewerPreference("PrintScaling", "None")
    for i, label in enumerate(labels):
        at = i % (across * down)
        if i and at == 0:
            canvas.showPage()
        x = left + (at % across) * (size[0] + gap)
        y = page[1] - top - (at // across + 1) * size[1]
        _label(canvas, label, x, y, size)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _label(canvas: Canvas, label: PieceLabel, x: float, y: float, size: tuple[float, float]) -> None:
    wide, high = size
    square = min(high - 2 * PAD_MM, 0.38 * wide)
    _qr(canvas, label.address, x + wide - PAD_MM - square, y + (high - square) / 2, square)
    room = wide - square - 4 * PAD_MM
    canvas.setFont(print_fonts.BOLD, 11)
    canvas.drawString(
        (x + PAD_MM + 1.5) * mm, (y + high - PAD_MM - 5.0) * mm, _cut(label.title, room, 11, print_fonts.BOLD)
    )
    canvas.setFont(print_fonts.PLAIN, 7.5)
    for k, line in enumerate(label.lines):
        low = y + high - PAD_MM - 10.0 - 3.4 * k
        if low < y + 1.5:
            break
        canvas.drawString((x + PAD_MM + 1.5) * mm, low * mm, _cut(line, room, 7.5))


def _cut(text: str, room_mm: float, points: float, font: str = print_fonts.PLAIN) -> str:
    """A line that fits: what does not is left out, with dots for it."""
    if print_fonts.width_mm(text, points, font) <= room_mm:
        return text
    while text and print_fonts.width_mm(text + "…", points, font) > room_mm:
        text = text[:-1]
    return text + "…"


def _qr(canvas: Canvas, address: str, x: float, y: float, square: float) -> None:
    rows = [list(row) for row in segno.make(address, error="m", micro=False).matrix_iter(border=QUIET)]
    each = square / len(rows)
    for r, row in enumerate(rows):
        for c, dark in enumerate(row):
            if dark:
                canvas.rect(
                    (x + c * each) * mm, (y + square - (r + 1) * each) * mm, each * mm, each * mm, stroke=0, fill=1
                )
