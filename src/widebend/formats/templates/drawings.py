"""A template as SVG or DXF at true size, for a cutter or another program."""

from __future__ import annotations

import io
from xml.sax.saxutils import escape

from ezdxf import units
from ezdxf.filemanagement import new

from ...core.templates import Template

MARGIN_MM = 3.0
LAYERS = {"cut": 7, "fold": 5, "line": 8}  # layer: its colour number
DASHES = {"cut": "", "fold": ' stroke-dasharray="2 1"', "line": ""}


def write_svg(template: Template) -> str:
    """An SVG whose unit is the millimetre: strokes grouped by what they are for."""
    low, high = template.low - MARGIN_MM, template.high + MARGIN_MM
    wide, tall = (high - low).tolist()
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.3f}mm" height="{tall:.3f}mm" '
        f'viewBox="{low[0]:.3f} {-high[1]:.3f} {wide:.3f} {tall:.3f}" fill="none" stroke="#000">',
        f"<title>{escape(template.title)}</title>",
    ]
    for kind in LAYERS:
        parts.append(f'<g id="template-{kind}" stroke-width="{0.3 if kind == "cut" else 0.15}"{DASHES[kind]}>')
        for stroke in template.strokes:
            if stroke.kind == kind:
                at = "L".join(f"{x:.3f},{-y:.3f}" for x, y in stroke.points.tolist())
                parts.append(f'<path d="M{at}{"Z" if stroke.closed else ""}"/>')
        parts.append("</g>")
    parts.append('<g id="template-words" fill="#000" stroke="none" font-family="sans-serif">')
    parts += [
        f'<text x="{w.x:.2f}" y="{-w.y:.2f}" font-size="{w.high_mm:.2f}">{escape(w.text)}</text>'
        for w in template.words
    ]
    return "\n".join([*parts, "</g></svg>"])


def write_dxf(template: Template) -> bytes:
    """A DXF in millimetres: closed polylines on layers CUT, FOLD and LINE, words on WORDS."""
    drawing = new("R2010", setup=True)
    drawing.units = units.MM
    for kind, colour in LAYERS.items():
        drawing.layers.add(kind.upper(), color=colour, linetype="DASHED" if kind == "fold" else "CONTINUOUS")
    drawing.layers.add("WORDS", color=8)
    space = drawing.modelspace()
    for stroke in template.strokes:
        space.add_lwpolyline(stroke.points.tolist(), close=stroke.closed, dxfattribs={"layer": stroke.kind.upper()})
    for word in template.words:
        text = space.add_text(word.text, height=word.high_mm, dxfattribs={"layer": "WORDS"})
        text.set_placement((word.x, word.y))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8")
