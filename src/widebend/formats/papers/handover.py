"""The pack a customer takes along: what was fitted, the checks, sound, aftercare, and the invoice with what changed."""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from xml.sax.saxutils import escape

from reportlab.lib.units import mm
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer

from .quote import PAPERS, changes_table, offer_table, pairs_table, styles


@dataclass(frozen=True)
class HandOverPack:
    """Return its content: fitted lines and checks as (what, words), the invoice as (number, day, content)."""

    shop: str
    heading: str
    fitted: Sequence[tuple[str, str]]
    checks: Sequence[tuple[str, str]]
    sound: str
    words: str
    aftercare: Sequence[str]
    invoice: tuple[int, str, Mapping[str, Any]] | None


def write_pack(pack: HandOverPack, paper: str = "a4") -> bytes:
    """The pack as a PDF. Raises KeyError for a paper that is not in PAPERS."""
    plain, bold = styles()
    out = io.BytesIO()
    sides = dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 15 * mm)
    document = SimpleDocTemplate(out, pagesize=PAPERS[paper], title="Hand-over", invariant=1, **sides)
    story: list[Any] = [Paragraph(escape(f"{pack.shop}: hand-over"), bold), Paragraph(escape(pack.heading), plain)]
    if pack.words:
        story += [Spacer(1, 3 * mm), Paragraph(escape(pack.words), plain)]
    story += [Spacer(1, 4 * mm), Paragraph("What was fitted", bold), pairs_table(pack.fitted, plain)]
    story += [
        Spacer(1, 4 * mm),
        Paragraph("What was looked at", bold),
        pairs_table([(words, by or "NOT DONE") for words, by in pack.checks], plain),
    ]
    if pack.sound:
        story += [Spacer(1, 4 * mm), Paragraph("Sound", bold), Paragraph(escape(pack.sound), plain)]
    story += [Spacer(1, 4 * mm), Paragraph("From now on", bold)]
    story += [Paragraph(escape(words), plain) for words in pack.aftercare]
    if pack.invoice:
        number, day, content = pack.invoice
        about = f"{content['customer']} · {content['vehicle']} · {content['title']} · {day}"
        story += [
            PageBreak(),
            Paragraph(escape(f"{pack.shop}: invoice {number}"), bold),
            Paragraph(escape(about), plain),
            Spacer(1, 3 * mm),
            offer_table(content["offers"][0], content, plain),
        ]
        if content["against"]:
            story += [Spacer(1, 4 * mm), Paragraph("Against what was agreed on", bold)]
            story.append(changes_table(content["against"], plain))
    document.build(story)
    return out.getvalue()
