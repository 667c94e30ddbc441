"""The job laid into bars: what to take from the shelf, what to buy, how each bar is cut."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from flask import Blueprint, Response, g, make_response, redirect, render_template, request, url_for
from flask.typing import ResponseReturnValue

from ...core.cutting import Offcut
from ...core.errors import EditError, MissingError
from ...core.laying import LaidRun
from ...core.nesting import (
    BOUGHT,
    JOB_AIMS,
    JobAim,
    Nest,
    Saw,
    Spare,
    TubeNest,
    changed_since,
    nest_from_kept,
    plan_to_keep,
    rests_of_bars,
    rests_of_bends,
    spares,
    to_keep,
    yield_of,
)
from ...core.records import Bend
from ...core.units import format_length
from ...facts import METALS
from ...formats.papers.parts_csv import write_parts_csv
from ...store import job_stock, jobs, stock
from ...store.database import Connection
from ...store.searches import Search, search, stop_search
from ...work.nests import wish_for
from ...work.searches import ask
from ..drawing.bars import BarPicture, draw_bars, draw_bends
from ..page.at_hand import AtHand, at_hand, transaction
from ..page.edits import FormState
from ..page.figures import number, typing_unit
from ..page.job_nest import JobNest, hanger_metal, job_nest, tried_kits
from ..page.people import remembered, who_is_here, who_says
from ..page.reader import Reader
from ..page.window import USUAL_WIDTH_PX

room = Blueprint("nesting", __name__)


@dataclass(frozen=True)
class Wanted:
    """How the sheet is asked for: what counts most, the jobs cut with this one, the longer look that was had."""

    aim: JobAim
    beside: tuple[int, ...]
    search: int

    @property
    def again(self) -> dict[str, Any]:
        """The same in an address."""
        return {"aim": self.aim, "with": list(self.beside), "search": self.search or None}


def _wanted() -> Wanted:
    aim = next((a for a in JOB_AIMS if a == request.values.get("aim")), JOB_AIMS[0])
    beside = tuple(int(number(text, 0)) for text in request.values.getlist("with")[:40])
    return Wanted(aim, tuple(n for n in beside if n > 0), max(0, int(number(request.values.get("search"), 0))))


@room.get("/jobs/<int:job_id>/cut/nest")
def show(job_id: int) -> ResponseReturnValue:
    return _page(job_id, FormState(typed=request.args.to_dict()))


def _page(job_id: int, said: FormState, code: int = 200) -> ResponseReturnValue:
    wanted = _wanted()
    with transaction() as connection:
        here = at_hand(connection, job_id)
        was = job_stock.taken(connection, job_id)
        orders = job_stock.orders(connection, job_id)
        looked = _looked(connection, here, wanted)
        try:
            job = job_nest(connection, here, wanted.aim, wanted.beside, _known(looked))
        except EditError as exc:
            said.errors.setdefault("", str(exc))
            job = job_nest(connection, here, wanted.aim, (), _known(looked))
        kits = [kit for _, kit in stock.kits(connection)] if was is None and _buys(job) else []
        others = [(one.id, one.title) for one in jobs.open_jobs(connection) if one.id != job_id]
    names = _names(here, job)
    changed = [names.get(name, "one that is gone") for name in changed_since(job.tubes, job.by_run)] if was else []
    names = {cut: "?" for one in job.tubes for cut in one.cuts} | names
    width = USUAL_WIDTH_PX["w"]
    titles = {str(one.id): _title(one) for one in job.shelf} | {BOUGHT: "bought"}
    tubes = [(_tube_words(one), one, draw_bars(one, names, titles, width, g.unit)) for one in job.tubes]
    metal = [
        (one, draw_bars(one, {name: name for name in one.cuts}, {}, width, g.unit))
        for one in hanger_metal(here, g.unit)
    ]
    plain, shown = job.lines(here, "mm"), job.lines(here, g.unit)
    parts = [(line, key.words, orders.get(key.words)) for line, key in zip(shown, plain, strict=True)]
    asked = _yields(here)
    said.errors |= asked.pop("errors", {})
    return render_template(
        "cut/nest.html",
        here=here,
        step="cut",
        sheet="nesting.show",
        tubes=tubes,
        metal=metal,
        bends=_draw_bends(job, names, width),
        aims=JOB_AIMS,
        wanted=wanted,
        names=names,
        width_px=width,
        kept=bool(job.shelf),
        parts=parts,
        was=was,
        changed=changed,
        said=said,
        who=who_is_here(),
        others=others,
        beside=[one.here.job for one in job.beside],
        worst=[(_title_of(names, one), one) for one in spares(job.tubes)],
        served=any(line.items for line in plain),
        watched=_watched(job_id, looked, wanted),
        longer=bool(job.open_asked) and not (looked and looked.goes_on),
        by_itself=looked is None or looked.state == "done",
        kits=len(kits),
        tried=tried_kits(here, job, kits, wanted.aim, g.unit) if request.args.get("kits") else [],
        **asked,
    ), code


def _buys(job: JobNest) -> bool:
    """Whether the shelf does not give all: only then a kit is worth a thought."""
    tubes = any(layout.bar.is_bought for one in job.tubes for layout in one.nest.layouts)
    return tubes or any(not source.item for source in job.plan.values())


def _names(here: AtHand, job: JobNest) -> dict[str, str]:
    """Return the name of each piece by its cut's name; those of other jobs with their job."""
    found = {
        f"{laid.run.id}:{p.number}": _name(here, laid, p.number)
        for laid, cuts in zip(job.runs, job.lists, strict=True)
        for p in cuts.pieces
    }
    for one, lists in zip(job.beside, job.beside_lists, strict=True):
        found |= {
            f"{laid.run.id}:{p.number}": f"{one.here.job.id} · {_name(one.here, laid, p.number)}"
            for laid, cuts in zip(one.runs, lists, strict=True)
            for p in cuts.pieces
        }
    return found


