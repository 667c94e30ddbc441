"""A body-hole template as PDF at true size: print without scaling, check the bar with a rule."""

from __future__ import annotations

import io

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ...core.review import TipSeen, hole_outline
from ...core.units import format_length
from . import print_fonts

LEAST_PAGE_MM = (210.0, 297.0)
MARGIN_MM = 20.0


def write_template(title: str, tip: TipSeen, gap_mm: float, unit: str = "mm") -> bytes:
    """One page, A4 or as large as the hole wants, with the hole, its cross hairs and a 100 mm bar."""
    hole = hole_outline(tip, gap_mm)
    across = 2 * float(abs(hole).max())
    page = max(LEAST_PAGE_MM[0], across + 2 * MARGIN_MM), max(LEAST_PAGE_MM[1], across + 3 * MARGIN_MM + 40.0)
    print_fonts.register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(page[0] * mm, page[1] * mm), pageCompression=0)
    canvas.setTitle(title)
    canvas.translate(page[0] / 2 * mm, (page[1] / 2 - 5.0) * mm)
    canvas.setLineWidth(0.25 * mm)
    path = canvas.beginPath()
    path.moveTo(hole[0, 0] * mm, hole[0, 1] * mm)
    for x, y in hole[1:]:
        path.lineTo(x * mm, y * mm)
    path.close()
    canvas.drawPath(path)
    canvas.setDash(2 * mm, 1 * mm)
    canvas.circle(0, 0, tip.od_mm / 2 * mm)
    if len(tip.outline):
        edge = tip.outline - tip.middle
        canvas.setDash(0.5 * mm, 1 * mm)
        canvas.lines(
            [(a[0] * mm, a[1] * mm, b[0] * mm, b[1] * mm) for a, b in zip(edge, [*edge[1:], edge[0]], strict=True)]
        )
    canvas.setDash()
    far = across / 2 + 8.0
    canvas.line(-far * mm, 0, far * mm, 0)
    canvas.line(0, -far * mm, 0, far * mm)
    _words(canvas, title, tip, gap_mm, unit, page)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _words(canvas: Canvas, title: str, tip: TipSeen, gap_mm: float, unit: str, page: tuple[float, float]) -> None:
    top, left = (page[1] / 2 + 5.0 - MARGIN_MM), -page[0] / 2 + MARGIN_MM
    canvas.setFont(print_fonts.BOLD, 12)
    canvas.drawString(left * mm, top * mm, f"{title}: hole for the {tip.name}")
    canvas.setFont(print_fonts.PLAIN, 10)
    hole = format_length(tip.od_mm + 2 * gap_mm, unit)
    lines = (f"Hole {hole}; tip {format_length(tip.od_mm, unit)} (dashed); {format_length(gap_mm, unit)} all round.",
             f"Middle {format_length(tip.middle[0], unit)} right of centre, {format_length(tip.middle[1], unit)} up.",
             "Print at 100 %, not fitted to the page: the bar is 100 mm. Dotted: the cut-out as measured.")  # fmt: skip
    for i, line in enumerate(lines):
        canvas.drawString(left * mm, (top - 6.0 - 5.0 * i) * mm, line)
    low = -page[1] / 2 + 5.0 + MARGIN_MM
    canvas.line(left * mm, low * mm, (left + 100.0) * mm, low * mm)
    for x in (left, left + 100.0):
        canvas.line(x * mm, (low - 2) * mm, x * mm, (low + 2) * mm)
