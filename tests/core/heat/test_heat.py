"""Heat beside pipe: view factors, balances that close, plumes and jets, covers, gaps by heat, growth by piece."""

from __future__ import annotations

import math

import numpy as np
import pytest

from widebend.core.editing import add_cover, take_out, without_cover, without_run
from widebend.core.errors import EditError
from widebend.core.gas import breath_of
from widebend.core.heat import (
    HotPipe,
    Surroundings,
    covered,
    gone,
    heat_gaps,
    heat_near,
    jet_c,
    may_come_mm,
    obstacles_of,
    plume_rise_k,
    reach_mm,
    reaches_c,
    rises_of,
    struck,
    temper_of,
    view_factor,
)
from widebend.core.heat.growth import grown
from widebend.core.heat.shield import air_w_m_k, passing_w_m2_k, rayleigh, trapped_w_m2_k
from widebend.core.laying import system_of
from widebend.core.records import Engine, Straight
from widebend.core.review import review
from widebend.demo.examples import block
from widebend.demo.systems import pie_downpipe, twin_x

SIGMA = 5.670374419e-8
HOT = HotPipe(500.0, 31.75, 0.5)
STILL = Surroundings(25.0)


def test_what_a_face_sees_of_a_pipe_by_counting_rays() -> None:
    """r / h of an endless cylinder (Howell's catalogue, from memory), against a million rays by Lambert's law."""
    rng = np.random.default_rng(7)
    r, h = 30.0, 75.0
    u, turn = rng.random(1_000_000), rng.random(1_000_000) * 2 * math.pi
    sin = np.sqrt(u)
    way = np.stack([np.sqrt(1 - u), sin * np.cos(turn)])  # toward the axis, and across it; along it does not matter
    miss = h * np.abs(way[1]) / np.linalg.norm(way, axis=0)
    assert view_factor(r, h - r) == pytest.approx(float((miss < r).mean()), abs=0.002)


def test_a_faces_heat_is_in_balance() -> None:
    """150 mm off, where air passes freely: 8 W/m2 K goes to it, and the air between conducts some from the pipe."""
    reached = reaches_c(HOT, 150.0, STILL)
    takes = view_factor(31.75, 150.0) * 0.5 * 0.9 * SIGMA * (773.15**4 - 298.15**4)
    takes += air_w_m_k((500.0 + reached) / 2 + 273.15) / 0.150 * (500.0 - reached)
    gives = 8.0 * (reached - 25.0) + 0.9 * SIGMA * ((reached + 273.15) ** 4 - 298.15**4)
    assert takes == pytest.approx(gives, rel=1e-6)


def _slices(hot_c: float, half_mm: float, takes: float, black: float, thing: float) -> float:
    """The face behind a sheet by finite differences: both gaps in 40 slices of air each that conducts by its own heat,
    radiation from wall to wall, nothing carried off; marched until it settles.
    """
    n, step = 40, half_mm / 1000.0 / 40
    first, second = np.full(n, 25.0), np.full(n, 25.0)
    sheet = face = 25.0
    between = 1.0 / (1.0 / black + 1.0 / thing - 1.0)

    def conducts(a: np.ndarray | float, b: np.ndarray | float) -> np.ndarray | float:
        return 0.0241 * (((a + b) / 2 + 273.15) / 273.15) ** 0.85

    def settled(wall: float, air: np.ndarray, other: float) -> np.ndarray:
        for _ in range(60):  # the slices between two walls, each with what conducts at its own heat
            line = np.concatenate([[wall], air, [other]])
            k = conducts(line[:-1], line[1:]) / np.concatenate([[step / 2], np.full(n - 1, step), [step / 2]])
            air = wall + (other - wall) * (np.cumsum(1 / k)[:-1] / np.sum(1 / k))
        return air

    for _ in range(4000):
        first, second = settled(hot_c, first, sheet), settled(sheet, second, face)
        to_sheet = conducts(hot_c, first[0]) * (hot_c - first[0]) / (step / 2)
        to_sheet += takes * SIGMA * ((hot_c + 273.15) ** 4 - (sheet + 273.15) ** 4)
        on = conducts(sheet, second[0]) * (sheet - second[0]) / (step / 2)
        on += between * SIGMA * ((sheet + 273.15) ** 4 - (face + 273.15) ** 4)
        sheet, face = sheet + 0.005 * (to_sheet - on), face + 0.005 * on
        if abs(to_sheet) < 1.0:
            break
    return face


def test_behind_a_shield_with_no_air_through_it_gets_as_hot_as_the_sheet() -> None:
    """A shielded thing 10 mm from a pipe of 700 C, by finite differences with nothing carried off: as hot as the pipe.
    A balance that lets a little air pass says somewhat less, and never the 51 C of a sheet in open air.
    """
    pipe = HotPipe(700.0, 31.75, 0.8)
    worst = _slices(700.0, 5.0, view_factor(31.75, 5.0) * 0.8 * 0.3, 0.3, 0.9)
    reached = reaches_c(pipe, 10.0, Surroundings(25.0, shielded=True))
    assert worst > 690.0
    assert 0.8 * worst < reached < worst
    assert reaches_c(pipe, 100.0, Surroundings(25.0, shielded=True)) < reaches_c(pipe, 100.0, STILL)


