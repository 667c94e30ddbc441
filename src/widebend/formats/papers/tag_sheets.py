"""Sheets of tags to print at true size: each with its number, and its job in words and drawn; a bar to measure."""

from __future__ import annotations

import io
from collections.abc import Sequence

from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from ...core.photos import (
    BAR_MM,
    CELLS,
    CUFF_PITCH_MM,
    STICKER_MM,
    STRIP_TAGS,
    Job,
    cells_of,
    job_of,
    size_mm,
)
from . import print_fonts

PAPERS = {"a4": (210.0, 297.0), "letter": (215.9, 279.4), "label": (110.0, 160.0)}  # the last a label printer's
MARGIN_MM, HEAD_MM, TALL_MM = 12.0, 24.0, 104.0  # of a flat tag with its words; a bolt's has room for its hole
STRIP_MM, STRIPS = 34.0, 6
BELOW_HEAD_MM = 8.0  # so that a disc stays clear of the bar
BOLT_HOLE_MM, DISC_MM = 22.0, 94.0  # a disc's corners stay clear of its edge


def write_tag_sheets(numbers: Sequence[int], paper: str = "a4") -> bytes:
    """The tags of these numbers, of one job; of cuffs the strips they are the first of. Raises KeyError for a paper
    that is not in PAPERS, ValueError for a number without a job.
    """
    wide, high = PAPERS[paper]
    jobs = {job_of(number) for number in numbers}
    job = jobs.pop() if len(jobs) == 1 else None
    if job is None:
        raise ValueError("tags of one job go on a sheet")
    print_fonts.register()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=(wide * mm, high * mm), invariant=1)
    canvas.setTitle(f"Tags: {job.job}")
    canvas.setViewerPreference("PrintScaling", "None")
    places = _places(job, wide, high)
    for k, number in enumerate(numbers):
        if k % len(places) == 0:
            if k:
                canvas.showPage()
            _head(canvas, job, wide, high)
        x, y = places[k % len(places)]
        (_strip if job.job == "cuff" else _flat)(canvas, number, job, x, y)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def on_a_sheet(job: Job, paper: str) -> int:
    """How many tags, of cuffs strips, a sheet holds. Raises KeyError for a paper that is not in PAPERS."""
    return len(_places(job, *PAPERS[paper]))


def _places(job: Job, wide: float, high: float) -> list[tuple[float, float]]:
    """Where they are on the paper; nowhere where it is too narrow for a strip."""
    return _strip_places(wide, high) if job.job == "cuff" else _flat_places(wide, high)


