"""Cut: the pieces in order, the shop sheet, and the creeper card that steps through them."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from typing import Any

from flask import Blueprint, Response, abort, g, redirect, render_template, request, url_for

from ...core.cutting import (
    MATERIAL_NAMES,
    WENT_WRONG,
    CutList,
    CutPiece,
    cut_lists,
    fittings,
    hand_of,
    rescue,
    shape_of,
    witness_marks,
)
from ...core.errors import InputError, MissingError
from ...core.records import Design, Rules, Run
from ...core.units import format_length, parse_length, parse_number
from ...core.wording import say
from ...formats import step_files
from ...formats.design_json import write_design
from ...formats.papers.cautions import cautions_for
from ...formats.papers.cut_csv import write_cut_csv
from ...formats.papers.cut_rows import CutRow, row, rows
from ...store import ticks
from ..drawing.piece_picture import PiecePicture, draw_piece
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.figures import number, typing_unit
from ..page.progress import steps

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


def _bench(connection: Any, here: AtHand, run_id: str | None) -> OnBench:
    run = here.design.run(run_id or "") or (here.design.runs[0] if here.design.runs else None)
    every = [r for r in here.found.system.runs if r.pieces]
    lists = cut_lists(here.design, every)
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
    """What is ticked of a run's pieces; and what was ticked of one that is drawn otherwise now: it is not cut yet."""
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
def show(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    wrong = [(say(f, here.design, g.unit), "touches" if f.spoils else "tight")
             for f in here.found.findings if f.rank[0] < 4]  # fmt: skip
    hand = _hand(here, bench)
    pairs = [(words, cut, _drawn(here.design, cut, hand, ROW_PX))
             for words, cut in zip(bench.rows, bench.cuts.pieces, strict=True)] if bench.cuts else []  # fmt: skip
    return render_template(
        "cut/page.html", here=here, line=steps(here.design, here.found, here.job.road_use), step="cut", bench=bench,
        sheet="cut.show", pairs=pairs, witness=_witness(bench), hand=hand, wrong=wrong, key=piece_key,
        fittings=fittings(here.design, here.found.system.runs),
        cautions=cautions_for(here.design, here.found, g.unit), materials=MATERIAL_NAMES,
        has_step=step_files.is_there(),
    )  # fmt: skip


@room.get("/jobs/<int:job_id>/cut/sheet.pdf")
def sheet(job_id: int) -> Response:
    """The shop sheet at real paper size."""
    paper = request.args.get("paper", "a4")
    from ...formats.papers.sheet_pdf import PAPERS, write_sheet

    if paper not in PAPERS:
        abort(404)
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
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
    data = write_sheet(title, lines, here.design, here.found, bench.cuts, run_id=bench.run.id,
                       paper=paper, unit=g.unit)  # fmt: skip
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
    drawing: PiecePicture | None
    word: str


@room.get("/jobs/<int:job_id>/cut/card")
def card(job_id: int) -> Any:
    with transaction() as connection:
        here = at_hand(connection, job_id)
        bench = _bench(connection, here, request.args.get("run"))
    if bench.cuts is None:
        return redirect(url_for("cut.show", job_id=job_id), 303)
    pieces = bench.cuts.pieces
    count = len(pieces)
    open_now = [i for i, c in enumerate(pieces, 1) if bench.marks.get(piece_key(c), {}).get("outcome") != "done"]
    first = open_now[0] if open_now else count + 1
    named = next((i for i, c in enumerate(pieces, 1) if piece_key(c) == request.args.get("piece")), first)
    at = int(number(request.args.get("at"), named))  # a label leads to its piece, wherever that stands now
    if at > count and open_now:  # past the last, with some left: the first of those
        at = open_now[0]
    last = (request.args.get("last", ""), int(number(request.args.get("last_at"), 0)))
    states = [bench.marks.get(piece_key(c), {}).get("outcome", "") for c in pieces]
    frame = {"here": here, "bench": bench, "count": count, "states": states, "last": last}
    if at > count:
        left = next((r for r in bench.runs if len(r.done) < len(r.cuts.pieces)), None)
        return render_template("cut/card_end.html", **frame, at=count, next_run=left)
    at = max(at, 1)
    cut = pieces[at - 1]
    mark = bench.marks.get(piece_key(cut))
    rescued = _rescued(cut, mark, bench, here.design.settings.rules)
    return render_template(
        "cut/card.html", **frame, at=at, card=_card(here.design, cut, _hand(here, bench)), mark=mark,
        key=piece_key(cut),
        asks=request.args.get("ask") == "wrong", went_wrong=WENT_WRONG, rescued=rescued,
        typed=request.args, error=request.args.get("error", ""),
    )  # fmt: skip


def _hand(here: AtHand, bench: OnBench) -> str:
    """Which side of its line the run on the bench lies on, where it has a twin."""
    laid = next((r for r in here.found.system.runs if bench.run and r.run.id == bench.run.id), None)
    return hand_of(here.design, laid) if laid else ""


def _drawn(design: Design, cut: CutPiece, hand: str, size: tuple[float, float]) -> PiecePicture | None:
    facing = float(design.settings.rules.facing_mm)
    return draw_piece(cut, facing, g.unit, size, figures=size == CARD_PX, mirrored=hand == "right")


def _witness(bench: OnBench) -> list[tuple[float, tuple[float, ...]]]:
    """Where the witness marks of a run's joints go: outside diameter, and the tape's figures; for each tube of it."""
    tubes = {c.tube.od_mm: c.tube for c in bench.cuts.pieces} if bench.cuts else {}
    return [(float(od), witness_marks(tube)) for od, tube in tubes.items()]


def _rescued(cut: CutPiece, mark: dict[str, Any] | None, bench: OnBench, rules: Rules) -> tuple[str, list[str]]:
    """What went wrong with a piece, and what can still be done with it."""
    if not mark or mark["outcome"] != "went wrong":
        return "", []
    what, _, by = mark["note"].partition(" ")
    return WENT_WRONG.get(what, "went wrong"), rescue(cut, what, number(by, 0.0), bench.waiting, rules, g.unit)


def _card(design: Design, cut: CutPiece, hand: str) -> Card:
    words = row(design, cut, g.unit)
    drawing = _drawn(design, cut, hand, CARD_PX)
    tube = f"{format_length(cut.tube.od_mm, g.unit)} × {format_length(cut.tube.wall_mm, g.unit)}"
    place = f"back {words.station}"
    at_ends = [
        ("angle finder, at its start then its end", words.angle_finder, ""),
        ("heading at its end, off the rail", words.heading, words.rail),
        ("underside over ground, at its start then its end", words.underside, words.now),
    ]
    if cut.marks:
        title = f"{words.what}, {'whole' if not cut.marks.cut else 'off a'} {words.source}"
        heel = format_length(cut.marks.heel_from_end_mm, g.unit, suffix=False)
        from_end = f"{heel} / {words.throat_from_end}" if words.throat_from_end else ""
        figures = [
            ("heel, from where the bend starts", words.heel, ""),
            ("throat, from where the bend starts", words.throat, ""),
            ("heel / throat, from the stock's end", from_end, ""),
            ("clock on the vehicle, at its end", words.clock, ""),
            (
                "throat, round the tube at its start, from the line",
                words.round_the_tube,
                "looking toward the engine end",
            ),
            at_ends[0],
        ]
        line = f"{place} · {tube}, radius {format_length(cut.marks.stock.clr_mm, g.unit, 2)} · keep {words.keep}"
        word = "Cut on the waste side of the mark, through the bend's centre. Face it square, deburr inside."
        return Card(title, line, figures, drawing, word)
    line = f"{place} · {tube} {MATERIAL_NAMES[cut.tube.material]}"
    figures = [("cut length, both ends square", words.length, words.note), *at_ends]
    word = "Draw the reference line along the tube before it goes in: every roll is taped from it."
    if cut.kind == "part":
        figures = figures[1:]
        word = "Hold the reference lines of both sides in line when it goes in."
    if cut.kind in ("mitre", "pie"):
        figures = [("how it is cut", words.note, ""),
                   ("throat, round the tube at its start, from the line", words.round_the_tube,
                    "looking to the engine end"),
                   ("clock on the vehicle, at its end", words.clock, ""), *at_ends]  # fmt: skip
    if cut.problem:
        word = cut.problem
    return Card(words.what, line, figures, drawing, word)


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
        where = (here.job.design_id, run, piece)
        if outcome == "undo":
            ticks.take_back(connection, *where)
        elif outcome == "done":
            ticks.keep(connection, *where, outcome, shape_of(cut))
        elif outcome == "went wrong":
            what, by = request.form.get("what", ""), request.form.get("by", "").strip()
            if what not in WENT_WRONG:
                return redirect(url_for("cut.card", job_id=job_id, run=run, at=at, ask="wrong"), 303)
            try:
                off = _off_by(what, by)
            except InputError as exc:
                again = url_for(
                    "cut.card", job_id=job_id, run=run, at=at, ask="wrong", what=what, by=by, error=str(exc)
                )
                return redirect(again, 303)
            ticks.keep(connection, *where, outcome, shape_of(cut), f"{what} {off:g}")
        else:
            abort(400)
    forward = at + 1 if outcome == "done" else at
    return redirect(url_for("cut.card", job_id=job_id, run=run, at=forward, last=outcome, last_at=at), 303)


def _off_by(what: str, text: str) -> float:
    """By how much a piece is off, mm or degrees; 0 where nobody said. Raises InputError."""
    if not text:
        return 0.0
    if what in ("little", "much"):
        return parse_number(text, "by how many degrees", 0.0, 180.0)
    return float(parse_length(text, typing_unit(), least=0.0, most=3000.0))