def test_what_air_in_a_gap_carries_is_the_handbooks() -> None:
    """What the balance is made of, against published figures and formulas, from memory."""
    # a trapped layer never carries less than it conducts: 2 mm of air between 100 and 20 C, conductivity by handbook
    assert trapped_w_m2_k(100.0, 20.0, 2.0) == pytest.approx(0.0286 / 0.002, rel=0.02)
    # Hollands and others (1976), by hand: Ra = 1e5 gives 1 + 1.44 (1 - 0.01708) + (17.153^(1/3) - 1) = 4.00
    gap = next(g for g in np.arange(1.0, 80.0, 0.01) if rayleigh(60.0, 20.0, g / 1000) >= 1e5)
    nusselt = trapped_w_m2_k(60.0, 20.0, gap) * gap / 1000 / air_w_m_k(313.15)
    assert nusselt == pytest.approx(4.00, abs=0.01)
    # far apart two plates are each alone: Nu = 0.59 Ra^(1/4) of an upright plate (Churchill and Chu's range)
    far = passing_w_m2_k(60.0, 20.0, 200.0, slope=1.0)
    alone = 0.59 * rayleigh(60.0, 20.0, 0.2) ** 0.25 * air_w_m_k(313.15) / 0.2
    assert far == pytest.approx(alone, rel=0.05)


def test_farther_cooler_shielded_and_wrapped_is_cooler_and_over_the_pipe_is_hotter() -> None:
    gaps = [reaches_c(HOT, g, STILL) for g in (10.0, 30.0, 100.0, 300.0)]
    assert gaps == sorted(gaps, reverse=True)
    shielded = [reaches_c(HOT, g, Surroundings(25.0, shielded=True)) for g in (10.0, 30.0, 100.0, 300.0)]
    assert shielded == sorted(shielded, reverse=True)
    assert shielded[2] < gaps[2] - 30.0  # with room on both sides of it a sheet helps
    assert shielded[0] > gaps[0] - 30.0  # without, hardly
    assert reaches_c(HOT, 30.0, Surroundings(25.0, above=True)) > reaches_c(HOT, 30.0, STILL)
    assert reaches_c(HOT, 1.0, STILL) < HOT.skin_c


def test_how_near_it_may_come_is_where_it_just_bears_it() -> None:
    at = may_come_mm(HOT, 120.0, STILL)
    assert at is not None
    assert reaches_c(HOT, at, STILL) == pytest.approx(120.0, abs=0.1)
    assert may_come_mm(HotPipe(900.0, 60.0, 0.8), 40.0, STILL) is None


def test_a_plume_is_rouses() -> None:
    """Rouse, Yih and Humphreys (1952), from memory: by hand for 500 W/m, 0.2 m up, at 20 C."""
    buoyancy = 9.81 * 500 / (101_325 / (287.05 * 293.15) * 1006 * 293.15)
    assert plume_rise_k(500.0, 200.0, 20.0) == pytest.approx(2.6 * buoyancy ** (2 / 3) / 0.2 * 293.15 / 9.81)


def test_a_jet_keeps_its_heat_for_some_diameters_and_reaches_where_it_is_said_to() -> None:
    assert jet_c(600.0, 60.0, 50.0, 20.0) == 600.0
    far = reach_mm(600.0, 60.0, 250.0, 20.0)
    assert jet_c(600.0, 60.0, far, 20.0) == pytest.approx(250.0)
    assert reach_mm(200.0, 60.0, 250.0, 20.0) == 0.0


@pytest.mark.parametrize(("at_c", "colour"), [(100, 0), (300, 1), (400, 2), (460, 3), (560, 4), (700, 5)])
def test_temper_colours(at_c: float, colour: int) -> None:
    """British Stainless Steel Association's table for 304, from memory: straw 290, bronze 390, purple 450, blue 540."""
    assert temper_of(at_c) == colour
    assert temper_of(240.0, "mild") == 1


def test_a_wrap_cools_the_skin_heats_the_gas_behind_and_the_wall() -> None:
    bare = twin_x()
    wrapped = add_cover(bare, "wrap", "r2")
    before, after = (breath_of(d, system_of(d), "full", covered(d)) for d in (bare, wrapped))
    key = "r2/p1"
    one, other = (next(t for t in b.taken if t.stretch and t.stretch.key == key) for b in (before, after))
    assert other.skin_c.usual < one.skin_c.usual - 150
    assert other.gas_c.usual > one.gas_c.usual
    rises = [rises_of(d, system_of(d))[("r2", 0)] for d in (bare, wrapped)]
    assert rises[1] > rises[0]


def test_a_cover_stays_on_what_is_left_and_goes_with_its_run() -> None:
    design = add_cover(twin_x(), "wrap", "r2", "p1", "p3")
    without = take_out(design, "r2", "p1", "carry")
    assert [(c.first, c.last) for c in without.covers] == [("p2", "p3")]
    assert not without_cover(design, design.covers[0].id).covers
    assert not without_run(design, "r2").covers
    with pytest.raises(EditError, match="no longer here"):
        without_cover(design, "k9")
    with pytest.raises(EditError, match="what it goes over"):
        add_cover(design, "wrap", "")


