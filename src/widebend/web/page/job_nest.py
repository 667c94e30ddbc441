"""A job's pieces laid into bars and bends, alone or together with other jobs': as taken, or as they would be."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from ...core.cutting import BendPlan, CutList, Offcut, cut_lists, cut_with_rests
from ...core.errors import EditError, InputError
from ...core.hanging import HungSystem, MetalNest, hang, hanging_metal, hanging_parts
from ...core.joining import all_welds
from ...core.laying import LaidRun, as_drawn
from ...core.nesting import (
    GROUPS,
    BendNest,
    JobAim,
    KitTried,
    Nest,
    PartsLine,
    Problem,
    Stocked,
    TubeNest,
    compare_kits,
    from_kept,
    name_of,
    nest,
    nest_bends,
    nest_job,
    parts_list,
    plan_of,
    within,
)
from ...core.records import Kit
from ...core.welding import Welds
from ...store import job_stock, stock
from ...store.database import Connection
from .at_hand import AtHand, at_hand, solved

KIT_WAITS_S = 0.2  # each kit is tried several times: an answer a little off the best compares as well
WAITS_S = 0.4  # so long a page looks for each tube: what is not proven by then goes to the queue
MOST_BESIDE = 8


@dataclass(frozen=True)
class Beside:
    """Another job whose pieces are cut from the same bars; its runs are called job/run."""

    here: AtHand
    runs: list[LaidRun]

    @classmethod
    def of(cls, here: AtHand) -> Beside:
        return cls(here, [_called(here, laid) for laid in _runs(here)])

    def own_plan(self, plan: BendPlan) -> BendPlan:
        """Of a plan for several jobs what is this one's, by its own runs' names."""
        prefix = f"{self.here.job.id}/"
        return {
            (run.removeprefix(prefix), piece): source for (run, piece), source in plan.items() if run.startswith(prefix)
        }


def _called(here: AtHand, laid: LaidRun) -> LaidRun:
    return replace(laid, run=laid.run.replace(id=f"{here.job.id}/{laid.run.id}"))


@dataclass(frozen=True)
class JobNest:
    """The job's runs with their cut lists, what is on the shelf, and how all lies in bars and bends. `open_asked` are
    the questions, by name, whose answer is not proven the best and nobody has looked at for longer.
    """

    runs: list[LaidRun]
    lists: list[CutList]
    shelf: list[stock.OnShelf]
    tubes: list[TubeNest]
    plan: BendPlan
    beside: list[Beside] = field(default_factory=list)
    beside_lists: list[list[CutList]] = field(default_factory=list)
    open_asked: Mapping[str, Problem] = field(default_factory=dict)

    @property
    def every_run(self) -> list[LaidRun]:
        return [*self.runs, *(run for one in self.beside for run in one.runs)]

    @property
    def by_run(self) -> dict[str, CutList]:
        """The cut lists of all jobs by their run's name."""
        every = [*self.lists, *(cuts for lists in self.beside_lists for cuts in lists)]
        return {laid.run.id: cuts for laid, cuts in zip(self.every_run, every, strict=True)}

    def lines(self, here: AtHand, unit: str) -> list[PartsLine]:
        """The parts list: bars and bends of all that is cut together, the rest of the job itself, its hangers' metal
        and rubbers.
        """
        there = on_shelf(self.shelf)
        welds = self.welds(here)
        found = parts_list(
            here.design, self.runs, self.lists, self.tubes, self.plan, there, unit, welds, self.every_run
        )
        found += _hangers(here, there, unit)
        return sorted(found, key=lambda line: GROUPS.index(line.group))  # else in the order they came

    def welds(self, here: AtHand) -> Welds:
        """All that is welded on the job."""
        return all_welds(here.design, here.system, self.lists)

    def rests(self, here: AtHand) -> list[Offcut]:
        """Return the offcuts of the bends when all is cut."""
        found = cut_with_rests(here.design, self.runs, self.plan)[1]
        for one in self.beside:
            found += cut_with_rests(one.here.design, one.runs, self.plan)[1]
        return found


def _hung(here: AtHand) -> HungSystem | None:
    """The job as it hangs; None where it has no hangers or that cannot be worked out."""
    if not here.design.hangers:
        return None
    try:
        return hang(here.design, here.system, modes=0)
    except InputError:
        return None


def _hangers(here: AtHand, there: Sequence[Stocked], unit: str) -> list[PartsLine]:
    """Return the hangers and rubbers of the job."""
    hung, kerf = _hung(here), float(here.design.settings.kerf_mm)
    return list(hanging_parts(here.design, here.system, hung, there, kerf, unit)) if hung else []


def hanger_metal(here: AtHand, unit: str) -> list[MetalNest]:
    """Rod and flat bar of the job's hangers, laid into bars."""
    hung, kerf = _hung(here), float(here.design.settings.kerf_mm)
    return list(hanging_metal(here.design, here.system, hung, kerf, unit)) if hung else []


def on_shelf(shelf: Sequence[stock.OnShelf]) -> list[Stocked]:
    """The shelf as a nest sees it."""
    return [Stocked(str(one.id), one.item, one.counted) for one in shelf]


