"""Cut: the pieces in order, what is ticked of them, and the shop sheet."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from typing import Any

from flask import Blueprint, Response, abort, g, render_template, request
from flask.typing import ResponseReturnValue

from ...core.cutting import (
    CutList,
    CutPiece,
    cut_lists,
    fittings,
    hand_of,
    out_of_reach,
    shape_of,
    witness_marks,
)
from ...core.records import Design, Run
from ...core.review import off_the_table, sections
from ...core.wording import say
from ...facts import TUBE_METALS
from ...formats import step_files
from ...formats.design_json import write_design
from ...formats.papers.cautions import cautions_for
from ...formats.papers.cut_csv import write_cut_csv
from ...formats.papers.cut_rows import CutRow, rows
from ...store import jobs, ticks
from ..drawing.piece_picture import PiecePicture, draw_piece
from ..page.at_hand import AtHand, at_hand, transaction

room = Blueprint("cut", __name__)

CARD_PX, ROW_PX = (720.0, 260.0), (190.0, 74.0)


@dataclass(frozen=True)
class RunCut:
    """A run's cut list and the keys of its pieces that are cut."""

    run: Run
    cuts: CutList
    done: frozenset[str]


@dataclass(frozen=True)
class OnBench:
    """A run with its cut list, what is ticked, and what was ticked of pieces that have another shape since."""

    run: Run | None
    cuts: CutList | None
    rows: list[CutRow]
    marks: dict[str, dict[str, Any]]
    old: dict[str, dict[str, Any]]
    runs: tuple[RunCut, ...] = ()

    @property
    def count(self) -> int:
        """Pieces of all runs together."""
        return sum(len(r.cuts.pieces) for r in self.runs)

    @property
    def counts(self) -> dict[str, int]:
        """How many pieces each run has; one without pipe none."""
        return defaultdict(int, {r.run.id: len(r.cuts.pieces) for r in self.runs})

    @property
    def done(self) -> int:
        """How many of them are cut."""
        return sum(len(r.done) for r in self.runs)

    @property
    def waiting(self) -> list[CutPiece]:
        """Those of this run that are not cut: a piece is known by its number in its run."""
        shown = (r for r in self.runs if self.run and r.run.id == self.run.id)
        return [c for r in shown for c in r.cuts.pieces if piece_key(c) not in r.done]


def on_the_bench(connection: Any, here: AtHand, run_id: str | None) -> OnBench:
    run = here.design.run(run_id or "") or (here.design.runs[0] if here.design.runs else None)
    every = [r for r in here.system.runs if r.pieces]
    lists = cut_lists(here.design, every, here.bends)
    ticks = {r.run.id: _ticks(connection, here, r.run.id, cuts) for r, cuts in zip(every, lists, strict=True)}
    runs = tuple(
        RunCut(laid.run, cuts, frozenset(k for k, m in ticks[laid.run.id][0].items() if m["outcome"] == "done"))
        for laid, cuts in zip(every, lists, strict=True)
    )
    chosen = next((r for r in runs if run and r.run.id == run.id), None)
    if run is None or chosen is None:
        return OnBench(run, None, [], {}, {}, runs)
    return OnBench(run, chosen.cuts, rows(here.design, chosen.cuts, g.unit), *ticks[run.id], runs)


Ticks = dict[str, dict[str, Any]]


def _ticks(connection: Any, here: AtHand, run_id: str, cuts: CutList) -> tuple[Ticks, Ticks]:
    """Return the ticked pieces of a run; and what was ticked of one that is drawn otherwise now: it is not cut yet."""
    found = ticks.of_run(connection, here.job.design_id, run_id)
    marks: Ticks = {}
    old: Ticks = {}
    for cut in cuts.pieces:
        mark = found.get(piece_key(cut))
        if mark:
            (marks if mark["shape"] == shape_of(cut) else old)[piece_key(cut)] = mark
    return marks, old


def piece_key(cut: CutPiece) -> str:
    """A cut's lasting name: the design piece it is mainly made for."""
    return cut.laid.piece.id


@room.get("/jobs/<int:job_id>/cut")
def show(job_id: int) -> ResponseReturnValue:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, request.args.get("run"))
        able = jobs.equipment(connection)
    wrong = [
        (say(f, here.design, g.unit), "touches" if f.spoils else "tight") for f in here.found.findings if f.rank[0] < 4
    ]
    limits = out_of_reach(bench.cuts.pieces if bench.cuts else (), able, g.unit)
    limits += off_the_table(sections(here.design, here.system), able, g.unit)
    wrong += [(words, "tight") for words in limits]
    hand = hand_on(here, bench)
    pairs = (
        [
            (words, cut, drawn_on(here.design, cut, hand, ROW_PX))
            for words, cut in zip(bench.rows, bench.cuts.pieces, strict=True)
        ]
        if bench.cuts
        else []
    )
    return render_template(
        "cut/page.html",
        here=here,
        step="cut",
        bench=bench,
        sheet="cut.show",
        pairs=pairs,
        witness=_witness(bench),
        hand=hand,
        wrong=wrong,
        key=piece_key,
        fittings=fittings(here.design, here.system.runs),
        cautions=cautions_for(here.design, here.found, g.unit),
        materials=TUBE_METALS,
        has_step=step_files.is_there(),
    )


@room.get("/jobs/<int:job_id>/cut/sheet.pdf")
def sheet(job_id: int) -> Response:
    """The shop sheet at real paper size."""
    paper = request.args.get("paper", "a4")
    from ...formats.papers.sheet_pdf import PAPERS, write_sheet

    if paper not in PAPERS:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, request.args.get("run"))
    if bench.cuts is None or bench.run is None:
        abort(404)
    lines = [
        f"{here.job.vehicle} · {here.job.customer} · {here.job.road_use} · "
        f"design revision {here.number}, survey revision {here.survey_revision.number} · "
        f"printed {date.today().isoformat()}"
    ]
    if here.job.found_removed:
        lines.append(f"Found removed at intake: {here.job.found_removed}")
    title = f"Job {here.job.id}: {here.job.title}"
    data = write_sheet(title, lines, here.design, here.found, bench.cuts, run_id=bench.run.id, paper=paper, unit=g.unit)
    headers = {"Content-Disposition": f'inline; filename="job-{job_id}-sheet-{paper}.pdf"'}
    return Response(data, mimetype="application/pdf", headers=headers)


@room.get("/jobs/<int:job_id>/cut.csv")
def csv(job_id: int) -> Response:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = on_the_bench(connection, here, request.args.get("run"))
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


def hand_on(here: AtHand, bench: OnBench) -> str:
    """Which side of its line the run on the bench lies on, where it has a twin."""
    laid = next((r for r in here.system.runs if bench.run and r.run.id == bench.run.id), None)
    return hand_of(here.design, laid) if laid else ""


def drawn_on(design: Design, cut: CutPiece, hand: str, size: tuple[float, float]) -> PiecePicture | None:
    facing = float(design.settings.rules.facing_mm)
    return draw_piece(cut, facing, g.unit, size, figures=size == CARD_PX, mirrored=hand == "right")


def _witness(bench: OnBench) -> list[tuple[float, tuple[float, ...]]]:
    """Where the witness marks of a run's joints go: outside diameter, and the tape's figures; for each tube of it."""
    tubes = {c.tube.od_mm: c.tube for c in bench.cuts.pieces} if bench.cuts else {}
    return [(float(od), witness_marks(tube)) for od, tube in tubes.items()]
