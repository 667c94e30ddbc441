"""For a printer: tools to mark and hold by, and a run's pieces as mock-ups that plug together, as STL."""

from __future__ import annotations

import io
import zipfile
from typing import Any

from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import cut_lists
from ...core.errors import InputError
from ...core.laying import LaidRun, Surface
from ...core.printables import Play, bend_saddle, mock_up, square_ring, v_block
from ...core.units import format_length
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import Faults, FormState
from ..page.helpers import Helper, HelperField

room = Blueprint("printing", __name__, url_prefix="/jobs/<int:job_id>/cut/printer")

_OD = HelperField("od", "tube outside diameter", 63.5, least=10.0, most=400.0)
TOOLS: tuple[Helper[Surface], ...] = (
    Helper(
        "saddle",
        "angle saddle",
        (
            _OD,
            HelperField("clr", "radius of the bend", 95.25),
            HelperField("span", "it spans", 60.0, "deg"),
            HelperField("every", "a groove every", 5.0, "deg"),
        ),
        lambda v: bend_saddle(v["od"], v["clr"], v["span"], v["every"]),
    ),
    Helper("ring", "square ring", (_OD, HelperField("long", "long", 30.0)), lambda v: square_ring(v["od"], v["long"])),
    Helper("block", "V-block", (_OD, HelperField("long", "long", 50.0)), lambda v: v_block(v["od"], v["long"])),
)
MOCK_UP: Helper[Play] = Helper(
    "mockup",
    "mock-ups of a run",
    (
        HelperField("wall", "printed wall", 2.4, least=0.8, most=20.0),
        HelperField("plug", "a spigot goes in by", 15.0, least=2.0, most=100.0),
        HelperField("loose", "and is looser by", 0.4, least=0.0, most=5.0),
    ),
    lambda v: Play(v["wall"], v["plug"], v["loose"]),
)
EVERY: tuple[Helper[Any], ...] = (*TOOLS, MOCK_UP)


@room.get("")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
    tool = next((t for t in EVERY if t.key == request.args.get("tool")), EVERY[0])
    said, made, pieces = FormState(typed=dict(request.args)), None, None
    runs = [r for r in here.system.runs if r.pieces]
    run = next((r for r in runs if r.run.id == request.args.get("run")), runs[0] if runs else None)
    try:
        if tool is MOCK_UP:
            pieces = _mock_ups(here, run)
        else:
            made = tool.work(tool.read())
    except Faults as faults:
        said.errors = faults.errors
    except InputError as exc:
        said.errors = {exc.field: str(exc)}
    surfaces = [made] if made else [surface for surface, _ in pieces or [] if surface]
    return render_template(
        "cut/printing.html",
        here=here,
        step="cut",
        sheet="printing.show",
        tool=tool,
        tools=EVERY,
        said=said,
        shown=tool.shown(),
        made=made,
        pieces=pieces,
        sizes=[_size(s) for s in surfaces],
        runs=runs if tool is MOCK_UP else [],
        run=run,
        asked=tool.typed(),
    ), 422 if said.errors else 200


def _size(surface: Surface) -> str:
    size = surface.corners.max(axis=0) - surface.corners.min(axis=0)
    return " × ".join(format_length(float(mm), g.unit, 0, suffix=False) for mm in size)


def _mock_ups(here: AtHand, run: LaidRun | None) -> list[tuple[Surface | None, str]]:
    """Every piece of a run as it is printed, or why it is not."""
    if run is None:
        raise InputError("no run has pieces yet: close it first")
    play: Play = MOCK_UP.work(MOCK_UP.read())
    runs = [r for r in here.system.runs if r.pieces]
    cuts = cut_lists(here.design, runs, here.bends)[runs.index(run)]
    found: list[tuple[Surface | None, str]] = []
    for cut in cuts.pieces:
        try:
            found.append((mock_up(cut, play), f"piece {cut.number}, {cut.kind}"))
        except InputError as exc:
            found.append((None, str(exc)))
    return found


@room.get("/<name>.stl")
def file(job_id: int, name: str) -> Response:
    from ...formats.model_files import write_stl

    with transaction() as connection:
        at_hand(connection, job_id)
    tool = next((t for t in TOOLS if t.key == name), None)
    if tool is None:
        abort(404)
    try:
        made = tool.work(tool.read())
    except (Faults, InputError):
        return _back(job_id, tool)
    return _sent(write_stl([made]), "model/stl", f"{name}.stl")


def _back(job_id: int, tool: Helper[Any]) -> Response:
    """To the page, where what is wrong stands at its field."""
    return redirect(url_for("printing.show", job_id=job_id, tool=tool.key, **tool.typed()), 303)  # type: ignore[return-value]


@room.get("/mockup-<run_id>.zip")
def mock_up_files(job_id: int, run_id: str) -> Response:
    """All pieces of a run that can be printed, one STL each."""
    from ...formats.model_files import write_stl

    with transaction() as connection:
        here = at_hand(connection, job_id)
    run = next((r for r in here.system.runs if r.run.id == run_id and r.pieces), None)
    if run is None:
        abort(404)
    try:
        pieces = _mock_ups(here, run)
    except (Faults, InputError):
        return _back(job_id, MOCK_UP)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as files:
        for surface, words in pieces:
            if surface is not None:
                files.writestr(f"job-{job_id}-{words.split(',')[0].replace(' ', '-')}.stl", write_stl([surface]))
    return _sent(out.getvalue(), "application/zip", f"job-{job_id}-mock-up.zip")


def _sent(data: bytes, mimetype: str, name: str) -> Response:
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(data, mimetype=mimetype, headers=headers)
