"""Templates at true size: for what the job cuts, or for figures typed; on the screen, as PDF, SVG and DXF."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial
from typing import Any

from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.errors import InputError
from ...core.laying import LaidRun
from ...core.records import Design, Mitre, SegmentedBend, Tap
from ...core.templates import (
    FIRST_TOUCH,
    Paper,
    Template,
    dart_wrap,
    end_plate,
    flange,
    gasket,
    hole,
    hole_wrap,
    mitre_wrap,
    oval,
    saddle_wrap,
    shell,
    slice_wrap,
    x_fingers,
    y_fingers,
)
from ...core.units import format_length
from ...facts import PART_KINDS
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState
from ..page.helpers import LARGEST_MM, Figures, Helper, HelperField

room = Blueprint("templates", __name__, url_prefix="/jobs/<int:job_id>/cut/templates")

PAPERS = ("a4", "letter")
OUTSIDE, INSIDE = "outside the tube", "inside the tube"
SITS, GOES_IN = "sits on, hole as its inside", "goes in, hole as its outside"


def _paper(v: Figures) -> Paper:
    return Paper(v["thick"], "inside" if v.chosen.get("side") == INSIDE else "outside", g.unit)


def _saddle(v: Figures) -> Template:
    contact = v.chosen["contact"]
    return saddle_wrap(v["branch"], v["header"], v["angle"], v["off"], _paper(v), v["wall"], contact)


def _hole_in_header(v: Figures) -> Template:
    across = v["branch"] - (2 * v["wall"] if v.chosen["how"] == SITS else 0.0)
    if across <= 0:
        raise InputError("the wall leaves no inside in the branch", "wall")
    return hole_wrap(across, v["header"], v["angle"], v["off"], _paper(v))


def _flange(v: Figures) -> Template:
    return flange(v["bore"], int(v["bolts"]), v["circle"], v["hole"], v["land"], v["edge"], _in_unit())


def _gasket(v: Figures) -> Template:
    return gasket(v["bore"], int(v["bolts"]), v["circle"], v["hole"], v["land"], v["edge"], v["clear"], _in_unit())


def _in_unit() -> Any:
    return partial(format_length, unit=g.unit)


_OD, _CLR, _WALL = (
    HelperField("od", "tube outside diameter", 63.5),
    HelperField("clr", "bend radius", 95.25),
    HelperField("wall", "wall", 1.5),
)
_THICK = HelperField("thick", "paper thickness", 0.1, most=5.0)
_LIES = (HelperField("side", "it lies", OUTSIDE, (OUTSIDE, INSIDE)), _WALL, _THICK)
_BRANCH = (
    HelperField("branch", "branch outside diameter", 50.8),
    HelperField("header", "header outside diameter", 76.2),
    HelperField("angle", "angle between them", 45.0, "deg"),
    HelperField("off", "branch's middle passes the header's by", 0.0),
)
_FLANGE = (
    HelperField("bore", "bore", 63.5),
    HelperField("bolts", "bolts", 3.0, "count", 2.0, 12.0),
    HelperField("circle", "bolt circle", 100.0),
    HelperField("hole", "bolt holes", 10.5),
    HelperField("land", "land round the bore", 8.0),
    HelperField("edge", "metal round a hole", 7.0),
)
_CAN = (HelperField("width", "can outside, wide", 220.0), HelperField("high", "high (alike for a round one)", 120.0))
KINDS: tuple[Helper[Template], ...] = (
    Helper(
        "mitre",
        "mitre",
        (_OD, HelperField("cut", "cut off square", 22.5, "deg"), *_LIES),
        lambda v: mitre_wrap(v["od"], v["cut"], _paper(v), v["wall"]),
    ),
    Helper(
        "dart",
        "dart",
        (_OD, HelperField("turn", "it turns", 5.0, "deg"), HelperField("left", "left as the hinge", 16.0), _THICK),
        lambda v: dart_wrap(v["od"], v["turn"], v["left"], _paper(v)),
    ),
    Helper(
        "slice",
        "slice",
        (_OD, _CLR, HelperField("turn", "one slice turns", 15.0, "deg"), *_LIES),
        lambda v: slice_wrap(v["od"], v["clr"], v["turn"], _paper(v), v["wall"]),
    ),
    Helper(
        "saddle",
        "saddle, branch",
        (
            *_BRANCH,
            _WALL,
            HelperField("contact", "meets the header at", FIRST_TOUCH, (FIRST_TOUCH, "outside", "inside")),
            _THICK,
        ),
        _saddle,
    ),
    Helper(
        "header",
        "hole for a branch",
        (*_BRANCH, _WALL, HelperField("how", "the branch", SITS, (SITS, GOES_IN)), _THICK),
        _hole_in_header,
    ),
    Helper(
        "x",
        "X on a bend",
        (
            _OD,
            _CLR,
            HelperField("bend", "each bend turns", 45.0, "deg"),
            HelperField("off", "bend's middle to the cut", 20.0),
            _THICK,
        ),
        lambda v: x_fingers(v["od"], v["clr"], v["bend"], v["off"], _paper(v)),
    ),
    Helper(
        "y",
        "Y on a bend",
        (
            _OD,
            _CLR,
            HelperField("bend", "each bend turns", 25.0, "deg"),
            HelperField("leg", "straight behind each bend", 80.0),
            _THICK,
        ),
        lambda v: y_fingers(v["od"], v["clr"], v["bend"], v["leg"], _paper(v)),
    ),
    Helper(
        "oval",
        "oval tube",
        (_OD, HelperField("high", "pressed to a height of", 45.0)),
        lambda v: oval(v["od"], v["high"], _in_unit()),
    ),
    Helper(
        "shell",
        "muffler shell",
        (
            *_CAN,
            HelperField("long", "body long", 450.0),
            HelperField("sheet", "sheet", 1.2, most=10.0),
            HelperField("overlap", "lap at the seam", 12.0),
            HelperField("lip", "turned over at each end", 8.0),
        ),
        lambda v: shell(v["width"], v["high"], v["long"], v["sheet"], v["overlap"], v["lip"], _in_unit()),
    ),
    Helper(
        "plate",
        "end plate",
        (
            *_CAN,
            HelperField("tube", "hole for a tube of", 63.5),
            HelperField("right", "its middle to the right", 0.0, least=-LARGEST_MM),
            HelperField("up", "and up", 0.0, least=-LARGEST_MM),
            HelperField("lip", "turned over all round", 8.0),
        ),
        lambda v: end_plate(v["width"], v["high"], v["tube"], v["right"], v["up"], v["lip"], _in_unit()),
    ),
    Helper("flange", "flange", _FLANGE, _flange),
    Helper("gasket", "gasket", (*_FLANGE, HelperField("clear", "wider than the flange's holes by", 1.0)), _gasket),
    Helper(
        "hole",
        "hole in the body",
        (HelperField("od", "tip outside diameter", 88.9), HelperField("gap", "gap all round", 12.0)),
        lambda v: hole(v["od"], v["gap"], "the tip", says=_in_unit()),
    ),
)


@dataclass(frozen=True)
class Offer:
    """A template that this job needs: what for, and the address' own figures."""

    words: str
    kind: str
    typed: dict[str, str]


