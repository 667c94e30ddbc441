"""The job laid into bars: what to take from the shelf, what to buy, how each bar is cut."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from flask import Blueprint, Response, g, redirect, render_template, request, url_for

from ...core.cutting import MATERIAL_NAMES, BendPlan, CutList, Offcut, cut_lists, cut_with_rests
from ...core.errors import EditError, MissingError
from ...core.laying import LaidRun
from ...core.nesting import (
    BOUGHT,
    JOB_AIMS,
    JobAim,
    PartsLine,
    Saw,
    Spare,
    Stocked,
    TubeNest,
    changed_since,
    from_kept,
    nest_bends,
    nest_job,
    parts_list,
    plan_of,
    plan_to_keep,
    rests_of_bars,
    rests_of_bends,
    spares,
    to_keep,
    yield_of,
)
from ...core.records import Bend, Design, Run
from ...core.units import format_length
from ...formats.papers.parts_csv import write_parts_csv
from ...store import job_stock, stock
from ...store.database import Connection
from ..drawing.bars import draw_bars, draw_bends
from ..page.at_hand import AtHand, at_hand, solved, transaction
from ..page.edits import Said
from ..page.figures import typing_unit
from ..page.progress import steps
from ..page.reader import Reader
from ..page.window import USUAL_WIDTH_PX

room = Blueprint("nesting", __name__)

WHO_DAYS = 400
WAITS_S = 1.0  # so long a page looks for each tube: what is not proven by then says so


@dataclass(frozen=True)
class JobNest:
    """The job's runs with their cut lists, what is on the shelf, and how the straights lie in it."""

    runs: list[LaidRun]
    lists: list[CutList]
    shelf: list[stock.OnShelf]
    tubes: list[TubeNest]
    plan: BendPlan

    def lines(self, design: Design, unit: str) -> list[PartsLine]:
        return parts_list(design, self.runs, self.lists, self.tubes, self.plan, _stocked(self.shelf), unit)


@room.get("/jobs/<int:job_id>/cut/nest")
def show(job_id: int) -> Any:
    return _page(job_id, Said(typed=request.args.to_dict()))


def _page(job_id: int, said: Said, code: int = 200) -> Any:
    aim = _aim()
    with transaction() as connection:
        here = at_hand(connection, job_id)
        was = job_stock.taken(connection, job_id)
        orders = job_stock.orders(connection, job_id)
        job = nested(here, stock.shelf(connection), aim, was)
    by_run = {r.run.id: cuts for r, cuts in zip(job.runs, job.lists, strict=True)}
    names = {f"{run}:{p.number}": _name(here, here.design.run(run), p.number)
             for run, cuts in by_run.items() for p in cuts.pieces}  # fmt: skip
    changed = [names.get(name, "one that is gone") for name in changed_since(job.tubes, by_run)] if was else []
    names = {cut: "?" for one in job.tubes for cut in one.cuts} | names
    titles = {str(one.id): _title(one) for one in job.shelf} | {BOUGHT: "bought"}
    width = USUAL_WIDTH_PX["w"]
    bends = draw_bends(job.plan, _turns(job.runs), names_of_bends(job, names), width)
    tubes = [(_tube_words(one), one, draw_bars(one, names, titles, width, g.unit)) for one in job.tubes]
    worst = [(_title_of(names, one), one) for one in spares(job.tubes)]
    plain, shown = job.lines(here.design, "mm"), job.lines(here.design, g.unit)
    parts = [(line, key.words, orders.get(key.words)) for line, key in zip(shown, plain, strict=True)]
    asked = _yields(here)
    said.errors |= asked.pop("errors", {})
    return render_template(
        "cut/nest.html", here=here, line=steps(here.design, here.found, here.job.road_use, here.bends), step="cut",
        sheet="nesting.show", tubes=tubes, bends=bends, aims=JOB_AIMS, aim=aim, names=names,
        width_px=width, kept=bool(job.shelf),
        parts=parts, was=was, changed=changed, said=said, who=request.cookies.get("who", ""), **asked,
        worst=worst, served=any(line.items for line in plain),
    ), code  # fmt: skip