def _draw_bends(job: JobNest, names: dict[str, str], width_px: float) -> list[BarPicture]:
    keys = {
        (run, p.laid.piece.id): names[f"{run}:{p.number}"]
        for run, cuts in job.by_run.items()
        for p in cuts.pieces
        if p.kind == "bend"
    }
    return draw_bends(job.plan, _turns(job.every_run), keys, width_px)


@room.post("/jobs/<int:job_id>/cut/nest/longer")
def longer(job_id: int) -> ResponseReturnValue:
    """Have the queue look for longer at what the page could not prove the best."""
    wanted = _wanted()
    with transaction() as connection:
        here = at_hand(connection, job_id)
        looked = _looked(connection, here, wanted)
        job = job_nest(connection, here, wanted.aim, wanted.beside, _known(looked))
        if not job.open_asked:
            return redirect(url_for("nesting.show", job_id=job_id, **wanted.again), 303)
        wish = wish_for(job.open_asked, (looked.found if looked else None) or {})
        search_id = ask(connection, here.job.design_id, here.number, here.design, "", wish, who=who_is_here())
    return redirect(url_for("nesting.show", job_id=job_id, **wanted.again | {"search": search_id}), 303)


@room.get("/jobs/<int:job_id>/cut/nest/progress")
def progress(job_id: int) -> ResponseReturnValue:
    """How far the longer look is; the whole sheet again when it has ended."""
    wanted = _wanted()
    with transaction() as connection:
        looked = _looked(connection, at_hand(connection, job_id), wanted)
    if looked and looked.goes_on:
        return render_template("page/_progress.html", **_watched(job_id, looked, wanted) or {})
    answer = make_response("")
    answer.headers["HX-Redirect"] = url_for("nesting.show", job_id=job_id, **wanted.again)
    return answer


@room.post("/jobs/<int:job_id>/cut/nest/stop")
def stop(job_id: int) -> ResponseReturnValue:
    """Stop the longer look."""
    wanted = _wanted()
    with transaction() as connection:
        looked = _looked(connection, at_hand(connection, job_id), wanted)
        if looked:
            stop_search(connection, looked.id)
    return redirect(url_for("nesting.show", job_id=job_id, **wanted.again), 303)


def _looked(connection: Connection, here: AtHand, wanted: Wanted) -> Search | None:
    """The longer look that the address names. Raises MissingError for one of another job."""
    if not wanted.search:
        return None
    found = search(connection, wanted.search)
    if found.design_id != here.job.design_id or found.wish.get("kind") != "nest":
        raise MissingError("That search is of another job")
    return found


def _known(looked: Search | None) -> dict[str, Nest]:
    """Return the answers of the longer search, by the questions' names."""
    return {name: nest_from_kept(one) for name, one in ((looked.found if looked else None) or {}).items()}


def _watched(job_id: int, looked: Search | None, wanted: Wanted) -> dict[str, Any] | None:
    """Return the context of the longer search's progress line."""
    if looked is None or not looked.goes_on:
        return None
    return {
        "search": looked,
        "progress_url": url_for("nesting.progress", job_id=job_id, **wanted.again),
        "stop_url": url_for("nesting.stop", job_id=job_id, **wanted.again),
    }


