"""The shop sheet: a PDF at real paper size with the pieces, their marks and the checks on the vehicle.

Drawn with reportlab so that 100 mm on paper is 100 mm; the viewer is asked not to scale.
"""

from __future__ import annotations

import io
from typing import Any

from reportlab.graphics.shapes import Drawing
from reportlab.lib import colors, pagesizes
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from ...core.cutting import CutList, CutPiece, hand_of, witness_marks
from ...core.records import Design
from ...core.review import Review
from ...core.units import format_length
from ...core.wording import say
from ...facts import METALS
from . import print_fonts
from .cautions import cautions_for
from .cut_rows import CutRow, rows
from .sheet_drawings import sketch, strips

PAPERS = {"a4": pagesizes.A4, "letter": pagesizes.LETTER}
INK, SOFT, TAPE = colors.HexColor("#17212A"), colors.HexColor("#5A6670"), colors.HexColor("#E7D9A8")
MARGIN = 12 * mm

_BODY = ParagraphStyle("body", fontName=print_fonts.PLAIN, fontSize=8.5, leading=10.5, textColor=INK)
_SMALL = ParagraphStyle("small", parent=_BODY, fontSize=7.5, leading=9, textColor=SOFT)
_TITLE = ParagraphStyle("title", parent=_BODY, fontName=print_fonts.BOLD, fontSize=15, leading=18)
_HEAD = ParagraphStyle("head", parent=_BODY, fontName=print_fonts.BOLD, fontSize=10, leading=13, spaceBefore=6)
_FIGURE = ParagraphStyle("figure", parent=_BODY, fontName=print_fonts.BOLD, fontSize=10.5, leading=12.5)


def write_sheet(
    title: str,
    lines: list[str],
    design: Design,
    review: Review,
    cuts: CutList,
    *,
    run_id: str,
    paper: str = "a4",
    unit: str = "mm",
) -> bytes:
    """The shop sheet of one run as a PDF. Raises KeyError for a paper that is not in PAPERS."""
    print_fonts.register()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out,
        pagesize=PAPERS[paper],
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=20 * mm,
        title=title,
        author="Wide Bend",
        invariant=1,
    )
    story: list[Any] = [Paragraph(_escape(title), _TITLE)]
    story += [Paragraph(_escape(line), _SMALL) for line in lines]
    story += _findings(design, review, unit)
    story += strips(review, cuts.pieces, run_id, PAPERS[paper][0] - 2 * MARGIN)
    story += _totals(design, cuts, unit)
    laid = next(r for r in review.system.runs if r.run.id == run_id)
    mirrored = hand_of(design, laid) == "right"
    story += _table(design, cuts, unit, mirrored=mirrored)
    if design.notes:
        story.append(Paragraph("For the hand-over", _HEAD))
        story += [Paragraph(_escape(line), _BODY) for line in design.notes.splitlines()]
    story += _notes(cuts, cautions_for(design, review, unit), unit, mirrored=mirrored)
    document.build(story, onFirstPage=_footer, onLaterPages=_footer)
    return out.getvalue()