@room.post("/jobs/<int:job_id>/cut/nest/take")
def take(job_id: int) -> Any:
    """Take what the shelf has for this job, and leave the rests on it as offcuts."""

    def taking(connection: Connection, who: str) -> None:
        here = at_hand(connection, job_id, hold=True)
        shelf = stock.shelf(connection)
        job = nested(here, shelf, _aim(), None)
        wanted = [(int(item), n) for line in job.lines(here.design, "mm") for item, n in line.items]
        if not wanted:
            raise EditError("the shelf has nothing that this job takes: all of it is bought")
        source = {str(one.id): one.item for one in shelf}
        rests = cut_with_rests(here.design, job.runs, job.plan)[1]
        left = [*rests_of_bars(job.tubes, source), *rests_of_bends(_of_the_shelf(rests, shelf))]
        kept = to_keep(job.tubes) | {"bends": plan_to_keep(job.plan)}
        job_stock.take(connection, job_id, who, kept, wanted, left)

    return _booked(job_id, taking)


def _turns(runs: list[LaidRun]) -> dict[tuple[str, str], float]:
    """What every bend of the job turns [deg], by its run and piece."""
    return {(laid.run.id, p.piece.id): p.piece.angle_deg for laid in runs for p in laid.pieces
            if isinstance(p.piece, Bend)}  # fmt: skip


def names_of_bends(job: JobNest, names: dict[str, str]) -> dict[tuple[str, str], str]:
    """What each bend is called on the cut list."""
    return {
        (laid.run.id, p.laid.piece.id): names[f"{laid.run.id}:{p.number}"]
        for laid, cuts in zip(job.runs, job.lists, strict=True) for p in cuts.pieces if p.kind == "bend"
    }  # fmt: skip


def _of_the_shelf(rests: list[Offcut], shelf: list[stock.OnShelf]) -> list[Offcut]:
    """Rests of bends whose kind the shelf has: those of bought ones are put there when they are cut."""
    kinds = {(one.item.material, one.item.od_mm, one.item.clr_mm) for one in shelf
             if one.item.kind == "bend" and one.counted}  # fmt: skip
    return [r for r in rests if (r.tube.material, r.tube.od_mm, r.stock.clr_mm) in kinds]


@room.post("/jobs/<int:job_id>/cut/nest/back")
def put_back(job_id: int) -> Any:
    """Bring back all that was taken for this job."""
    return _booked(job_id, lambda connection, who: _back(connection, job_id, who))


def _back(connection: Connection, job_id: int, who: str) -> None:
    job_stock.put_back(connection, job_id, who)


@room.post("/jobs/<int:job_id>/cut/nest/order")
def order(job_id: int) -> Any:
    """Say of a line that it is ordered, here, or wrong; or take that back."""

    def ordering(connection: Connection, who: str) -> None:
        at_hand(connection, job_id)
        line, _, state = request.form.get("move", "")[:400].rpartition("|")
        job_stock.order(connection, job_id, line[:300], state, who)

    return _booked(job_id, ordering)


def _booked(job_id: int, change: Callable[[Connection, str], None]) -> Any:
    """Carry out one booking by who says so; what is wrong stands on the page."""
    who = " ".join(request.form.get("who", "").split())[:40]
    if not who:
        return _page(job_id, Said(errors={"who": "who? a first name will do: the shelf's book has who and when"}), 422)
    try:
        with transaction() as connection:
            change(connection, who)
    except (EditError, MissingError) as exc:
        return _page(job_id, Said(errors={"": str(exc)}, typed={"who": who}), 422)
    answer = redirect(url_for("nesting.show", job_id=job_id, aim=_aim()), 303)
    answer.set_cookie("who", who, max_age=WHO_DAYS * 86_400, samesite="Strict", httponly=True)
    return answer


