"""How far a job is: its steps, each with its one telling figure, and the next action."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.records import Design
from ..core.review import CLOSES_DEG, CLOSES_MM, Review

STEPS = ("intake", "underbody", "layout", "route", "cut")


@dataclass(frozen=True)
class Step:
    """One step of the work line."""

    name: str
    figure: str
    done: bool


@dataclass(frozen=True)
class NextAction:
    """What to do next, and the step where it is done."""

    step: str
    words: str
    figure: str = ""


def steps(design: Design, found: Review, use: str) -> list[Step]:
    """The work line of a job."""
    placed = sum(p.placed is not None for p in design.parts)
    run = found.system.runs[0] if found.system.runs else None
    touching = sum(f.code in ("touches", "inside") for f in found.findings)
    tight = sum(f.code in ("tight", "own") for f in found.findings)
    closed = bool(run and run.pieces and run.aim and run.miss_mm < CLOSES_MM and run.miss_deg < CLOSES_DEG)
    if not run or not run.pieces:
        route = "no pipe yet"
    elif touching:
        route = f"{touching} place{'s' if touching > 1 else ''} touch{'' if touching > 1 else 'es'}"
    elif not closed:
        route = "not closed"
    else:
        route = f"{tight} tight" if tight else "clear"
    things = len(design.survey.things)
    has_ends = bool(run and run.aim)
    return [
        Step("intake", f"{use} use" if use == "road" else use, True),
        Step("underbody", f"{things} thing{'s' if things != 1 else ''}", things > 0),
        Step("layout", f"{placed} placed" if placed else "nothing placed", has_ends),
        Step("route", route, closed and not touching),
        Step("cut", f"{len(run.pieces)} pieces" if closed and run else "after the route", False),
    ]


def next_action(design: Design, found: Review) -> NextAction:
    """The one next thing to do on a job."""
    run = found.system.runs[0] if found.system.runs else None
    if not design.survey.things:
        return NextAction("underbody", "Measure the underbody")
    if run is None or run.aim is None:
        return NextAction("layout", "Place the start and the finish")
    if not run.pieces:
        return NextAction("route", "Close the run")
    touching = [f for f in found.findings if f.code in ("touches", "inside")]
    if touching:
        return NextAction("route", "Clear what touches", f"{len(touching)} place{'s' if len(touching) > 1 else ''}")
    if run.miss_mm > CLOSES_MM or run.miss_deg > CLOSES_DEG:
        return NextAction("route", "Close the run", f"misses by {run.miss_mm:.0f} mm")
    tight = [f for f in found.findings if f.code in ("tight", "own")]
    if tight:
        return NextAction("route", "Look at what is tight", f"{len(tight)} tight")
    return NextAction("cut", "Cut the pieces", f"{len(run.pieces)} pieces")
