"""A nest as it was taken: back from what is kept, what changed since, the rests it left, a spare of its worst piece."""

import json

from widebend.core.cutting import cut_with_rests
from widebend.core.laying import system_of
from widebend.core.nesting import (
    Stocked,
    changed_since,
    from_kept,
    nest_job,
    rests_of_bars,
    rests_of_bends,
    spares,
    to_keep,
    within,
)
from widebend.core.records import Rules, StockItem
from widebend.demo.systems import twin_x

TUBE = {"kind": "straight", "od_mm": 63.5, "wall_mm": 1.5, "material": "304"}


def test_what_is_kept_comes_back_and_is_told_from_another_design() -> None:
    design = twin_x()
    runs = [r for r in system_of(design).runs if r.pieces]
    lists, left = cut_with_rests(design, runs)
    by_run = {r.run.id: cuts for r, cuts in zip(runs, lists, strict=True)}
    bar = StockItem.model_validate(TUBE | {"length_mm": 6000.0, "bin": "rack"})
    nests = nest_job(by_run, [Stocked("7", bar, 1)], Rules(), 1.5, "least bought", within(1.0))
    back = from_kept(json.loads(json.dumps(to_keep(nests))))
    assert [one.nest for one in back] == [one.nest for one in nests]
    assert [one.saw for one in back] == [one.saw for one in nests]
    assert changed_since(back, by_run) == []
    # by hand: a straight 5 mm longer, and a run gone
    name = next(iter(back[0].cuts))
    run, _, number = name.partition(":")
    other = {k: v for k, v in by_run.items() if k != run}
    assert name in changed_since(back, other)
    # what is left is what the bar's own arithmetic says, and long enough to keep
    rests = rests_of_bars(back, {"7": bar})
    kept = [lay.rest_mm for one in back for lay in one.nest.layouts if lay.rest_mm >= 150 and not lay.bar.is_bought]
    assert [float(r.length_mm) for r in rests] == [round(mm, 1) for mm in kept]
    assert all(r.is_offcut and r.bin == "rack" for r in rests)
    bends = rests_of_bends(left)
    assert [b.angle_deg for b in bends] == [round(rest.angle_deg, 1) for rest in left]
    assert int(number) > 0


def test_a_spare_of_the_longest_comes_from_a_rest_or_another_bar() -> None:
    design = twin_x()
    runs = [r for r in system_of(design).runs if r.pieces]
    by_run = {r.run.id: cuts for r, cuts in zip(runs, cut_with_rests(design, runs)[0], strict=True)}
    long, short = (StockItem.model_validate(TUBE | {"length_mm": mm, "price": 84.0}) for mm in (6000.0, 1100.0))
    roomy = spares(nest_job(by_run, [Stocked("1", long, 1)], Rules(), 1.5, "least bought", within(1.0)))[0]
    assert roomy.from_rest  # 3.3 m of straights in a bar of 6 m leave 2.7
    tight = spares(nest_job(by_run, [Stocked("1", short, 1)], Rules(bar_mm=1100.0), 1.5, "least bought", within(1.0)))[
        0
    ]
    assert not tight.from_rest
    assert tight.length_mm == roomy.length_mm > 1000
