"""A quote on paper: offers with their lines and totals, cautions, until when it holds, and a line to sign on."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ...core.quoting import money
from . import print_fonts

PAPERS = {"a4": A4, "letter": LETTER}


def write_quote(shop: str, content: Mapping[str, Any], number: int, sent: str, until: str, paper: str = "a4") -> bytes:
    """The quote as a PDF, from what was kept when it was sent. Raises KeyError for a paper that is not in PAPERS."""
    plain, bold = styles()
    out = io.BytesIO()
    sides = dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 15 * mm)
    document = SimpleDocTemplate(out, pagesize=PAPERS[paper], title=f"Quote {number}", invariant=1, **sides)
    story: list[Any] = [
        Paragraph(escape(f"{shop}: {_called(content, number)}"), bold),
        Paragraph(escape(f"{content['vehicle']} · {content['title']} · {content['road_use']} use"), plain),
        Paragraph(escape(f"Of {sent}, holds until {until}."), plain),
        Spacer(1, 3 * mm),
    ]
    if content.get("rough"):
        story.append(Paragraph("Rough: priced by a similar system, before this one is designed.", plain))
    if content.get("words"):
        story += [Paragraph(escape(content["words"]), plain), Spacer(1, 3 * mm)]
    for offer in content["offers"]:
        story.append(KeepTogether([Paragraph(escape(offer["name"]), bold), offer_table(offer, content, plain)]))
        story.append(Spacer(1, 4 * mm))
    if content.get("against"):
        story += [Paragraph("Changed against what was agreed on", bold), changes_table(content["against"], plain)]
        story.append(Spacer(1, 4 * mm))
    story += [Paragraph(f"! {escape(words)}", plain) for words in content["cautions"]]
    to_sign = "Which offer, name, date, signature: ______________________________"
    story += [Spacer(1, 10 * mm), Paragraph(to_sign, plain)]
    document.build(story)
    return out.getvalue()


def _called(content: Mapping[str, Any], number: int) -> str:
    """Return the paper's title: a quote, or the order of a change to one that was agreed on."""
    return f"change order {number}, to quote {content['changes']}" if content.get("changes") else f"quote {number}"


def changes_table(changes: Sequence[tuple[str, int, int]], plain: ParagraphStyle) -> Table:
    """Lines that cost another amount than was agreed on: then and now."""
    return pairs_table([(words, f"{money(was)} became {money(now)}") for words, was, now in changes], plain)


def pairs_table(pairs: Sequence[tuple[str, str]], plain: ParagraphStyle) -> Table:
    """What, and what is said of it."""
    cells = [[Paragraph(escape(a), plain), Paragraph(escape(b), plain)] for a, b in pairs] or [["", ""]]
    table = Table(cells, colWidths=[80 * mm, 98 * mm], hAlign="LEFT")
    every = (0, 0), (-1, -1)
    table.setStyle(
        TableStyle(
            [
                ("VALIGN", *every, "TOP"),
                ("TOPPADDING", *every, 1),
                ("BOTTOMPADDING", *every, 1),
                ("LINEBELOW", *every, 0.25, "grey"),
            ]
        )
    )
    return table


def styles() -> tuple[ParagraphStyle, ParagraphStyle]:
    """Plain text and headings of the office's papers."""
    print_fonts.register()
    plain = ParagraphStyle("plain", fontName=print_fonts.PLAIN, fontSize=10, leading=13)
    return plain, ParagraphStyle("bold", parent=plain, fontName=print_fonts.BOLD, fontSize=13, leading=18)


def offer_table(offer: Mapping[str, Any], content: Mapping[str, Any], plain: ParagraphStyle) -> Table:
    """An offer's lines and what they come to; a deposit where one is asked."""
    unit = content["currency"]
    rows: list[list[Any]] = []
    for line in offer["lines"]:
        count = Paragraph(escape(f"{line['count']:g} {line['unit']}".strip()), plain)
        rows.append([count, Paragraph(escape(line["words"]), plain), money(line["price"])])
    sums = offer["totals"]
    rows += [
        ["", "net", money(sums["net"])],
        ["", f"tax {100 * content['tax']:g} %", money(sums["tax"])],
        ["", f"to pay {unit}".strip(), money(sums["total"])],
    ]
    if content["deposit"]:
        share = f"of it before work begins, {100 * content['deposit']:g} %"
        rows.append(["", share, money(sums["deposit"])])
    if content.get("paid"):
        rows += [
            ["", "paid already", money(content["paid"])],
            ["", f"left to pay {unit}".strip(), money(sums["total"] - content["paid"])],
        ]
    last = len(rows) - len(offer["lines"])
    table = Table(rows, colWidths=[28 * mm, 112 * mm, 36 * mm], hAlign="LEFT")
    table.setStyle(
        TableStyle(
            [
                ("FONT", (0, 0), (-1, -1), print_fonts.PLAIN, 10),
                ("ALIGN", (2, 0), (2, -1), "RIGHT"),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEABOVE", (0, -last), (-1, -last), 0.5, "black"),
                ("FONT", (1, 2 - last), (2, 2 - last), print_fonts.BOLD, 11),
                ("TOPPADDING", (0, 0), (-1, -1), 1),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 1),
            ]
        )
    )
    return table