def _yields(here: AtHand) -> dict[str, Any]:
    """How many pieces of a length a bar gives, where that was asked; what is wrong with the question."""
    if not request.args.get("piece") and not request.args.get("bar"):
        return {"yields": None}
    reader, rules = Reader(request.args, typing_unit()), here.design.settings.rules
    bar, piece = (float(reader.length(key, 1.0, 12_000.0)) for key in ("bar", "piece"))
    saw = Saw(float(here.design.settings.kerf_mm), float(rules.facing_mm))
    if reader.errors:
        return {"yields": None, "errors": reader.errors}
    bare = yield_of(bar, piece, Saw(0.0))
    return {"yields": (yield_of(bar, piece, saw), bare, bar, piece, saw)}


@room.get("/jobs/<int:job_id>/cut/parts.csv")
def csv(job_id: int) -> Response:
    """The parts list as a table, what is to buy by its supplier first."""
    with transaction() as connection:
        here = at_hand(connection, job_id)
        was = job_stock.taken(connection, job_id)
        lines = nested(here, stock.shelf(connection), _aim(), was).lines(here.design, g.unit)
    name = f"job-{job_id}-parts.csv"
    return Response(write_parts_csv(lines), mimetype="text/csv", headers={
        "Content-Disposition": f'attachment; filename="{name}"'})  # fmt: skip


def _aim() -> JobAim:
    return next((a for a in JOB_AIMS if a == request.values.get("aim")), JOB_AIMS[0])


def _stocked(shelf: list[stock.OnShelf]) -> list[Stocked]:
    return [Stocked(str(one.id), one.item, one.counted) for one in shelf]


def nested(here: AtHand, shelf: list[stock.OnShelf], aim: JobAim, was: job_stock.Taken | None) -> JobNest:
    """The job's nest as it was taken; else as it would be, kept by the design and what is on the shelf: to show it
    again does not solve it again.
    """
    rules, kerf = here.design.settings.rules, float(here.design.settings.kerf_mm)
    runs = [r for r in here.found.system.runs if r.pieces]
    if was is not None:
        lists = cut_lists(here.design, runs, here.bends)
        return JobNest(runs, lists, _with_taken(shelf, was), from_kept(was.nest), here.bends)
    on_shelf = _stocked(shelf)
    key = aim, tuple((one.id, one.count, one.item) for one in on_shelf)

    def bent() -> BendPlan:
        return plan_of(nest_bends(here.design, runs, on_shelf, aim, WAITS_S), runs, kerf)

    plan = solved(here.design, ("bends", *key), bent)
    lists = cut_lists(here.design, runs, plan)
    by_run = {r.run.id: cuts for r, cuts in zip(runs, lists, strict=True)}
    tubes = solved(here.design, ("bars", *key), lambda: nest_job(by_run, on_shelf, rules, kerf, aim, WAITS_S))
    return JobNest(runs, lists, shelf, tubes, plan)


def _with_taken(shelf: list[stock.OnShelf], was: job_stock.Taken) -> list[stock.OnShelf]:
    """The shelf as the job sees it: what was taken for it counts, what it left there does not."""
    counts = dict(was.items)
    return [replace(one, counted=counts.get(one.id, 0)) for one in shelf if one.id not in was.left]


def _name(here: AtHand, run: Run | None, number: int) -> str:
    said = (run.name or run.id) if run else ""
    return f"{said} {number}" if len(here.design.runs) > 1 else f"{number}"


def _title(one: stock.OnShelf) -> str:
    where = f", bin {one.item.bin}" if one.item.bin else ""
    return f"{'offcut' if one.item.is_offcut else 'from the shelf'}{where}"


def _title_of(names: dict[str, str], one: Spare) -> str:
    return f"{names[one.name]}, {format_length(one.length_mm, g.unit, 0)}"


def _tube_words(one: TubeNest) -> str:
    tube = one.tube
    size = f"{format_length(tube.od_mm, g.unit)} x {format_length(tube.wall_mm, g.unit)}"
    return f"{size} {MATERIAL_NAMES[tube.material]}"
