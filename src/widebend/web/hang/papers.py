"""Files of the Hang step: the hang card, and a bracket's template at true size."""

from __future__ import annotations

from flask import Blueprint, Response, abort, g, redirect, request, url_for

from ...core.errors import InputError
from ...core.hanging import (
    SPOILS,
    Bracket,
    Carried,
    HangState,
    Rod,
    bracket_for,
    bracket_template,
    hang,
    hang_faults,
    rod_for,
    rod_template,
    rubber_of,
    tie_for,
)
from ...core.records import Design
from ...core.templates import Template
from ...core.units import format_angle, format_length
from ...core.wording import hanger_name, say_hung
from ...formats.papers.hang_card import PAPERS, HangLine, write_hang_card
from ..page.at_hand import AtHand, at_hand, transaction

room = Blueprint("hang_papers", __name__, url_prefix="/jobs/<int:job_id>/hang")


@room.get("/card.pdf")
def card(job_id: int) -> Response:
    """The hang card: hangers front first."""
    paper = request.args.get("paper", "a4")
    if paper not in PAPERS:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
    hung = hang(here.design, here.system, HangState())
    if not hung.carried:
        raise InputError("nothing hangs yet: hang it first")
    front_first = sorted(hung.carried, key=lambda one: float(one.place[0]))
    faults = hang_faults(here.design, here.system, hung)
    cautions = {f.hanger: say_hung(f, here.design, g.unit) for f in faults if f.code == "bolt-matters"}
    lines = [_line(here, one, cautions) for one in front_first]
    wrong = [say_hung(f, here.design, g.unit) for f in faults if f.code in SPOILS]
    data = write_hang_card(f"job {here.job.id}, {here.job.title}", lines, wrong, paper)
    return _sent(data, "application/pdf", f"job-{job_id}-hang.pdf")


def _line(here: AtHand, one: Carried, cautions: dict[str, str]) -> HangLine:
    rubber, solid = rubber_of(one.hanger), one.hanger.way == "solid"
    rod, no_rod = _rod(here, one)
    bracket = _bracket(here.design, one)
    two = "two side by side, " if one.hanger.rubbers == 2 else ""
    figures = [
        ("where", _where(here, one)),
        ("rubber", "solid tie" if solid else f"{two}{rubber.name}, stretched {_mm(one.stretch_mm)}"),
        ("carries", f"{one.load_n:.0f} N, {one.kg:.1f} kg"),
        ("rod", f"{_mm(rod.od_mm)}, cut {_mm(rod.cut_mm)}, bent on {_mm(rod.radius_mm)}" if rod else no_rod),
    ]
    tie = tie_for(here.system, one.hanger)
    if tie is not None:
        figures.append(("bar across both pipes", f"{_mm(one.hanger.rod_mm)}, cut {_mm(tie)}"))
    if one.hanger.way == "rubber" and one.hanger.hold in ("cradle", "strap"):
        figures.append(("holds by", f"{one.hanger.hold} round the pipe, nothing welded"))
    if bracket:
        holes = " and ".join(_mm(x) for x, _ in bracket.holes)
        bar = f"{_mm(bracket.wide_mm)} x {_mm(bracket.thick_mm)}, flat {_mm(bracket.flat_mm)}"
        figures.append(("bracket", f"{bar}, holes at {holes}, bend at {_mm(bracket.folds[0][0])}"))
    return HangLine(
        hanger_name(here.design, one.hanger.id),
        tuple(figures),
        _bends(rod) if rod else (),
        cautions.get(one.hanger.id, ""),
    )


def _bends(rod: Rod) -> tuple[tuple[str, ...], ...]:
    return tuple(
        (
            b.what,
            f"begins at {_mm(b.mark_mm)}",
            f"turns {format_angle(b.angle_deg)}",
            f"rotate {format_angle(b.rotation_deg)}" if k else "",
        )
        for k, b in enumerate(rod.bends)
    )


def _mm(mm: float) -> str:
    return format_length(mm, g.unit)


def _where(here: AtHand, one: Carried) -> str:
    x = f"{format_length(float(one.place[0]), g.unit, 0)} behind the front axle"
    part = here.design.part(one.hanger.part or "")
    if part is not None:
        return f"on the {part.name or part.item.kind}, {x}"
    run = here.design.run(one.hanger.run or "")
    piece = next(
        (p for r in here.system.runs for p in r.pieces if (r.run.id, p.piece.id) == (one.hanger.run, one.hanger.piece)),
        None,
    )
    at = f"piece {piece.index + 1}, {_mm(one.hanger.along_mm)} from its front end" if piece else "pipe"
    return f"{(run.name or run.id) if run else ''}, {at}, {x}"


def _rod(here: AtHand, one: Carried) -> tuple[Rod | None, str]:
    try:
        return rod_for(here.system, one, g.unit), ""
    except InputError as exc:
        return None, f"none: {exc}"


def _bracket(design: Design, one: Carried) -> Bracket | None:
    try:
        return bracket_for(design, one, g.unit)
    except InputError:
        return None


@room.get("/<what>.<suffix>")
def true_size(job_id: int, what: str, suffix: str) -> Response:
    """A bracket's flat or a rod's wire template at true size, to print, to cut by or to draw on."""
    from ...formats.templates.drawings import write_dxf, write_svg
    from ...formats.templates.pdf import write_pdf

    with transaction() as connection:
        here = at_hand(connection, job_id)
    hanger_id = request.args.get("hanger", "")
    hung = hang(here.design, here.system, HangState(), modes=0)
    one = next((c for c in hung.carried if c.hanger.id == hanger_id), None)
    if what not in ("bracket", "rod") or suffix not in ("pdf", "svg", "dxf"):
        abort(404)
    name = hanger_name(here.design, hanger_id)
    template = _template(here, one, what, name) if one else None
    if template is None:
        return redirect(url_for("hang.show", job_id=job_id, hanger=hanger_id or None), 303)  # type: ignore[return-value]
    as_file = f"job-{job_id}-{what}.{suffix}"
    if suffix == "pdf":
        return _sent(write_pdf(template, f"job {job_id}, {name}"), "application/pdf", as_file)
    if suffix == "svg":
        return _sent(write_svg(template).encode(), "image/svg+xml", as_file)
    return _sent(write_dxf(template), "image/vnd.dxf", as_file)


def _template(here: AtHand, one: Carried, what: str, name: str) -> Template | None:
    if what == "rod":
        rod, _ = _rod(here, one)
        return rod_template(rod, name, g.unit) if rod else None
    made = _bracket(here.design, one)
    return bracket_template(made, name, g.unit) if made else None


def _sent(data: bytes, mimetype: str, name: str) -> Response:
    how = "inline" if mimetype == "application/pdf" else "attachment"
    return Response(data, mimetype=mimetype, headers={"Content-Disposition": f'{how}; filename="{name}"'})