def _flat_places(wide: float, high: float) -> list[tuple[float, float]]:
    """Lower left corners of the stickers (x, y) [mm]."""
    across = int((wide - 2 * MARGIN_MM) // STICKER_MM)
    down = int((high - HEAD_MM - BELOW_HEAD_MM + TALL_MM - STICKER_MM) // TALL_MM)
    gap = (wide - across * STICKER_MM) / (across + 1)
    return [
        (gap + k * (STICKER_MM + gap), high - HEAD_MM - BELOW_HEAD_MM - row * TALL_MM - STICKER_MM)
        for row in range(down)
        for k in range(across)
    ]


def _strip_places(wide: float, high: float) -> list[tuple[float, float]]:
    if wide < MARGIN_MM + STRIP_TAGS * CUFF_PITCH_MM:
        return []
    return [(MARGIN_MM, high - HEAD_MM - (row + 1) * (STRIP_MM + 6.0)) for row in range(STRIPS)]


def _head(canvas: Canvas, job: Job, wide: float, high: float) -> None:
    left = min(MARGIN_MM, (wide - BAR_MM) / 2)
    words = f"{job.job}: {job.words}"
    size = min(13.0, 13.0 * (wide - 2 * left) * mm / canvas.stringWidth(words, print_fonts.BOLD, 13))
    canvas.setFont(print_fonts.BOLD, size)
    canvas.drawString(left * mm, (high - 11) * mm, words)
    canvas.setFont(print_fonts.PLAIN, 9)
    words = "this bar is 100 mm: measure it, type what it is"
    beside = wide > MARGIN_MM + BAR_MM + 80.0
    canvas.drawString((MARGIN_MM + BAR_MM + 4 if beside else left) * mm, (high - (19 if beside else 24)) * mm, words)
    canvas.setLineWidth(0.6)
    y = (high - 18) * mm
    canvas.line(left * mm, y, (left + BAR_MM) * mm, y)
    for x in (left, left + BAR_MM):
        canvas.line(x * mm, y - 2 * mm, x * mm, y + 2 * mm)


def _flat(canvas: Canvas, number: int, job: Job, x: float, y: float) -> None:
    """One sticker with its lower left corner at x, y [mm], its job's drawing on it."""
    middle_x, middle_y = x + STICKER_MM / 2, y + STICKER_MM / 2
    canvas.setLineWidth(0.3)
    canvas.setDash(2, 2)
    if job.job in ("flange disc", "hub"):
        canvas.circle(middle_x * mm, middle_y * mm, DISC_MM / 2 * mm)
    else:
        canvas.rect(x * mm, y * mm, STICKER_MM * mm, STICKER_MM * mm)
    canvas.setDash()
    _cells(canvas, number, middle_x, middle_y)
    canvas.setFont(print_fonts.BOLD, 11)
    above = (y + STICKER_MM - 7) * mm
    if job.job in ("flange disc", "hub"):  # within its circle
        canvas.drawCentredString(middle_x * mm, above, f"{number}  up")
    else:
        canvas.drawString((x + 3) * mm, above, f"{number}")
        canvas.setFont(print_fonts.PLAIN, 7)
        canvas.drawRightString((x + STICKER_MM - 3) * mm, above, f"{job.job}, this side up")
    canvas.setLineWidth(0.9)
    at = middle_x + job.place[0], middle_y + job.place[1]
    if job.job in ("corner", "low point", "edge", "rail"):
        _arrow(canvas, (middle_x + 0.82 * job.place[0], middle_y + 0.82 * job.place[1]), at)
    if job.job in ("edge", "rail"):
        canvas.line(x * mm, at[1] * mm, (x + STICKER_MM) * mm, at[1] * mm)
    if job.job == "bolt":
        canvas.circle(at[0] * mm, at[1] * mm, BOLT_HOLE_MM / 2 * mm)
        canvas.line((at[0] - 3) * mm, at[1] * mm, (at[0] + 3) * mm, at[1] * mm)
        canvas.line(at[0] * mm, (at[1] - 3) * mm, at[0] * mm, (at[1] + 3) * mm)


def _arrow(canvas: Canvas, start: tuple[float, float], tip: tuple[float, float]) -> None:
    dx, dy = tip[0] - start[0], tip[1] - start[1]
    long = max((dx * dx + dy * dy) ** 0.5, 1e-6)
    ux, uy = dx / long, dy / long
    canvas.line(start[0] * mm, start[1] * mm, tip[0] * mm, tip[1] * mm)
    for side in (1.0, -1.0):
        canvas.line(
            tip[0] * mm, tip[1] * mm, (tip[0] - 4 * ux + side * 2 * uy) * mm, (tip[1] - 4 * uy - side * 2 * ux) * mm
        )


def _strip(canvas: Canvas, number: int, _job: Job, x: float, y: float) -> None:
    """A cuff's strip of tags, its zero mark at the first one's middle; what would go round twice is cut off."""
    middle, first = y + STRIP_MM / 2, x + CUFF_PITCH_MM / 2
    for k in range(STRIP_TAGS):
        _cells(canvas, number + k, first + k * CUFF_PITCH_MM, middle)
    canvas.setFont(print_fonts.PLAIN, 7)
    canvas.drawString(x * mm, (y + 1) * mm, f"cuff {number}: the mark at the top of the pipe, wound as one reads")
    canvas.setLineWidth(0.6)
    canvas.line(first * mm, (y + STRIP_MM - 2.5) * mm, first * mm, (y + STRIP_MM + 1) * mm)


def _cells(canvas: Canvas, number: int, x: float, y: float) -> None:
    """A tag's black cells round its middle, each row in one piece so that no seam shows."""
    side = size_mm(number)
    cell = side / CELLS
    for row, blacks in enumerate(cells_of(number)):
        start = None
        for k in range(CELLS + 1):
            black = k < CELLS and bool(blacks[k])
            if black and start is None:
                start = k
            if not black and start is not None:
                canvas.rect(
                    (x - side / 2 + start * cell) * mm,
                    (y + side / 2 - (row + 1) * cell) * mm,
                    (k - start) * cell * mm,
                    cell * mm * 1.002,
                    stroke=0,
                    fill=1,
                )
                start = None