def _escape(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")


def _findings(design: Design, review: Review, unit: str) -> list[Any]:
    wrong = [f for f in review.findings if f.rank[0] < 4]
    if not wrong:
        return [Spacer(1, 2 * mm), Paragraph("Checked: no finding.", _BODY)]
    text = "<br/>".join("- " + _escape(say(f, design, unit)) for f in wrong[:8])
    more = f"<br/>and {len(wrong) - 8} more" if len(wrong) > 8 else ""
    box = Table([[Paragraph(f"<b>Not right yet</b><br/>{text}{more}", _BODY)]], colWidths=["100%"])
    box.setStyle(TableStyle([("BACKGROUND", (0, 0), (-1, -1), TAPE), ("BOX", (0, 0), (-1, -1), 0.5, INK)]))
    return [Spacer(1, 2 * mm), box, Spacer(1, 2 * mm)]


def _totals(design: Design, cuts: CutList, unit: str) -> list[Any]:
    stock = ", ".join(
        f"{n} x {s.angle_deg:g}° radius {format_length(s.clr_mm, unit, 2)} legs {format_length(s.leg_mm, unit)}"
        for s, n in cuts.stock
    )
    unknown = f" (without {', '.join(cuts.part_mass_unknown)}: mass not known)" if cuts.part_mass_unknown else ""
    parts = [
        f"<b>From the shelf:</b> {stock or 'no bends'}; straight tube {format_length(cuts.straight_mm, unit, 0)} "
        "before saw cuts.",
        f"<b>Tube</b> {format_length(cuts.tube_mm, unit, 0)} along the middle, {cuts.tube_mass_kg:.2f} kg. "
        f"<b>Joints</b> {cuts.joints}. <b>Weld</b> {format_length(cuts.weld_mm, unit, 0)}. "
        f"<b>Parts in line</b> {cuts.part_mass_kg:.2f} kg{_escape(unknown)}.",
    ]
    known = sum(p.item.mass_kg or 0.0 for p in design.parts)
    not_known = [p.name or p.item.kind for p in design.parts if p.item.mass_kg is None]
    if design.parts:
        rest = f"; not known: {', '.join(not_known)}" if not_known else ""
        parts.append(f"<b>Parts of the whole job</b> {len(design.parts)}, {known:.2f} kg{_escape(rest)}.")
    return [Spacer(1, 2 * mm), *(Paragraph(p, _BODY) for p in parts), Spacer(1, 2 * mm)]


def _table(design: Design, cuts: CutList, unit: str, *, mirrored: bool) -> list[Any]:
    head = ["", "cut", "marks on the tube", "on the vehicle"]
    body = [head]
    facing = float(design.settings.rules.facing_mm)
    for row, cut in zip(rows(design, cuts, unit), cuts.pieces, strict=True):
        drawn = sketch(cut, facing, mirrored=mirrored)
        body.append([Paragraph(str(row.number), _FIGURE), *_cells(row, cut, unit, drawn)])
    table = Table(body, colWidths=[11 * mm, 55 * mm, 61 * mm, 59 * mm], repeatRows=1)
    table.setStyle(
        TableStyle(
            [
                ("FONT", (0, 0), (-1, 0), print_fonts.BOLD, 8),
                ("TEXTCOLOR", (0, 0), (-1, 0), SOFT),
                ("VALIGN", (0, 0), (-1, -1), "TOP"),
                ("LINEBELOW", (0, 0), (-1, -1), 0.4, SOFT),
                ("TOPPADDING", (0, 0), (-1, -1), 2),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
            ]
        )
    )
    return [table]


def _cells(row: CutRow, cut: CutPiece, unit: str, drawn: Drawing) -> list[Any]:
    tube = f"{format_length(cut.tube.od_mm, unit)} x {format_length(cut.tube.wall_mm, unit)}"
    what = f"<font size=10.5><b>{row.what}</b></font><br/>{row.source}<br/>{tube} {METALS[cut.tube.material].name}"
    if cut.kind == "part":
        what = f"<font size=10.5><b>{_escape(row.what)}</b></font><br/>part in line"
    marks = []
    if cut.marks:
        marks = [f"keep {row.keep}"]
        if cut.marks.cut:
            marks += [
                f"<b>heel {row.heel}</b>, <b>throat {row.throat}</b> from where the bend starts",
                f"heel {row.heel_from_end}, throat {row.throat_from_end} from the stock's end",
                f"cut {row.cut}, through the bend's centre",
            ]
        else:
            marks.append("use the bend whole")
    elif cut.kind == "straight":
        marks = [f"<b>{row.length}</b>, both ends square", "draw the reference line along it"]
    if cut.roll:
        marks.append(f"throat line: <b>{row.round_the_tube}</b> from the reference line, looking toward the engine end")
    if row.clock:
        marks.append(f"turns toward {row.clock}")
    if row.fixed:
        marks.append(f"<b>{_escape(row.fixed)}</b>")
    if row.note:
        marks.append(f"<b>{_escape(row.note)}</b>")
    vehicle = [
        f"back {row.station}",
        f"angle finder {row.angle_finder}",
        f"heading {row.heading}",
        f"underside {row.underside} over ground",
        row.rail,
        row.now,
    ]
    first, *rest = [Paragraph("<br/>".join(x for x in cell if x), _BODY) for cell in ([what], marks, vehicle)]
    return [first if cut.kind == "part" else [first, drawn], *rest]


def _notes(cuts: CutList, cautions_of_job: list[str], unit: str, *, mirrored: bool) -> list[Any]:
    cautions = "<br/>".join("- " + _escape(c) for c in cautions_of_job)
    texts = [Paragraph("Before the arc", _HEAD), Paragraph(cautions, _BODY)]
    if cuts.problems:
        texts = [
            Paragraph("Cannot be cut as listed", _HEAD),
            *(Paragraph(_escape(p), _BODY) for p in cuts.problems),
            *texts,
        ]
    tubes = {c.tube.od_mm: c.tube for c in cuts.pieces}
    witness = "; ".join(
        f"{format_length(od, unit)} tube {', '.join(format_length(m, unit) for m in witness_marks(tube))}"
        for od, tube in tubes.items()
    )
    way = "anticlockwise" if mirrored else "clockwise"
    sense = (
        f"Witness marks across every joint, round the tube {way} from the line, looking toward the engine end: "
        f"{witness}. Red: cut. Blue: reference line, dashed where it lies behind. Rolls are clockwise looking against "
        "the flow, toward the engine end. Heights are over ground at ride height. Cut on the waste side of the mark."
    )
    return [*texts, Spacer(1, 2 * mm), Paragraph(sense, _SMALL)]


def _footer(canvas: Canvas, document: Any) -> None:
    """A bar of exactly 100 mm: lay a rule on it before trusting any length on the page."""
    canvas.saveState()
    canvas.setViewerPreference("PrintScaling", "None")
    canvas.setStrokeColor(INK)
    canvas.setLineWidth(0.8)
    y = 12 * mm
    canvas.line(MARGIN, y, MARGIN + 100 * mm, y)
    for k in range(11):
        canvas.line(MARGIN + k * 10 * mm, y, MARGIN + k * 10 * mm, y + (3 if k % 5 == 0 else 2) * mm)
    canvas.setFont(print_fonts.PLAIN, 7.5)
    canvas.setFillColor(SOFT)
    canvas.drawString(MARGIN, y - 3.5 * mm, "this bar is 100 mm: print without scaling")
    canvas.drawRightString(document.pagesize[0] - MARGIN, y, f"page {document.page}")
    canvas.restoreState()
