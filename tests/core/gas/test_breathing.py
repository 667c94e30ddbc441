"""The whole system: mass and energy where ways meet, the bare limit, shares, ranges, and what is said in words."""

from __future__ import annotations

import numpy as np
import pytest

from widebend.core.editing import add_part
from widebend.core.errors import InputError
from widebend.core.gas import FlowSolution, breath_of, ways_of
from widebend.core.hardware import SHELF, item_of
from widebend.core.laying import system_of
from widebend.core.records import Bend, Design, Engine, InLine
from widebend.core.records.hardware import BenchLoss
from widebend.core.units import Length
from widebend.demo.systems import low_truck, pie_downpipe, quad_rear, twin_x

V8 = Engine(cylinders=8, power_kw=300, litres=5.0)


def _with(design: Design, engine: Engine) -> Design:
    return design.replace(settings=design.settings.replace(engine=engine))


def _breath(design: Design, engine: Engine = V8) -> FlowSolution:
    design = _with(design, engine)
    return breath_of(design, system_of(design), "full")


def _holds(breath: FlowSolution, kelvin: float) -> float:
    """What a kilogram of the gas holds over 250 K [J/kg]: its heat capacity summed over temperature."""
    steps = np.linspace(250.0, kelvin, 400)
    return float(np.trapezoid([breath.gas.gas.at(t)[0] for t in steps], steps))


@pytest.mark.parametrize("make", [twin_x, low_truck, quad_rear, pie_downpipe])
def test_mass_and_energy_are_conserved_where_ways_meet(make) -> None:  # type: ignore[no-untyped-def]
    breath = _breath(make())
    flows = {p.way: t.kg_s for p in breath.profiles for t in breath.taken if t.way == p.way and t.stretch is not None}
    whole = breath.gas.kg_s.usual
    assert sum(flows[i] for i in breath.ways.sources) == pytest.approx(whole)
    given_off = sum(float(p.watts.sum()) for p in breath.profiles)
    came = sum(flows[i] * _holds(breath, breath.gas.enters_c.usual + 273.15) for i in breath.ways.sources)
    goes = sum(flows.get(i, 0.0) * _holds(breath, breath.ends_k[i]) for i in breath.ways.ends if i in flows)
    if all(i in flows for i in breath.ways.ends):  # not where the ends are a twin tip's own outlets
        assert came - goes == pytest.approx(given_off, rel=0.005)
    for name, meeting in breath.ways.meetings.items():
        ins = [flows[i] for i, _ in meeting.ins]
        outs = [flows[i] for i, _ in meeting.outs if i in flows]
        assert not outs or sum(ins) == pytest.approx(sum(outs)), name


def test_what_every_piece_takes_adds_up_to_what_the_start_is_asked_for() -> None:
    breath = _breath(pie_downpipe(), Engine(power_kw=180))
    way = sum(t.pa.usual for t in breath.taken) + sum(breath.ends_pa.values())
    assert way == pytest.approx(breath.most_pa.usual, rel=1e-6)
    assert breath.most_pa.low < breath.most_pa.usual < breath.most_pa.high
    assert 0 < breath.bare_pa < breath.most_pa.usual


def test_two_banks_alike_share_alike_and_two_that_differ_ask_for_the_same() -> None:
    breath = _breath(twin_x())
    outs = {t.way: t.kg_s for t in breath.taken if t.stretch is not None}
    halves = [outs[i] for i, _ in breath.ways.meetings["crossover-1"].outs]
    assert halves == pytest.approx([breath.gas.kg_s.usual / 2] * 2, rel=0.01)
    quad = _breath(quad_rear(), Engine(power_kw=150))
    split = next(m for m in quad.ways.meetings.values() if m.part.item.kind == "merge")
    shares = [outs_of(quad)[i] for i, _ in split.outs]
    assert shares[0] < shares[1] < 1.05 * shares[0]  # the left pipe is the longer one


def outs_of(breath: FlowSolution) -> dict[int, float]:
    return {t.way: t.kg_s for t in breath.taken if t.stretch is not None}


