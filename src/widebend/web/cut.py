"""Cut: the pieces in order, the shop sheet, and the creeper card that steps through them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for

from ..core.cutting import CutList, CutPiece, cut_lists, shape_of
from ..core.errors import MissingError
from ..core.records import Design, Run
from ..core.tube import MATERIAL_NAMES
from ..core.units import format_length
from ..core.words import say
from ..formats.cautions import cautions_for
from ..formats.cut_csv import write_cut_csv
from ..formats.cut_rows import CutRow, row, rows
from ..formats.design_json import write_design
from ..store.database import queries
from .drawing.bend_card import BendDrawing, draw_bend
from .progress import steps
from .shared import AtHand, at_hand, number, transaction

room = Blueprint("cut", __name__)


@dataclass(frozen=True)
class OnBench:
    """A run with its cut list, what is ticked, and what was ticked of pieces that have another shape since."""

    run: Run | None
    cuts: CutList | None
    rows: list[CutRow]
    marks: dict[str, dict[str, Any]]
    old: dict[str, dict[str, Any]]


def _bench(connection: Any, here: AtHand, run_id: str | None) -> OnBench:
    run = here.design.run(run_id or "") or (here.design.runs[0] if here.design.runs else None)
    laid = next((r for r in here.found.system.runs if run and r.run.id == run.id), None)
    if run is None or laid is None or not laid.pieces:
        return OnBench(run, None, [], {}, {})
    every = [r for r in here.found.system.runs if r.pieces]
    cuts = cut_lists(here.design, every)[every.index(laid)]
    found = {m["piece_id"]: m for m in queries.card_marks(connection, document_id=here.job.design_id, run_id=run.id)}
    marks: dict[str, dict[str, Any]] = {}
    old: dict[str, dict[str, Any]] = {}
    for cut in cuts.pieces:  # a tick is for the metal that was cut: a piece drawn anew is not cut yet
        mark = found.get(piece_key(cut))
        if mark:
            (marks if mark["shape"] == shape_of(cut) else old)[piece_key(cut)] = mark
    return OnBench(run, cuts, rows(here.design, cuts, g.unit), marks, old)


def piece_key(cut: CutPiece) -> str:
    """A cut's lasting name: the design piece it is mainly made for."""
    return cut.laid.piece.id


@room.get("/jobs/<int:job_id>/cut")
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    wrong = [(say(f, here.design, g.unit), "touches" if f.spoils else "tight")
             for f in here.found.findings if f.rank[0] < 4]  # fmt: skip
    done = sum(m["outcome"] == "done" for m in bench.marks.values())
    pairs = list(zip(bench.rows, bench.cuts.pieces, strict=True)) if bench.cuts else []
    return render_template(
        "cut.html", here=here, line=steps(here.design, here.found, here.job.road_use), step="cut", bench=bench,
        pairs=pairs, wrong=wrong, done=done, key=piece_key,
        cautions=cautions_for(here.design, here.found, g.unit), materials=MATERIAL_NAMES,
    )  # fmt: skip


@room.get("/jobs/<int:job_id>/cut/sheet.pdf")
def sheet(job_id: int) -> Response:
    """The shop sheet at real paper size."""
    paper = request.args.get("paper", "a4")
    from ..formats.sheet_pdf import PAPERS, write_sheet  # half a second to load: only who prints waits for it

    if paper not in PAPERS:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    if bench.cuts is None:
        abort(404)
    lines = [
        f"{here.job.vehicle} · {here.job.customer} · {here.job.road_use} · "
        f"design revision {here.number}, survey revision {here.survey_revision.number}"
    ]
    if here.job.found_removed:
        lines.append(f"Found removed at intake: {here.job.found_removed}")
    title = f"Job {here.job.id}: {here.job.title}"
    data = write_sheet(title, lines, here.design, here.found, bench.cuts, paper=paper, unit=g.unit)
    headers = {"Content-Disposition": f'inline; filename="job-{job_id}-sheet-{paper}.pdf"'}
    return Response(data, mimetype="application/pdf", headers=headers)


@room.get("/jobs/<int:job_id>/cut.csv")
def csv(job_id: int) -> Response:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    if bench.cuts is None:
        abort(404)
    headers = {"Content-Disposition": f'attachment; filename="job-{job_id}-cut.csv"'}
    return Response(write_cut_csv(here.design, bench.cuts), mimetype="text/csv", headers=headers)


