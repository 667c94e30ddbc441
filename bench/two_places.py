"""Random edits and searches: every figure that is shown in two places is the same in both."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator

import numpy as np

from bench.random_edits import Rng, edited
from widebend.core.cutting import cut_lists
from widebend.core.errors import EditError, InputError
from widebend.core.joining import all_welds, every_joint, plan_of, weld_totals
from widebend.core.laying import lay_run, system_of
from widebend.core.nesting import parts_list
from widebend.core.quoting import corrected, estimate, offer_of
from widebend.core.records import Design, Pricing
from widebend.core.review import review
from widebend.core.routing import Proposals, Wish, propose, seek, taken
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

SEQUENCES, CLOSED_EVERY, SOUGHT_EVERY, BEGIN_AGAIN = 10_000, 20, 250, 40
TOLD_EVERY = 500  # hours in all: a run that is cut off has told what it found
MAKERS = (cat_back, twin_x, pie_downpipe, low_truck, quad_rear)
NEAR = 1e-6


def of_lists(design: Design) -> Iterator[str]:
    """What of cut list, weld plan, hours, parts list and offer is not the same."""
    system = system_of(design)
    runs = [run for run in system.runs if run.pieces]
    lists = cut_lists(design, runs, {})
    welds = all_welds(design, system, lists)
    rules, pricing = design.settings.rules, Pricing()
    plans = [plan_of(joint, design.settings.welding, rules) for joint in every_joint(design, system, lists, (), 50.0)]
    if weld_totals(plans) != welds:
        yield "welds of the plan and of the quote"
    steps = {step.step: step for step in estimate(design, lists, welds, pricing)}
    if steps["tack"].count != welds.joints or abs(steps["weld"].count - welds.weld_mm / 1000.0) > 5.1e-4:
        yield "welds of the hours and of the quote"
    pieces = sum(p.count for cuts in lists for p in cuts.pieces if p.kind != "part")
    if steps["cut"].count != pieces:
        yield "pieces of the hours and of the cut lists"
    lines = parts_list(design, runs, lists, [], {}, [], "mm", welds)
    used = {line.words: line.wanted for line in lines if line.group == "used up"}
    if used.get("filler", 0) != math.ceil(welds.filler_g) or (
        used.get("shielding and backing gas", 0) != math.ceil(welds.gas_l)
    ):
        yield "filler or gas of the parts list and of the weld plan"
    offer = offer_of("one", [], lines, [], corrected(list(steps.values()), []), pricing, {})
    if sum(line.price for line in offer.lines) != offer.totals.net:
        yield "lines of the offer and what it comes to"


def of_answers(design: Design, run_id: str, found: Proposals) -> Iterator[str]:
    """What an answer says that is not so once it is taken."""
    for index, answer in enumerate(found.found):
        after = taken(design, run_id, found, index)
        run = after.run(run_id)
        laid = lay_run(after, run) if run else None
        if laid is None:
            continue
        (cuts,) = cut_lists(after, [laid], {})
        if answer.made and (answer.made.joints, answer.made.weld_mm) != (cuts.joints, cuts.weld_mm):
            yield "joints or weld of an answer"
        reviewed = review(after)
        span = len(laid.pieces) - (0 if found.until is None else len(design.run(run_id).pieces) - found.until)  # type: ignore[union-attr]
        new = range(max(0, found.kept - 1), span)
        gaps = [gap for gap in reviewed.gaps if gap.run == run_id and gap.piece in new]
        exact = [gap for gap in gaps if abs(gap.margin_mm - answer.worst_margin_mm) < NEAR]
        named = any(gap.obstacle.thing.name == answer.worst_thing for gap in exact)
        own = any(
            abs((f.margin_mm or 0.0) - answer.worst_margin_mm) < NEAR
            for f in reviewed.findings
            if f.code in ("own", "touches")
        )
        if answer.worst_thing and not (named or own):
            yield "the name or the margin of an answer"
        if answer.keeps_gaps and any(
            gap.margin_mm < -NEAR and not gap.together and gap.piece in new[1:] for gap in gaps
        ):
            yield "an answer keeps its gaps, and the review says not"


def searched(design: Design, rng: Rng, *, closed: bool) -> Iterator[str]:
    runs = [run for run in design.runs if run.aim]
    if not runs:
        return
    run = runs[int(rng.integers(len(runs)))]
    try:
        found = propose(design, run.id, 0) if closed else seek(design, run.id, Wish(keep=0))
    except (EditError, InputError):
        return
    yield from of_answers(design, run.id, found)


def bench_two_places() -> None:
    """10,000 random edits with searches between them: names, gaps, welds, counts and prices that two places show."""
    rng, unlike, asked = np.random.default_rng(21), Counter[str](), Counter[str]()
    design = MAKERS[0]()
    for k in range(SEQUENCES):
        if k % BEGIN_AGAIN == 0:
            design = MAKERS[k // BEGIN_AGAIN % len(MAKERS)]()
        after = edited(design, rng)
        if after is None:
            continue
        design = after
        asked["lists"] += 1
        unlike.update(of_lists(design))
        if k % CLOSED_EVERY == 0 or k % SOUGHT_EVERY == 1:
            asked["searches"] += 1
            unlike.update(searched(design, rng, closed=k % CLOSED_EVERY == 0))
        if (k + 1) % TOLD_EVERY == 0:
            print(
                f"{k + 1} edits, {asked['lists']} designs listed, {asked['searches']} searched: {unlike.total()} unlike"
            )
    for words, times in unlike.most_common():
        print(f"  {times} x {words}")
