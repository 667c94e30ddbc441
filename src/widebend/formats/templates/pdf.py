"""A template as PDF: at true size on one sheet, or on as many as it takes, with an overlap and marks to join them."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ...core.errors import InputError
from ...core.templates import Stroke, Template
from ..papers import print_fonts

PAPERS_MM = {"a4": (210.0, 297.0), "letter": (215.9, 279.4)}
MARGIN_MM = 10.0  # what printers leave white
HEAD_MM, FOOT_MM = 26.0, 14.0  # room for words above, for the bars below
LAP_MM = 12.0  # one sheet lies over the next by so much
MOST_SHEETS = 60
WIDTHS_MM = {"cut": 0.3, "fold": 0.25, "line": 0.13}


@dataclass(frozen=True)
class Tiling:
    """How a template falls on sheets: their size, what each shows, how many across and down."""

    page_mm: tuple[float, float]
    shown_mm: tuple[float, float]
    across: int
    down: int


def tiling(template: Template, paper: str) -> Tiling:
    """The way round (upright or lying) that takes fewer sheets. Raises InputError for too many, KeyError for a paper
    that is not in PAPERS_MM.
    """
    wide, high = (template.high - template.low).tolist()
    upright = PAPERS_MM[paper]
    ways = [_tiling(page, wide, high) for page in (upright, upright[::-1])]
    best = min(ways, key=lambda t: t.across * t.down)
    if best.across * best.down > MOST_SHEETS:
        many = f"it takes {best.across * best.down} sheets of paper, {MOST_SHEETS} at most"
        raise InputError(f"{many}: take the DXF to a plotter or a cutter", "paper")
    return best


def _tiling(page: tuple[float, float], wide: float, high: float) -> Tiling:
    shown = page[0] - 2 * MARGIN_MM, page[1] - 2 * MARGIN_MM - HEAD_MM - FOOT_MM
    count = [
        1 if need <= room else math.ceil((need - LAP_MM) / (room - LAP_MM))
        for need, room in ((wide, shown[0]), (high, shown[1]))
    ]
    return Tiling(page, shown, count[0], count[1])


def write_pdf(template: Template, heading: str, paper: str = "a4") -> bytes:
    """All sheets of a template. Raises InputError where it takes too many."""
    tiles = tiling(template, paper)
    print_fonts.register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(tiles.page_mm[0] * mm, tiles.page_mm[1] * mm), pageCompression=0, invariant=1)
    canvas.setTitle(f"{heading}: {template.title}")
    canvas.setViewerPreference("PrintScaling", "None")
    for row in range(tiles.down):
        for column in range(tiles.across):
            _sheet(canvas, template, heading, tiles, row, column)
            canvas.showPage()
    canvas.save()
    return out.getvalue()


def _sheet(canvas: Canvas, template: Template, heading: str, tiles: Tiling, row: int, column: int) -> None:
    """One sheet: rows from the top. What overlaps is drawn on both."""
    wide, high = tiles.shown_mm
    left, low = MARGIN_MM, MARGIN_MM + FOOT_MM
    size = template.high - template.low
    # alone it stands in the middle; of several each begins where the last ended, less the overlap
    x0 = template.low[0] + column * (wide - LAP_MM) if tiles.across > 1 else template.low[0] - (wide - size[0]) / 2
    top = template.high[1] - row * (high - LAP_MM) if tiles.down > 1 else template.high[1] + (high - size[1]) / 2
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(left * mm, low * mm, wide * mm, high * mm)
    canvas.clipPath(clip, stroke=0)
    canvas.translate((left - x0) * mm, (low + high - top) * mm)
    for stroke in template.strokes:
        _draw(canvas, stroke)
    for word in template.words:
        canvas.setFont(print_fonts.PLAIN, word.high_mm * mm)
        canvas.drawString(word.x * mm, word.y * mm, word.text)
    canvas.restoreState()
    if tiles.across * tiles.down > 1:
        _joins(canvas, tiles, row, column)
    _words(canvas, template, heading, tiles, row, column)
    _bars(canvas)


def _draw(canvas: Canvas, stroke: Stroke) -> None:
    canvas.setLineWidth(WIDTHS_MM[stroke.kind] * mm)
    canvas.setDash(*([2 * mm, 1 * mm], 0) if stroke.kind == "fold" else ([], 0))
    path = canvas.beginPath()
    path.moveTo(*(stroke.points[0] * mm).tolist())
    for x, y in (stroke.points[1:] * mm).tolist():
        path.lineTo(x, y)
    if stroke.closed:
        path.close()
    canvas.drawPath(path)


def _joins(canvas: Canvas, tiles: Tiling, row: int, column: int) -> None:
    """The frame of a sheet, and where the next one's edge comes to lie on it."""
    left, low = MARGIN_MM, MARGIN_MM + FOOT_MM
    wide, high = tiles.shown_mm
    canvas.setLineWidth(0.1 * mm)
    canvas.setDash([1 * mm, 1 * mm], 0)
    canvas.rect(left * mm, low * mm, wide * mm, high * mm)
    canvas.setFont(print_fonts.PLAIN, 6)
    if column + 1 < tiles.across:
        x = (left + wide - LAP_MM) * mm
        canvas.line(x, low * mm, x, (low + high) * mm)
        canvas.drawString(x + 1, low * mm + 2, f"{row + 1}.{column + 2} from here")
    if row + 1 < tiles.down:
        y = (low + LAP_MM) * mm
        canvas.line(left * mm, y, (left + wide) * mm, y)
        canvas.drawString(left * mm + 2, y - 7, f"{row + 2}.{column + 1} from here")
    canvas.setDash([], 0)