def _offers(design: Design, runs: tuple[LaidRun, ...]) -> Iterator[Offer]:
    """Templates for what the job cuts: mitres, slices, branches, cans."""
    for laid in runs:
        name = laid.run.name or laid.run.id
        for number, placed in enumerate(laid.pieces, 1):
            piece, tube = placed.piece, {"od": _typed(placed.tube.od_mm), "wall": _typed(placed.tube.wall_mm)}
            if isinstance(piece, Mitre):
                yield Offer(f"{name}, piece {number}: mitre", "mitre", tube | {"cut": f"{piece.cut_deg:g}"})
            elif isinstance(piece, SegmentedBend):
                figures = tube | {"clr": _typed(piece.clr_mm), "turn": f"{piece.turn_each_deg:g}"}
                yield Offer(f"{name}, piece {number}: its slices", "slice", figures)
        start = laid.run.start
        header = _header(runs, start) if isinstance(start, Tap) else None
        if isinstance(start, Tap) and header is not None:
            figures = {
                "branch": _typed(laid.run.tube.od_mm),
                "header": _typed(header),
                "angle": f"{start.angle_deg:g}",
                "wall": _typed(laid.run.tube.wall_mm),
            }
            yield Offer(f"{name}: its saddle", "saddle", figures)
            yield Offer(f"{name}: the hole for it", "header", figures)
    for part in design.parts:
        body = part.item.bodies[0] if part.item.bodies and PART_KINDS[part.item.kind].is_silencer else None
        if body is not None and 2 * body.corner_mm >= min(body.width_mm, body.height_mm) - 0.1:
            across = sorted((float(body.width_mm), float(body.height_mm)))
            can = {"width": _typed(across[1]), "high": _typed(across[0])}
            said = part.name or part.item.kind
            yield Offer(f"{said}: its shell", "shell", can | {"long": _typed(body.length_mm)})
            yield Offer(f"{said}: its end plates", "plate", can | {"tube": _typed(part.item.ports[0].od_mm)})


