"""A quote from a design: hours by what is counted, the correction by past jobs, and money to the cent."""

from __future__ import annotations

import math
import random
from fractions import Fraction

import pytest

from widebend.core.cutting import cut_lists
from widebend.core.joining import all_welds
from widebend.core.laying import system_of
from widebend.core.nesting import Bar, Cut, Layout, Nest, PartsLine, Saw, TubeNest
from widebend.core.quoting import (
    STEPS,
    PastJob,
    StepEstimate,
    corrected,
    estimate,
    estimated_h,
    offer_of,
    tips_changed,
    totals,
    wishes,
)
from widebend.core.records import Bend, Design, Pricing, Tube, WorkStep
from widebend.core.units import Length
from widebend.demo.examples import cat_back


def _steps(design: Design, pricing: Pricing) -> tuple[StepEstimate, ...]:
    runs = [run for run in system_of(design).runs if run.pieces]
    lists = cut_lists(design, runs, {})
    return estimate(design, lists, all_welds(design, system_of(design), lists), pricing)


def test_hours_are_what_is_counted_times_what_one_takes() -> None:
    """By hand, from the estate's own cut list: pieces, joints and metres of weld are its footer."""
    design, pricing = cat_back(), Pricing()
    runs = [run for run in system_of(design).runs if run.pieces]
    (cuts,) = cut_lists(design, runs, {})
    steps = {step.step: step for step in _steps(design, pricing)}
    metal = sum(p.count for p in cuts.pieces if p.kind != "part")
    assert steps["cut"].minutes == metal * 3.0
    welds = all_welds(design, system_of(design), [cuts])
    assert steps["fit up"].count == welds.joints + 2 >= cuts.joints + 2
    assert steps["weld"].minutes == pytest.approx(welds.weld_mm / 1000 * 25.0, abs=0.02)
    assert steps["purge"].count == welds.joints
    assert estimated_h(tuple(steps.values())) == pytest.approx(sum(s.minutes for s in steps.values()) / 60)
    by_mig = {s.step: s for s in _steps(design, pricing.replace(process="MIG"))}
    assert by_mig["purge"].minutes == 0
    assert by_mig["weld"].minutes < steps["weld"].minutes


def _jobs(rng: random.Random, hidden: dict[WorkStep, float], count: int) -> list[PastJob]:
    """Past jobs of all sizes whose true minutes are the hidden factor of the estimate, give or take a fifth."""
    out = []
    for _ in range(count):
        size = rng.uniform(0.5, 3.0)
        said = {step: size * rng.uniform(10, 120) for step in STEPS}
        took = {step: said[step] * hidden[step] * rng.lognormvariate(0.0, 0.18) * 1.0 for step in STEPS}
        out.append(PastJob(said, took))
    return out


def test_history_halves_the_error_and_its_range_holds() -> None:
    """40 simulated jobs with a hidden factor a step: on 300 others the error is under half, 80 to 97 % lie inside."""
    rng = random.Random(11)
    hidden = {step: rng.uniform(0.6, 1.9) for step in STEPS}
    past, others = _jobs(rng, hidden, 40), _jobs(rng, hidden, 300)
    plain = better = inside = 0.0
    for job in others:
        steps = [StepEstimate(step, 1, "", minutes) for step, minutes in job.estimated.items()]
        took, said = sum(job.taken.values()) / 60, corrected(steps, past)
        plain += abs(estimated_h(steps) - took)
        better += abs(said.hours - took)
        inside += said.low <= took <= said.high
    assert better < plain / 2
    assert 0.80 <= inside / len(others) <= 0.97


def test_without_history_it_says_the_estimate_and_is_not_sure() -> None:
    steps = [StepEstimate("cut", 10, "", 60.0)]
    said = corrected(steps, [])
    assert said.hours == 1.0
    assert (said.jobs, said.low < 0.7, said.high > 1.4) == (0, True, True)


def _half_up(value: Fraction) -> int:
    """Another way to round: whole part, then the remainder looked at."""
    whole, rest = divmod(value.numerator, value.denominator)
    return whole + (2 * rest >= value.denominator)