def jobs_beside(connection: Connection, job_id: int, wanted: Sequence[int]) -> list[Beside]:
    """Other jobs that are cut together with one. Raises EditError for one that has its bars already, or too many."""
    found, others = [], sorted({n for n in wanted if n != job_id})
    if len(others) > MOST_BESIDE:
        raise EditError(f"up to {MOST_BESIDE} other jobs are cut together at once: choose fewer")
    for other in others:
        if job_stock.taken(connection, other):
            raise EditError(f"job {other} has its bars already: put them back there first")
        found.append(Beside.of(at_hand(connection, other)))
    return found


def job_nest(
    connection: Connection,
    here: AtHand,
    aim: JobAim,
    wanted: Sequence[int] = (),
    known: Mapping[str, Nest] | None = None,
) -> JobNest:
    """The nest of a job as it was taken, else as it would be, cut together with the jobs wanted beside it."""
    was, shelf = job_stock.taken(connection, here.job.id), stock.shelf(connection)
    if was is None:
        return nested(here, shelf, aim, jobs_beside(connection, here.job.id, wanted), known)
    return as_taken(here, shelf, was, [Beside.of(at_hand(connection, other)) for other in was.beside])


def as_taken(here: AtHand, shelf: list[stock.OnShelf], was: job_stock.StockTaken, beside: list[Beside]) -> JobNest:
    """The job's nest as it was taken. What another job took with its own lies on that job's sheet."""
    runs = _runs(here)
    lists = cut_lists(here.design, runs, here.bends)
    plan = {} if was.led_by else here.bends
    theirs = [cut_lists(one.here.design, one.runs, here.bends) for one in beside]
    return JobNest(runs, lists, _with_taken(shelf, was), from_kept(was.nest), plan, beside, theirs)


def nested(
    here: AtHand,
    shelf: list[stock.OnShelf],
    aim: JobAim,
    beside: Sequence[Beside] = (),
    known: Mapping[str, Nest] | None = None,
) -> JobNest:
    """The job's nest as it would be, kept by the design and what is on the shelf: to show it again does not solve it
    again. What the queue has found is `known` by the question's name.
    """
    have, others = known or {}, list(beside)
    key = (
        aim,
        tuple((one.id, one.count, one.item) for one in on_shelf(shelf)),
        tuple(have),
        tuple((one.here.job.id, one.here.number) for one in others),
    )
    return solved(here.design, ("nest", *key), lambda: _laid(here, shelf, aim, others, have))


def _laid(
    here: AtHand, shelf: list[stock.OnShelf], aim: JobAim, beside: list[Beside], known: Mapping[str, Nest]
) -> JobNest:
    rules, kerf = here.design.settings.rules, float(here.design.settings.kerf_mm)
    open_asked: dict[str, Problem] = {}

    def solve(asked: Problem) -> Nest:
        name = name_of(asked)
        if name in known:
            return known[name]
        found = nest(asked.bars, asked.cuts, asked.saw, asked.aim, WAITS_S)
        if not found.proven:
            open_asked[name] = asked
        return found

    runs, there = _runs(here), on_shelf(shelf)
    every = [*runs, *(run for one in beside for run in one.runs)]
    plan = plan_of(nest_bends(here.design, every, there, aim, solve), every, kerf)
    lists = cut_lists(here.design, runs, plan)
    theirs = [cut_lists(one.here.design, one.runs, plan) for one in beside]
    bare = JobNest(runs, lists, shelf, [], plan, beside, theirs, open_asked)
    return replace(bare, tubes=nest_job(bare.by_run, there, rules, kerf, aim, solve))


def tried_kits(here: AtHand, job: JobNest, kits: Sequence[Kit], aim: JobAim, unit: str) -> list[KitTried]:
    """Return the job's cost with each kit on offer, and without; nothing where none is offered."""
    rules, kerf = here.design.settings.rules, float(here.design.settings.kerf_mm)
    solve, every, lists = within(KIT_WAITS_S), job.every_run, job.by_run

    def lay(shelf: Sequence[Stocked]) -> tuple[list[TubeNest], list[BendNest]]:
        return (nest_job(lists, shelf, rules, kerf, aim, solve), nest_bends(here.design, every, shelf, aim, solve))

    if not kits or not every:
        return []
    there = on_shelf(job.shelf)
    key = aim, unit, tuple(kits), tuple((one.id, one.count, one.item) for one in there), tuple(lists)
    return solved(here.design, ("kits", *key), lambda: compare_kits(kits, there, lay, unit))


def _runs(here: AtHand) -> list[LaidRun]:
    """The job's runs as the bench cuts them: what is on the vehicle as it was drawn when it went on."""
    return [as_drawn(here.design, r) for r in here.system.runs if r.pieces]


def _with_taken(shelf: list[stock.OnShelf], was: job_stock.StockTaken) -> list[stock.OnShelf]:
    """The shelf as the job sees it: what was taken for it counts, what it left there does not."""
    counts = dict(was.items)
    return [replace(one, counted=counts.get(one.id, 0)) for one in shelf if one.id not in was.left]