@room.get("/jobs/<int:job_id>/design.json")
def design_file(job_id: int) -> Response:
    """The whole design as an open file: what the command line reads."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
    headers = {"Content-Disposition": f'attachment; filename="job-{job_id}.json"'}
    return Response(write_design(here.design), mimetype="application/json", headers=headers)


# --- the creeper card --------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Card:
    """One step of the creeper card: a title, a line, up to four big figures, a drawing, a word."""

    title: str
    line: str
    figures: list[tuple[str, str, str]]
    drawing: BendDrawing | None
    word: str


@room.get("/jobs/<int:job_id>/cut/card")
def card(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    if bench.cuts is None:
        return redirect(url_for("cut.show", job_id=job_id), 303)
    count = len(bench.cuts.pieces)
    first_open = next((i for i, c in enumerate(bench.cuts.pieces) if piece_key(c) not in bench.marks), 0)
    at = int(number(request.args.get("at"), first_open + 1))
    at = min(max(at, 1), count)
    cut = bench.cuts.pieces[at - 1]
    states = [bench.marks.get(piece_key(c), {}).get("outcome", "") for c in bench.cuts.pieces]
    last = (request.args.get("last", ""), int(number(request.args.get("last_at"), 0)))
    return render_template(
        "card.html", here=here, bench=bench, at=at, count=count, card=_card(here.design, cut, bench),
        states=states, mark=bench.marks.get(piece_key(cut)), key=piece_key(cut), last=last,
    )  # fmt: skip


def _card(design: Design, cut: CutPiece, bench: OnBench) -> Card:
    words = row(design, cut, g.unit)
    tube = f"{format_length(cut.tube.od_mm, g.unit)} × {format_length(cut.tube.wall_mm, g.unit)}"
    place = f"back {words.station}"
    if cut.marks:
        title = f"{words.what}, {'whole' if not cut.marks.cut else 'off a'} {words.source}"
        figures = [
            ("heel, from where the bend starts", words.heel, ""),
            ("throat, from where the bend starts", words.throat, ""),
            ("clock on the vehicle", words.clock, ""),
            ("round the tube, from the reference line", words.round_the_tube, "looking toward the engine end"),
        ]
        line = f"{place} · {tube}, radius {format_length(cut.marks.stock.clr_mm, g.unit, 2)} · keep {words.keep}"
        drawing = draw_bend(cut, words)
        word = "Cut on the waste side of the mark, through the bend's centre. Face it square, deburr inside."
        return Card(title, line, figures, drawing, word)
    line = f"{place} · {tube} {MATERIAL_NAMES[cut.tube.material]}"
    figures = [
        ("cut length, both ends square", words.length, words.note),
        ("angle finder on the vehicle", words.angle_finder, ""),
        ("heading off the rail", words.heading, words.rail),
        ("underside over ground", words.underside, words.now or "at its two ends"),
    ]
    word = "Draw the reference line along the tube before it goes in: every roll is taped from it."
    if cut.kind == "part":
        figures = figures[1:]
        word = "Hold the reference lines of both sides in line when it goes in."
    if cut.problem:
        word = cut.problem
    return Card(words.what, line, figures, None, word)


@room.post("/jobs/<int:job_id>/cut/card")
def tick(job_id: int) -> Any:
    """Done, went wrong, or take the tick back."""
    at, outcome = int(number(request.form.get("at"), 1)), request.form.get("outcome", "")
    piece, run = request.form.get("piece", "")[:40], request.form.get("run", "")[:40]
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, run)
        cut = next((c for c in bench.cuts.pieces if piece_key(c) == piece), None) if bench.cuts else None
        if cut is None or bench.run is None or bench.run.id != run:
            raise MissingError("that piece is no longer in this run")
        where = {"document_id": here.job.design_id, "run_id": run, "piece_id": piece}
        if outcome == "undo":
            queries.clear_card_mark(connection, **where)
        elif outcome in ("done", "went wrong"):
            queries.set_card_mark(connection, **where, outcome=outcome, note="", shape=shape_of(cut))
        else:
            abort(400)
    forward = at + 1 if outcome == "done" else at
    return redirect(url_for("cut.card", job_id=job_id, run=run, at=forward, last=outcome, last_at=at), 303)