def test_two_hundred_quotes_to_the_cent() -> None:
    """Against fractions, which lose nothing: every line rounded by itself, tax and deposit on the sums."""
    rng = random.Random(7)
    for _ in range(200):
        lines = [
            PartsLine(
                "joints and parts",
                f"thing {k}",
                rng.choice([1, 2, 3, 12, 0.5, 1.25, 37]),
                each=rng.randint(1, 99_999) / 100,
            )
            for k in range(rng.randint(1, 12))
        ]
        rates = {"parts_markup": rng.randint(0, 80) / 100, "deposit": rng.randint(0, 100) / 100}
        pricing = Pricing(hour=rng.randint(3000, 15000), tax=rng.choice([0.0, 0.05, 0.077, 0.19, 0.255]), **rates)
        hours = corrected([StepEstimate("weld", 1, "", rng.uniform(30, 900))], [])
        offer = offer_of("one", [], lines, [], hours, pricing, {})
        net = 0
        for line in lines:
            cost = _half_up(Fraction(str(line.each)) * 100)
            each = _half_up(Fraction(cost) * (1 + Fraction(str(pricing.parts_markup))))
            net += _half_up(Fraction(str(line.wanted)) * each)
        net += _half_up(Fraction(str(round(hours.hours, 1))) * pricing.hour)
        tax = _half_up(net * Fraction(str(pricing.tax)))
        due = _half_up((net + tax) * Fraction(str(pricing.deposit)))
        assert (offer.totals.net, offer.totals.tax, offer.totals.total, offer.totals.deposit) == (
            net,
            tax,
            net + tax,
            due,
        )
        assert sum(line.price for line in offer.lines) == net


def test_what_has_no_price_is_asked_for_and_then_known() -> None:
    line = PartsLine("joints and parts", "flex 63.5", 2)
    hours = corrected([StepEstimate("weld", 1, "", 60.0)], [])
    asked = offer_of("one", [], [line], [], hours, Pricing(), {})
    assert asked.unpriced == ("flex 63.5",)
    told = offer_of("one", [], [line], [], hours, Pricing(each={"flex 63.5": 1}), {"flex 63.5": 4000})
    assert told.unpriced == ()
    assert told.lines[0].price == 2 * 5000
    assert totals([100], 0.2, 1.0).deposit == 120


def test_tube_is_charged_by_the_metre_or_by_the_bars_that_are_bought() -> None:
    """By hand: 2.0 m from a bought bar of 6, 0.5 m from one of the shelf, 2 mm a cut, 10.00 a metre, no mark-up."""
    tube = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))
    cuts = {name: Cut(name, mm) for name, mm in (("a", 1200.0), ("b", 800.0), ("c", 500.0))}
    bought, shelf = Bar("new", 6000.0), Bar("7", 1500.0, count=1)
    nest = Nest((Layout(bought, ("a", "b"), 3996.0), Layout(shelf, ("c",), 998.0)))
    one = TubeNest(tube, Saw(kerf_mm=2.0), cuts, nest)
    size = "a metre of 63.5 mm x 1.5 mm " + tube.material
    lines = [
        offer_of(
            "one", [one], [], [], corrected([], []), Pricing(each={size: 1000}, metal_markup=0.0, tube_by=by), {}
        ).lines[0]
        for by in ("the metre", "the bar")
    ]
    assert [line.count for line in lines] == [2.506, 6.502]
    assert [line.price for line in lines] == [2506, 6502]
    assert "whole bars" in lines[1].words and "whole bars" not in lines[0].words


def test_what_is_used_by_the_gram_is_priced_by_the_kilogram() -> None:
    """Filler is sold by the kilogram: 32 g at 18.50 a kilogram are 0.59, however little a gram costs."""
    line, hours = PartsLine("used up", "filler", 32, "g"), corrected([], [])
    (asked,) = offer_of("one", [], [line], [], hours, Pricing(), {}).unpriced
    assert asked == "a kilogram of filler"
    of_old, now = Pricing(each={"filler": 2}, parts_markup=0.0), Pricing(each={asked: 1850}, parts_markup=0.0)
    prices = [offer_of("one", [], [line], [], hours, p, {}).lines[0].price for p in (of_old, now)]
    assert prices == [64, 59]