def _words(canvas: Canvas, template: Template, heading: str, tiles: Tiling, row: int, column: int) -> None:
    top = tiles.page_mm[1] - MARGIN_MM
    canvas.setFont(print_fonts.BOLD, 11)
    canvas.drawString(MARGIN_MM * mm, (top - 4.0) * mm, template.title)
    canvas.setFont(print_fonts.PLAIN, 8)
    many = tiles.across * tiles.down > 1
    sheet = (
        f"sheet {row + 1}.{column + 1} of {tiles.down} down, {tiles.across} across; lay each on the dashes"
        if many
        else ""
    )
    room = tiles.page_mm[0] - 2 * MARGIN_MM
    lines = [line for note in template.notes for line in _folded(note, room)]
    for i, line in enumerate([" · ".join(x for x in (heading, sheet if many else "") if x), *lines][:5]):
        canvas.drawString(MARGIN_MM * mm, (top - 8.5 - 3.6 * i) * mm, line)


def _folded(text: str, room_mm: float) -> list[str]:
    """A note in as many lines as it takes at the size of the notes."""
    lines, line = [], ""
    for word in text.split():
        longer = f"{line} {word}".strip()
        if line and print_fonts.width_mm(longer, 8) > room_mm:
            lines.append(line)
            line = word
        else:
            line = longer
    return [*lines, line]


def _bars(canvas: Canvas) -> None:
    """100 mm and 4 in to lay a rule on."""
    canvas.setLineWidth(0.2 * mm)
    canvas.setFont(print_fonts.PLAIN, 7)
    for y, long, words in ((MARGIN_MM + 7.0, 100.0, "100 mm"), (MARGIN_MM + 2.0, 101.6, "4 in")):
        canvas.line(MARGIN_MM * mm, y * mm, (MARGIN_MM + long) * mm, y * mm)
        for x in (0.0, long / 4, long / 2, 3 * long / 4, long):
            canvas.line((MARGIN_MM + x) * mm, (y - 1.5) * mm, (MARGIN_MM + x) * mm, (y + 1.5) * mm)
        canvas.drawString((MARGIN_MM + long + 2.0) * mm, (y - 1.0) * mm, words)
    canvas.drawString((MARGIN_MM + 118.0) * mm, (MARGIN_MM + 4.0) * mm, "print at 100 %, not fitted to the page")
