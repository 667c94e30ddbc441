"""The fonts of printed sheets: shipped with the program, so that a name in any of their alphabets prints as it is."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

HERE = Path(__file__).parent / "fonts"
PLAIN, BOLD = "Sheet", "Sheet-Bold"


@cache
def register() -> None:
    """Make the fonts known to the PDF writer, once."""
    for name, file in ((PLAIN, "DejaVuSansCondensed.ttf"), (BOLD, "DejaVuSansCondensed-Bold.ttf")):
        pdfmetrics.registerFont(TTFont(name, HERE / file))
    pdfmetrics.registerFontFamily(PLAIN, normal=PLAIN, bold=BOLD, italic=PLAIN, boldItalic=BOLD)


def width_mm(text: str, points: float, font: str = PLAIN) -> float:
    """How wide a text is in print [mm]."""
    register()
    return float(pdfmetrics.stringWidth(text, font, points) / mm)
