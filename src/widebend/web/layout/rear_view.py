"""The rear view at true scale: tips in their cut-outs, sizes tried, what the customer says yes to, and a template."""

from __future__ import annotations

from functools import partial
from typing import Any

from flask import Blueprint, Response, abort, g, request
from flask.typing import ResponseReturnValue

from ...core.review import CLOCKS, TipSeen, sizes, tips_seen
from ...core.templates import hole
from ...core.units import format_length, parse_length
from ...core.wording import say
from ..drawing.from_behind import HEIGHT_PX, WIDTH_PX, draw_from_behind
from ..page.at_hand import at_hand, transaction
from ..page.edits import FormState
from ..page.figures import number, typing_unit
from .sheets import render_sheet

room = Blueprint("rear", __name__, url_prefix="/jobs/<int:job_id>/layout/rear")

USUAL_MM = (63.5, 76.2, 88.9, 101.6, 114.3)
CODES = ("tip-uneven", "blows", "ends-under", "side-exit")


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    seen = tips_seen(here.design.survey, here.system)
    wanted = float(here.design.settings.rules.tip_gap_mm)
    said, ods = FormState(), list(USUAL_MM)
    try:
        ods = [float(parse_length(t, typing_unit(), least=10.0, most=300.0)) for t in _typed()] or ods
    except ValueError as exc:
        said.errors = {"sizes": str(exc)}
        said.typed = {"sizes": request.args.get("sizes", "")}
    return render_sheet(
        here,
        said,
        422 if said.errors else 200,
        "rear.show",
        "layout/_sheet_rear.html",
        drawing=draw_from_behind(seen, wanted, g.unit),
        width=WIDTH_PX,
        height=HEIGHT_PX,
        wanted=wanted,
        typed_sizes=", ".join(_bare(od) for od in ods),
        tips=[_row(t, ods, wanted) for t in seen],
        findings=[say(f, here.design, g.unit) for f in here.found.findings if f.code in CODES],
    )


def _typed() -> list[str]:
    return [t for t in request.args.get("sizes", "").split(",") if t.strip()]


def _bare(mm: float) -> str:
    return format_length(mm, g.unit, 2, suffix=False)


def _row(tip: TipSeen, ods: list[float], wanted: float) -> dict[str, Any]:
    """A tip in figures: its gap all round by the clock, and what other sizes would leave."""
    return {
        "part": tip.part,
        "name": tip.name,
        "od": format_length(tip.od_mm, g.unit),
        "cut_out": tip.cut_out,
        "least": None if tip.least_mm is None else format_length(tip.least_mm, g.unit),
        "clocks": [
            (clock or 12, format_length(gap, g.unit, 0, suffix=False), gap < wanted)
            for clock, gap in zip(CLOCKS, tip.round_gaps, strict=False)
        ],
        "sizes": [
            (
                format_length(s.od_mm, g.unit),
                format_length(s.least_mm, g.unit),
                s.least_mm < wanted,
                format_length(s.centred_mm, g.unit),
                s.centred_mm < wanted,
            )
            for s in sizes(tip, ods)
        ],
    }


@room.get("/template-<part>.pdf")
def template(job_id: int, part: str) -> Response:
    """A body-hole template at true size."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    tip = next((t for t in tips_seen(here.design.survey, here.system) if t.part == part), None)
    if tip is None:
        abort(404)
    from ...formats.templates.pdf import write_pdf

    gap = number(request.args.get("gap"), float(here.design.settings.rules.tip_gap_mm))
    x, y = tip.middle.tolist()
    edge = tip.outline - tip.middle if len(tip.outline) else None
    drawn = hole(tip.od_mm, gap, f"the {tip.name}", (x, y), edge, partial(format_length, unit=g.unit))
    data = write_pdf(drawn, f"Job {here.job.id}: {here.job.title}")
    return Response(
        data, mimetype="application/pdf", headers={"Content-Disposition": f'inline; filename="hole-{part}.pdf"'}
    )
