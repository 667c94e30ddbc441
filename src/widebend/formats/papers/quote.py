"""A quote on paper: offers with their lines and totals, cautions, until when it holds, and a line to sign on."""

from __future__ import annotations

import io
from collections.abc import Mapping
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from . import print_fonts

PAPERS = {"a4": A4, "letter": LETTER}


def write_quote(shop: str, content: Mapping[str, Any], number: int, sent: str, until: str, paper: str = "a4") -> bytes:
    """The quote as a PDF, from what was kept when it was sent. Raises KeyError for a paper that is not in PAPERS."""
    print_fonts.register()
    out = io.BytesIO()
    sides = dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 15 * mm)
    document = SimpleDocTemplate(out, pagesize=PAPERS[paper], title=f"Quote {number}", invariant=1, **sides)
    plain = ParagraphStyle("plain", fontName=print_fonts.PLAIN, fontSize=10, leading=13)
    bold = ParagraphStyle("bold", parent=plain, fontName=print_fonts.BOLD, fontSize=13, leading=18)
    story: list[Any] = [
        Paragraph(escape(f"{shop}: quote {number}"), bold),
        Paragraph(escape(f"{content['vehicle']} · {content['title']} · {content['road_use']} use"), plain),
        Paragraph(escape(f"Of {sent}, holds until {until}."), plain), Spacer(1, 3 * mm),
    ]  # fmt: skip
    if content.get("words"):
        story += [Paragraph(escape(content["words"]), plain), Spacer(1, 3 * mm)]
    for offer in content["offers"]:
        story.append(KeepTogether([Paragraph(escape(offer["name"]), bold), _lines(offer, content, plain)]))
        story.append(Spacer(1, 4 * mm))
    story += [Paragraph(f"! {escape(words)}", plain) for words in content["cautions"]]
    story += [
        Spacer(1, 10 * mm),
        Paragraph("Which offer, name, date, signature: ______________________________", plain),
    ]
    document.build(story)
    return out.getvalue()


def _lines(offer: Mapping[str, Any], content: Mapping[str, Any], plain: ParagraphStyle) -> Table:
    unit = content["currency"]
    rows = [[Paragraph(escape(f"{line['count']:g} {line['unit']}".strip()), plain),
             Paragraph(escape(line["words"]), plain), _money(line["price"])] for line in offer["lines"]]  # fmt: skip
    sums = offer["totals"]
    rows += [["", "net", _money(sums["net"])], ["", f"tax {100 * content['tax']:g} %", _money(sums["tax"])],
             ["", f"to pay {unit}".strip(), _money(sums["total"])],
             ["", f"of it before work begins, {100 * content['deposit']:g} %", _money(sums["deposit"])]]  # fmt: skip
    table = Table(rows, colWidths=[28 * mm, 112 * mm, 36 * mm], hAlign="LEFT")
    table.setStyle(TableStyle([
        ("FONT", (0, 0), (-1, -1), print_fonts.PLAIN, 10), ("ALIGN", (2, 0), (2, -1), "RIGHT"),
        ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LINEABOVE", (0, -4), (-1, -4), 0.5, "black"),
        ("FONT", (1, -2), (2, -2), print_fonts.BOLD, 11), ("TOPPADDING", (0, 0), (-1, -1), 1),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1),
    ]))  # fmt: skip
    return table


def _money(minor: int) -> str:
    whole, cents = divmod(abs(minor), 100)
    return f"{'-' if minor < 0 else ''}{whole:,}.{cents:02d}".replace(",", " ")