@room.post("/jobs/<int:job_id>/cut/nest/take")
def take(job_id: int) -> ResponseReturnValue:
    """Take what the shelf has for this job, and for those cut with it, and leave the rests on it as offcuts."""
    wanted = _wanted()

    def taking(connection: Connection, who: str) -> None:
        here = at_hand(connection, job_id, hold=True)
        if job_stock.taken(connection, job_id):
            raise EditError("the job has its bars already: put them back first")
        job = job_nest(connection, here, wanted.aim, wanted.beside, _known(_looked(connection, here, wanted)))
        items = [(int(item), n) for line in job.lines(here, "mm") for item, n in line.items]
        if not items:
            raise EditError("the shelf has nothing that this job takes: all of it is bought")
        source = {str(one.id): one.item for one in job.shelf}
        left = [*rests_of_bars(job.tubes, source), *rests_of_bends(_of_the_shelf(job.rests(here), job.shelf))]
        kept = to_keep(job.tubes) | {"bends": plan_to_keep(job.plan)}
        theirs = {one.here.job.id: to_keep([]) | {"bends": plan_to_keep(one.own_plan(job.plan))} for one in job.beside}
        job_stock.take(connection, job_id, who, kept, items, left, theirs)

    return _booked(job_id, taking)


def _turns(runs: list[LaidRun]) -> dict[tuple[str, str], float]:
    """Return the angle of every bend of the job [deg], by its run and piece."""
    return {
        (laid.run.id, p.piece.id): p.piece.angle_deg for laid in runs for p in laid.pieces if isinstance(p.piece, Bend)
    }


def _of_the_shelf(rests: list[Offcut], shelf: list[stock.OnShelf]) -> list[Offcut]:
    """Rests of bends whose kind the shelf has: those of bought ones are put there when they are cut."""
    kinds = {
        (one.item.material, one.item.od_mm, one.item.clr_mm) for one in shelf if one.item.kind == "bend" and one.counted
    }
    return [r for r in rests if (r.tube.material, r.tube.od_mm, r.stock.clr_mm) in kinds]


@room.post("/jobs/<int:job_id>/cut/nest/back")
def put_back(job_id: int) -> ResponseReturnValue:
    """Bring back all that was taken for this job."""
    return _booked(job_id, lambda connection, who: _back(connection, job_id, who))


def _back(connection: Connection, job_id: int, who: str) -> None:
    job_stock.put_back(connection, job_id, who)


@room.post("/jobs/<int:job_id>/cut/nest/order")
def order(job_id: int) -> ResponseReturnValue:
    """Say of a line that it is ordered, here, or wrong; or take that back."""

    def ordering(connection: Connection, who: str) -> None:
        at_hand(connection, job_id)
        line, _, state = request.form.get("move", "")[:400].rpartition("|")
        job_stock.order(connection, job_id, line[:300], state, who)

    return _booked(job_id, ordering)


def _booked(job_id: int, change: Callable[[Connection, str], None]) -> ResponseReturnValue:
    """Carry out one booking by who says so; what is wrong stands on the page."""
    who = who_says()
    if not who:
        return _page(
            job_id, FormState(errors={"who": "who? a first name will do: the shelf's book has who and when"}), 422
        )
    try:
        with transaction() as connection:
            change(connection, who)
    except (EditError, MissingError) as exc:
        return _page(job_id, FormState(errors={"": str(exc)}, typed={"who": who}), 422)
    return remembered(make_response(redirect(url_for("nesting.show", job_id=job_id, **_wanted().again), 303)), who)


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
        wanted = _wanted()
        lines = job_nest(connection, here, wanted.aim, wanted.beside).lines(here, g.unit)
    name = f"job-{job_id}-parts.csv"
    return Response(
        write_parts_csv(lines), mimetype="text/csv", headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )


def _name(here: AtHand, laid: LaidRun, number: int) -> str:
    name = laid.run.name or laid.run.id.rpartition("/")[2]
    return f"{name} {number}" if len(here.design.runs) > 1 else f"{number}"


def _title(one: stock.OnShelf) -> str:
    where = f", bin {one.item.bin}" if one.item.bin else ""
    return f"{'offcut' if one.item.is_offcut else 'from the shelf'}{where}"


def _title_of(names: dict[str, str], one: Spare) -> str:
    return f"{names[one.name]}, {format_length(one.length_mm, g.unit, 0)}"


def _tube_words(one: TubeNest) -> str:
    tube = one.tube
    size = f"{format_length(tube.od_mm, g.unit)} x {format_length(tube.wall_mm, g.unit)}"
    return f"{size} {METALS[tube.material].name}"
