"""The job laid into bars: what to take from the shelf, what to buy, how each bar is cut."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, g, render_template, request

from ...core.cutting import MATERIAL_NAMES, CutList, cut_lists
from ...core.laying import LaidRun
from ...core.nesting import AIMS, BOUGHT, Aim, PartsLine, Saw, Stocked, TubeNest, nest_job, parts_list, yield_of
from ...core.records import Design
from ...core.units import format_length
from ...formats.papers.parts_csv import write_parts_csv
from ...store import stock
from ..drawing.bars import draw_bars
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import Said
from ..page.figures import typing_unit
from ..page.progress import steps
from ..page.reader import Reader
from ..page.window import USUAL_WIDTH_PX

room = Blueprint("nesting", __name__)

WAITS_S = 1.0  # so long a page looks for each tube: what is not proven by then says so


@dataclass(frozen=True)
class JobNest:
    """The job's runs with their cut lists, what is on the shelf, and how the straights lie in it."""

    runs: list[LaidRun]
    lists: list[CutList]
    shelf: list[stock.OnShelf]
    tubes: list[TubeNest]

    def lines(self, design: Design, unit: str) -> list[PartsLine]:
        return parts_list(design, self.runs, self.lists, self.tubes, _stocked(self.shelf), unit)


@room.get("/jobs/<int:job_id>/cut/nest")
def show(job_id: int) -> Any:
    aim = _aim()
    with transaction() as connection:
        here = at_hand(connection, job_id)
        job = _nested(here, stock.shelf(connection), aim)
    names = {f"{r.run.id}:{p.number}": _name(here, r.run.name or r.run.id, p.number)
             for r, cuts in zip(job.runs, job.lists, strict=True) for p in cuts.pieces}  # fmt: skip
    titles = {str(one.id): _title(one) for one in job.shelf} | {BOUGHT: "bought"}
    width = USUAL_WIDTH_PX["w"]
    tubes = [(_tube_words(one), one, draw_bars(one, names, titles, width, g.unit)) for one in job.tubes]
    return render_template(
        "cut/nest.html", here=here, line=steps(here.design, here.found, here.job.road_use), step="cut",
        sheet="nesting.show", tubes=tubes,
        aims=AIMS, aim=aim, names=names, width_px=width, kept=bool(job.shelf), parts=job.lines(here.design, g.unit),
        **({"said": Said(typed=request.args.to_dict())} | _yields(here)),
    )  # fmt: skip


def _yields(here: AtHand) -> dict[str, Any]:
    """How many pieces of a length a bar gives, where that was asked; what is wrong with the question."""
    if not request.args.get("piece") and not request.args.get("bar"):
        return {"yields": None}
    reader, rules = Reader(request.args, typing_unit()), here.design.settings.rules
    bar, piece = (float(reader.length(key, 1.0, 12_000.0)) for key in ("bar", "piece"))
    saw = Saw(float(here.design.settings.kerf_mm), float(rules.facing_mm))
    if reader.errors:
        return {"yields": None, "said": Said(errors=reader.errors, typed=request.args.to_dict())}
    bare = yield_of(bar, piece, Saw(0.0))
    return {"yields": (yield_of(bar, piece, saw), bare, bar, piece, saw)}


@room.get("/jobs/<int:job_id>/cut/parts.csv")
def csv(job_id: int) -> Response:
    """The parts list as a table, what is to buy by its supplier first."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        lines = _nested(here, stock.shelf(connection), _aim()).lines(here.design, g.unit)
    name = f"job-{job_id}-parts.csv"
    return Response(write_parts_csv(lines), mimetype="text/csv", headers={
        "Content-Disposition": f'attachment; filename="{name}"'})  # fmt: skip


def _aim() -> Aim:
    return next((a for a in AIMS if a == request.args.get("aim")), AIMS[0])


def _stocked(shelf: list[stock.OnShelf]) -> list[Stocked]:
    return [Stocked(str(one.id), one.item, one.counted) for one in shelf]


def _nested(here: AtHand, shelf: list[stock.OnShelf], aim: Aim) -> JobNest:
    """The job's nest, kept by the design and what is on the shelf: to show it again does not solve it again."""
    rules, kerf = here.design.settings.rules, float(here.design.settings.kerf_mm)
    runs = [r for r in here.found.system.runs if r.pieces]
    lists = cut_lists(here.design, runs)
    by_run = {r.run.id: cuts for r, cuts in zip(runs, lists, strict=True)}
    on_shelf = _stocked(shelf)
    key = "nest", aim, tuple((one.id, one.count, one.item) for one in on_shelf)
    tubes = solved(here.design, key, lambda: nest_job(by_run, on_shelf, rules, kerf, aim, WAITS_S))
    return JobNest(runs, lists, shelf, tubes)


def _name(here: AtHand, run: str, number: int) -> str:
    return f"{run} {number}" if len(here.design.runs) > 1 else f"{number}"


def _title(one: stock.OnShelf) -> str:
    where = f", bin {one.item.bin}" if one.item.bin else ""
    return f"{'offcut' if one.item.is_offcut else 'from the shelf'}{where}"


def _tube_words(one: TubeNest) -> str:
    tube = one.tube
    size = f"{format_length(tube.od_mm, g.unit)} x {format_length(tube.wall_mm, g.unit)}"
    return f"{size} {MATERIAL_NAMES[tube.material]}"