def _header(runs: tuple[LaidRun, ...], tap: Tap) -> float | None:
    """Outside diameter of what a branch leaves."""
    return next(
        (
            float(p.tube.od_mm)
            for laid in runs
            if laid.run.id == tap.run
            for p in laid.pieces
            if p.piece.id == tap.piece
        ),
        None,
    )


def _typed(mm: float) -> str:
    return f"{format_length(mm, g.unit, 3, suffix=False)}"


def _kind() -> Helper[Template]:
    return next((k for k in KINDS if k.key == request.args.get("kind")), KINDS[0])


def _heading(here: AtHand) -> str:
    return f"Job {here.job.id}: {here.job.title}"


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    from ...formats.templates.drawings import write_svg
    from ...formats.templates.pdf import tiling

    with transaction() as connection:
        here = at_hand(connection, job_id)
    kind, said = _kind(), FormState(typed=dict(request.args))
    template, drawn, sheets = None, "", {}
    try:
        template = kind.work(kind.read())
        drawn = write_svg(template)
        sheets = {paper: tiling(template, paper) for paper in PAPERS}
    except Faults as faults:
        said.errors = faults.errors
    except InputError as exc:
        said.errors = {exc.field: str(exc)}
    return render_template(
        "cut/templates.html",
        here=here,
        step="cut",
        sheet="templates.show",
        kind=kind,
        kinds=KINDS,
        said=said,
        shown=kind.shown(),
        template=template,
        drawn=drawn,
        sheets=sheets,
        offers=list(_offers(here.design, here.system.runs)),
        asked=kind.typed(),
    ), 422 if said.errors else 200


@room.get("/<name>.<suffix>")
def file(job_id: int, name: str, suffix: str) -> Response:
    """The template as a file. What cannot be drawn is said at its field on the page."""
    from ...formats.templates.drawings import write_dxf, write_svg
    from ...formats.templates.pdf import write_pdf

    with transaction() as connection:
        here = at_hand(connection, job_id)
    kind, paper = next((k for k in KINDS if k.key == name), None), request.args.get("paper", "a4")
    if kind is None or paper not in PAPERS:
        abort(404)
    try:
        template = kind.work(kind.read())
        sheets = write_pdf(template, _heading(here), paper) if suffix == "pdf" else b""
    except (Faults, InputError):
        return redirect(url_for("templates.show", job_id=job_id, kind=name, **kind.typed()), 303)  # type: ignore[return-value]
    if suffix == "pdf":
        data, mimetype = sheets, "application/pdf"
    elif suffix == "svg":
        data, mimetype = write_svg(template).encode(), "image/svg+xml"
    elif suffix == "dxf":
        data, mimetype = write_dxf(template), "image/vnd.dxf"
    else:
        abort(404)
    how = "inline" if suffix == "pdf" else "attachment"
    headers = {"Content-Disposition": f'{how}; filename="job-{job_id}-{name}.{suffix}"'}
    return Response(data, mimetype=mimetype, headers=headers)