def test_a_wish_is_a_design_of_its_own() -> None:
    design = cat_back()
    found = {wish.key: wish for wish in wishes(design, system_of(design), Pricing())}
    assert "metal-304" not in found
    assert "by-MIG" in found
    assert {run.tube.material for run in found["metal-409"].design.runs} == {"409"}
    assert design.runs[0].tube.material == "304"
    ends = system_of(design).runs[0].pieces[-1].outlet.point
    for wish in found.values():
        wish.design.validated()
        assert system_of(wish.design).runs[0].pieces[-1].outlet.point == pytest.approx(ends, abs=0.05)
    (tip,) = (p for p in found["tips-up"].design.parts if p.item.kind == "tip")
    assert [float(port.od_mm) for port in tip.item.ports] == [63.5, 101.6]
    wide = found["bore-up"].design
    assert wide.runs[0].tube.od_mm == 76.2
    assert {p.clr_mm for p in wide.runs[0].pieces if isinstance(p, Bend)} == {Length(114.3)}  # 1.5 diameters still
    assert (
        next(p for p in wide.parts if p.item.kind == "cat").item
        == next(p for p in design.parts if p.item.kind == "cat").item
    )
    made = found["made"].design
    assert not any(isinstance(p, Bend) for p in made.runs[0].pieces)
    again = {w.key: w for w in wishes(made, system_of(made), Pricing())}["bought"].design
    for was, now in zip(design.runs[0].pieces, again.runs[0].pieces, strict=True):
        if isinstance(was, Bend) and isinstance(now, Bend):
            assert (now.angle_deg, now.clr_mm) == pytest.approx((was.angle_deg, was.clr_mm), abs=0.01)


@pytest.mark.parametrize("known", range(6))
def test_nine_of_ten_of_the_next_jobs_lie_in_the_range_however_few_are_known(known: int) -> None:
    """Simulated shops: each has its own pace (a third off, one deviation) and its jobs a spread of a quarter."""
    draw, inside, shops = random.Random(known), 0, 1500
    step = (StepEstimate("weld", 1.0, "m", 60.0),)
    for _ in range(shops):
        pace = draw.gauss(0.0, 0.3)
        took = [60.0 * math.exp(pace + draw.gauss(0.0, 0.25)) for _ in range(known + 1)]
        found = corrected(step, [PastJob({"weld": 60.0}, {"weld": minutes}) for minutes in took[:-1]])
        inside += found.low <= took[-1] / 60.0 <= found.high
    assert 0.87 * shops < inside


def test_a_forgotten_clock_teaches_nothing() -> None:
    step = (StepEstimate("weld", 1.0, "m", 60.0),)
    for minutes in (62 * 60.0, 1 / 60):
        found = corrected(step, [PastJob({"weld": 60.0}, {"weld": minutes})])
        assert (found.hours, found.jobs) == (1.0, 0)
    slow = [PastJob({"weld": 60.0}, {"weld": 300.0})] * 4  # a shop that is slow every time is believed
    assert corrected(step, slow).hours > 2.0


def test_a_tip_of_another_size_than_was_signed_for_is_named() -> None:
    design = cat_back()
    (tip,) = (part for part in design.parts if part.item.kind == "tip")
    wide = Length(float(next(p.od_mm for p in tip.item.ports if p.role == "out")) + 13.0)
    ports = tuple(p.replace(od_mm=wide) if p.role == "out" else p for p in tip.item.ports)
    other = tip.replace(item=tip.item.replace(ports=ports))
    now = design.replace(parts=tuple(other if p.id == tip.id else p for p in design.parts))
    assert not tips_changed(design, design)
    (change,) = tips_changed(design, now)
    assert change.now_mm - change.was_mm == pytest.approx(13.0)
