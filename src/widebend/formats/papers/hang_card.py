"""The hang card for the floor: hangers front first, each with rubber, load, place, rod, bracket; what to look at."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from . import print_fonts

PAPERS = {"a4": A4, "letter": LETTER}
ORDER = (
    "Front first, near the tight place and behind the flex: what is added behind cannot move it then.",
    "Tack the rods. Let the jack down until every rubber carries, the muffler's whole weight on.",
    "Look: every rubber plumb, none against metal, none twisted; gaps as the sheet says.",
    "Only now finish-weld the hangers. No welding to the body sheet, none on a rubber that is in.",
    "Bounce it, rock the engine, listen; look again when it has been hot.",
)


@dataclass(frozen=True)
class HangLine:
    """One hanger on the card: its name, figures as (words, value), and the rod's bends as rows of words."""

    title: str
    figures: tuple[tuple[str, str], ...]
    bends: tuple[tuple[str, ...], ...]
    caution: str = ""


def write_hang_card(heading: str, lines: Sequence[HangLine], notes: Sequence[str], paper: str = "a4") -> bytes:
    """The card as a PDF. Raises KeyError for a paper that is not in PAPERS."""
    print_fonts.register()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=PAPERS[paper],
        leftMargin=15 * mm,
        rightMargin=15 * mm,
        topMargin=14 * mm,
        bottomMargin=14 * mm,
        title="Hang card",
        invariant=1,
    )
    plain = ParagraphStyle("plain", fontName=print_fonts.PLAIN, fontSize=10, leading=13)
    bold = ParagraphStyle("bold", parent=plain, fontName=print_fonts.BOLD, fontSize=13, leading=17)
    story: list[Any] = [Paragraph(escape(f"Hang card · {heading}"), bold), Spacer(1, 3 * mm)]
    for number, one in enumerate(lines, 1):
        story.append(KeepTogether(_hanger(number, one, plain, bold)))
    story.append(Paragraph("In this order", bold))
    story += [Paragraph(f"☐ {escape(words)}", plain) for words in (*ORDER, *notes)]
    document.build(story)
    return out.getvalue()


def _hanger(number: int, one: HangLine, plain: ParagraphStyle, bold: ParagraphStyle) -> list[Any]:
    made: list[Any] = [Paragraph(escape(f"{number}. {one.title}"), bold)]
    cells = [
        [Paragraph(escape(words), plain), Paragraph(f"<b>{escape(value)}</b>", plain)] for words, value in one.figures
    ]
    table = Table(cells, colWidths=[50 * mm, 120 * mm], hAlign="LEFT")
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("TOPPADDING", (0, 0), (-1, -1), 1),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 1),
            ]
        )
    )
    made.append(table)
    if one.bends:
        rows = [[Paragraph(escape(cell), plain) for cell in row] for row in one.bends]
        bends = Table(rows, colWidths=[55 * mm, 45 * mm, 35 * mm, 35 * mm], hAlign="LEFT")
        bends.setStyle(TableStyle([("LINEBELOW", (0, 0), (-1, -1), 0.25, "grey")]))
        made.append(bends)
    if one.caution:
        made.append(Paragraph(escape(f"! {one.caution}"), plain))
    made.append(Spacer(1, 4 * mm))
    return made