def test_what_is_near_hot_pipe_is_found_and_a_shield_helps() -> None:
    design = twin_x()
    near = {n.thing.name: n for n in heat_near(design, breath_of(design, system_of(design), "full", covered(design)))}
    tank = near["fuel tank"]
    assert tank.too_hot and tank.above
    assert tank.reaches_c.low < tank.reaches_c.usual < tank.reaches_c.high
    assert tank.shielded_mm is None or tank.shielded_mm >= 25.0  # never nearer than half of what is wanted bare
    assert tank.wrapped_mm is not None


def test_gaps_by_heat_are_wanted_only_where_the_job_says_so() -> None:
    design = twin_x()
    assert heat_gaps(design, system_of(design)) == {}
    fixed = {o.thing.id: o.needed_mm for o in obstacles_of(design)}
    settings = design.settings.replace(heat_gaps="at cruise")
    by_heat = design.replace(settings=settings)
    wanted = {o.thing.id: o.needed_mm for o in obstacles_of(by_heat)}
    assert fixed["tank"] == 50.0 and wanted["tank"] > 60.0
    assert wanted["brace"] == fixed["brace"]
    hot = design.replace(settings=design.settings.replace(heat_gaps="at full power"))
    assert any(f.thing == "tank" and f.code == "tight" for f in review(hot).findings)


def test_each_piece_grows_by_its_own_heat() -> None:
    """By hand: a straight run of 304 at a mean rise, against the sum of its pieces' own."""
    design = pie_downpipe()
    system = system_of(design)
    rises = rises_of(design, system)
    leg = next(p for p in system.runs[0].pieces if p.piece.id == "p9")
    pieces, _ = grown(design, system, 400.0, rises)
    body = pieces[("r1", leg.index)]
    stretched = np.linalg.norm(body.goes(leg.outlet.point) - body.goes(leg.inlet.point))
    rise = rises[("r1", leg.index)]
    assert stretched == pytest.approx(
        leg.length_mm * rise * np.interp(20 + rise, (538, 649), (18.4e-6, 18.7e-6)), rel=0.01
    )
    assert 500 < rise < 760
    by_piece = design.replace(settings=design.settings.replace(growth="by piece"))
    assert len(review(by_piece).positions) > len(review(design).positions)  # each piece goes its own way
    assert gone(design, system)[0].is_flex


def test_an_engine_that_says_too_little_leaves_the_shops_mean() -> None:
    design = twin_x()
    silent = design.replace(settings=design.settings.replace(engine=Engine(cylinders=8)))
    assert rises_of(silent, system_of(silent)) == {}


def test_what_an_outlet_blows_on_is_named() -> None:
    design = twin_x()
    breath = breath_of(design, system_of(design), "full", covered(design))
    assert struck(design, breath) == []  # both tips look past the bumper
    tip = next(p for p in system_of(design).ports if p.part.name == "left tip" and p.port.role == "out")
    at = tip.pose.point + 200.0 * tip.pose.flow
    tyre = block("tyre", "trailer tyre", tuple(at - 40.0), tuple(at + 40.0))
    survey = design.survey.replace(things=(*design.survey.things, tyre))
    hit = struck(design.replace(survey=survey), breath)
    assert [(s.thing.name, s.too_hot) for s in hit] == [("trailer tyre", True)]
    assert 120 <= hit[0].behind_mm <= 180


@pytest.mark.parametrize(("aside", "up", "above"), [(90.0, 0.0, False), (0.0, 120.0, True), (0.0, -75.0, False)])
def test_a_heat_gap_is_from_the_skin_of_the_pipe_to_the_thing(aside: float, up: float, above: bool) -> None:
    """By hand: from the middle of a straight to a face beside, over or under it, less half its outside."""
    design = twin_x()
    system = system_of(design)
    straights = [
        p for run in system.runs for p in run.pieces if isinstance(p.piece, Straight) and abs(p.inlet.flow[0]) > 0.999
    ]
    leg = max(straights, key=lambda p: p.length_mm)
    off = np.array([0.0, aside, up])
    face = leg.middle + off
    deep = off / np.linalg.norm(off) * 40.0
    corners = np.array([face - (15.0, 0, 0), face + deep + (15.0, 0, 0)])
    side = np.array([0.0, 15.0, 0.0]) if up else np.array([0.0, 0, 15.0])
    low, high = corners.min(axis=0) - side, corners.max(axis=0) + side
    loom = block("loom", "loom", tuple(low), tuple(high)).replace(nature="heat-shy")
    survey = design.survey.replace(things=(loom,))
    near = heat_near(design.replace(survey=survey), breath_of(design, system, "full", covered(design)))
    (found,) = near
    assert found.gap_mm == pytest.approx(np.linalg.norm(off) - float(leg.tube.od_mm) / 2, abs=0.05)
    assert found.above is above
    assert found.pipe.radius_mm == pytest.approx(float(leg.tube.od_mm) / 2)