def test_a_wider_pipe_takes_less_and_a_bend_more_than_a_straight() -> None:
    design = _with(pie_downpipe(), Engine(power_kw=180))
    wide = design.replace(
        runs=tuple(r.replace(tube=r.tube.replace(od_mm=Length(r.tube.od_mm * 1.2))) for r in design.runs)
    )
    one, other = (breath_of(d, system_of(d), "full") for d in (design, wide))
    legs = [next(t.pa.usual for t in b.taken if t.stretch and t.stretch.key == "r1/p5") for b in (one, other)]
    assert legs[1] == pytest.approx(legs[0] / (88.44 / 73.2) ** 5, rel=0.1)  # friction: the fifth power of the bore
    each = {t.stretch.piece.piece.id: t for t in one.taken if t.stretch and t.stretch.piece}
    bend = next(t for t in each.values() if isinstance(t.stretch.piece.piece, Bend))
    leg = each["p5"]
    assert bend.pa.usual / bend.stretch.long_mm > leg.pa.usual / leg.stretch.long_mm
    assert bend.pa.high - bend.pa.usual > 0.1 * bend.pa.usual
    assert len(bend.methods) == 4


def test_a_part_that_was_measured_has_its_figure() -> None:
    design = _with(twin_x(), V8)
    bench = BenchLoss(pa=4000.0, kg_s=0.2)
    parts = tuple(
        p.replace(item=p.item.replace(measured=bench)) if p.item.kind == "muffler" else p for p in design.parts
    )
    breath = breath_of(design, system_of(design), "full")
    measured = breath_of(design.replace(parts=parts), system_of(design.replace(parts=parts)), "full")
    before, after = (next(t for t in b.taken if t.stretch and t.stretch.key == "muffler-1") for b in (breath, measured))
    assert after.methods[0][0] == "measured"
    thinner = (after.gas_c.usual + 273) / 293  # the same K of a gas so much thinner
    assert after.pa.usual == pytest.approx(4000 * (after.kg_s / 0.2) ** 2 * thinner, rel=0.12)
    assert (after.pa.high - after.pa.low) / after.pa.usual < (before.pa.high - before.pa.low) / before.pa.usual


def test_an_engine_too_large_for_its_pipe_chokes_and_says_where() -> None:
    breath = _breath(pie_downpipe(), Engine(power_kw=2500))
    assert breath.chokes is not None
    assert _breath(pie_downpipe(), Engine(power_kw=180)).chokes is None


def test_no_engine_and_no_pipe_are_words() -> None:
    design = pie_downpipe()
    silent = design.replace(settings=design.settings.replace(engine=None))
    with pytest.raises(InputError, match="what engine"):
        breath_of(silent, system_of(silent), "full")
    empty = _with(Design(), V8)
    with pytest.raises(InputError, match="leads anywhere"):
        breath_of(empty, system_of(empty), "full")


def test_the_ways_of_twin_banks_meet_once() -> None:
    design = twin_x()
    ways = ways_of(design, system_of(design))
    assert len(ways.sources) == 2 and len(ways.ends) == 2
    assert [name for name in ways.meetings] == ["crossover-1"]
    carried = {p.part for r in design.runs for p in r.pieces if isinstance(p, InLine)}
    assert carried <= {s.part.id for w in ways.ways for s in w.stretches if s.part}
    assert np.allclose(ways.ways[0].stretches[0].points[0][:2], [960.0, -262.0])


def test_an_open_cutout_shares_the_gas_and_takes_less() -> None:
    design = _with(low_truck(), V8)
    item = item_of("cutout", "cutout", {m.key: m.usual for m in SHELF["cutout"].measures})
    out = next(p for p in system_of(design).parts if p[0].item.kind == "muffler")[0]
    design, part = add_part(design, item, "cutout", None)
    run = design.runs[0]
    carried = run.replace(pieces=(run.pieces[0], InLine(id="cut", part=part), *run.pieces[1:]))
    design = design.replace(runs=(carried, *design.runs[1:]))
    shut, opened = (breath_of(design, system_of(design), "full", cutouts_open=o) for o in (False, True))
    starts = [max(b.starts_pa.values(), key=lambda s: s.usual).usual for b in (shut, opened)]
    mine = [next(t.kg_s for t in b.taken if t.stretch and t.stretch.key == out.id) for b in (shut, opened)]
    assert mine[1] < 0.8 * mine[0]
    assert len(opened.ways.ends) == len(shut.ways.ends) + 1
    assert starts[1] <= starts[0]
