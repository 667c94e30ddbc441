"""How far a job is: its steps, each with its one telling figure, and the next action."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from ...core.cutting import BendPlan, cut_lists
from ...core.laying import LaidRun
from ...core.records import Design
from ...core.review import Review, closes
from ...store.jobs import Job

STEPS = ("intake", "underbody", "layout", "route", "hang", "cut", "fit", "weld", "quote", "hours", "handover")


@dataclass(frozen=True)
class Step:
    """One step of the work line."""

    name: str
    figure: str
    done: bool


@dataclass(frozen=True)
class NextAction:
    """The next action, and the step where it is done."""

    step: str
    words: str
    figure: str = ""


def steps(job: Job, design: Design, found: Review, bends: BendPlan) -> list[Step]:
    """The work line of a job; `bends` are as they were taken from the shelf."""
    placed = sum(p.placed is not None for p in design.parts)
    runs = found.system.runs
    touching = sum(f.code in ("touches", "inside") for f in found.findings)
    tight = sum(f.code in ("tight", "own") for f in found.findings)
    empty, missing = _not_laid(found), _not_closed(design, found)
    if not runs or len(empty) == len(runs):
        route = "no pipe yet"
    elif touching:
        route = f"{touching} touch{'' if touching > 1 else 'es'}"
    elif missing or empty:
        route = "not closed" if len(runs) == 1 else f"{len({*missing, *empty})} of {len(runs)} runs not closed"
    else:
        route = f"{tight} tight" if tight else "clear"
    closed = bool(runs) and not missing and not empty
    pieces = _pieces(design, found, bends)
    things, hangers = len(design.survey.things), len(design.hangers)
    has_ends = any(r.aim for r in runs)
    return [
        Step("intake", "road use" if job.road_use == "road" else job.road_use, True),
        Step("underbody", f"{things} thing{'s' if things != 1 else ''}", things > 0),
        Step("layout", f"{placed} placed" if placed else "nothing yet", has_ends),
        Step("route", route, closed and not touching),
        Step("hang", f"{hangers} hanger{'s' if hangers != 1 else ''}" if hangers else "on nothing yet", hangers > 0),
        Step("cut", f"{pieces} pieces" if closed else "after Route", False),
        Step("fit", f"{len(design.fitted)} on" if design.fitted else "nothing on yet", _all_on(design, runs)),
        Step("weld", _welded(design), bool(design.fitted) and all(one.state == "welded" for one in design.fitted)),
        Step("quote", {"sent": "out", "agreed": "agreed"}.get(job.quote, "its price"), job.quote == "agreed"),
        Step("hours", "the clock", False),
        Step("handover", "handed over" if job.state == "done" else "checks, bill", job.state == "done"),
    ]


def _welded(design: Design) -> str:
    """How much of what is on is welded through."""
    if not design.fitted:
        return "plan, refit"
    return f"{sum(one.state == 'welded' for one in design.fitted)} of {len(design.fitted)} welded"


def _all_on(design: Design, runs: Sequence[LaidRun]) -> bool:
    """Whether every piece of every run is on the vehicle."""
    on = {(one.run, one.piece) for one in design.fitted}
    return bool(on) and all((run.run.id, piece.piece.id) in on for run in runs for piece in run.pieces)


def next_action(design: Design, found: Review, bends: BendPlan) -> NextAction:
    """The one next thing to do on a job."""
    runs = found.system.runs
    if not design.survey.things:
        return NextAction("underbody", "Measure the underbody")
    if not any(r.aim for r in runs):
        return NextAction("layout", "Place the start and the finish")
    empty, missing = _not_laid(found), _not_closed(design, found)
    if len(empty) == len(runs):
        return NextAction("route", "Close the run")
    touching = [f for f in found.findings if f.code in ("touches", "inside")]
    if touching:
        return NextAction("route", "Clear what touches", f"{len(touching)} place{'s' if len(touching) > 1 else ''}")
    if missing:
        worst = max(r.miss_mm for r in runs if r.run.id in missing)
        return NextAction("route", "Close the run", f"misses by {worst:.0f} mm")
    if empty:
        name = next(r.run.name or r.run.id for r in runs if r.run.id in empty)
        return NextAction("route", f"Lay the {name}")
    tight = [f for f in found.findings if f.code in ("tight", "own")]
    if tight:
        return NextAction("route", "Look at what is tight", f"{len(tight)} tight")
    return NextAction("cut", "Cut the pieces", f"{_pieces(design, found, bends)} pieces")


def _pieces(design: Design, found: Review, bends: BendPlan) -> int:
    """How many pieces the cut lists of all runs have."""
    return sum(len(cuts.pieces) for cuts in cut_lists(design, [r for r in found.system.runs if r.pieces], bends))


def _not_laid(found: Review) -> list[str]:
    """Runs that have no pipe yet."""
    return [r.run.id for r in found.system.runs if not r.pieces]


def _not_closed(design: Design, found: Review) -> list[str]:
    """Runs whose end is not on its aim; one that aims for nothing, a branch to the air, is as it is."""
    return [r.run.id for r in found.system.runs if not closes(design, r)]
