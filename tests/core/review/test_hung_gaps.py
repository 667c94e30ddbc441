"""The hung system against what is near: as it sags, with a rubber lost; its rods, and the pliers' room."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from widebend.core.hanger_search import propose_hangers
from widebend.core.hanging import HangState, HungState, beyond_shop, hang, has_rod, hung_states, lost_states, rod_for
from widebend.core.laying import HungGoing, engine_positions, movement, system_of
from widebend.core.records import Design, Equipment
from widebend.core.review import Review, hung_findings, review, rod_faults, with_free_rods
from widebend.core.units import Length
from widebend.core.wording import say_hung
from widebend.demo.examples import block, cat_back
from widebend.demo.hung import twin_hung
from widebend.demo.systems import twin_x


@pytest.fixture(scope="module")
def estate() -> tuple[Design, Review]:
    bare = cat_back()
    hangers = propose_hangers(bare, review(bare).system).found[0].hangers
    design = bare.replace(hangers=hangers)
    return design, review(design)


def test_a_lost_rubber_is_said_by_what_it_lets_touch(estate: tuple[Design, Review]) -> None:
    """A block under the tip just deeper than it hangs and a millimetre higher than it falls with its rubber lost."""
    design, found = estate
    last = design.hangers[-1].id
    hung, lost = (
        hang(design, found.system, how, modes=0) for how in (HangState(), HangState(without=frozenset({last})))
    )
    falls = -lost.parts["tip"][2]
    underside = 292.0 - 89.0 / 2
    under = block(
        "kerb", "crossmember behind", (4240, 260, 190), (4400, 340, underside - falls + 1.0), needed_gap_mm=Length(0)
    )
    survey = design.survey.replace(things=(*design.survey.things, under))
    near = review(design.replace(survey=survey))
    assert falls > 2 - hung.parts["tip"][2]
    told = hung_findings(near, lost_states(design, found.system, {last: "lost"})[0])
    said = [(f.part, f.position, f.code) for f in told if f.thing == "kerb"]
    assert [(part, code) for part, _, code in said] == [("tip", "touches")]
    assert said[0][1].startswith("lost")


def test_what_only_its_flexes_would_hold_comes_down() -> None:
    """Of one hanger only, its rubber lost leaves the flexes: no figure of how far it goes would mean anything."""
    twin = twin_hung(twin_x())
    alone = twin.replace(hangers=twin.hangers[-1:])
    only = alone.hangers[0].id
    assert lost_states(alone, system_of(alone), {only: "lost"}) == ([], [only])


def test_rest_is_the_review_s_own(estate: tuple[Design, Review]) -> None:
    """What is too near where it was drawn is said once, by the review."""
    design, found = estate
    hung = hang(design, found.system, modes=0)
    still = HungState(
        "not at all", {k: (np.zeros(3), np.zeros(3)) for k in hung.pieces}, {k: np.zeros(6) for k in hung.parts}
    )
    assert hung_findings(found, [still]) == []


def test_the_review_moves_what_hangs_as_its_hangers_let_it(estate: tuple[Design, Review]) -> None:
    """A block just under the tip, clear of it as drawn: the review says that it is hit as it hangs, and by how much."""
    design, found = estate
    sag = -hang(design, found.system, modes=0).parts["tip"][2]
    top = 292.0 - 89.0 / 2 - sag / 2
    under = block("kerb", "crossmember behind", (4240, 260, 190), (4400, 340, top), needed_gap_mm=Length(0))
    survey = design.survey.replace(things=(*design.survey.things, under))
    told = review(design.replace(survey=survey))
    said = [f for f in told.findings if f.thing == "kerb" and f.part == "tip"]
    assert [f.code for f in said] == ["touches"]
    assert said[0].position
    bare = review(design.replace(survey=survey, hangers=()))
    assert [f for f in bare.findings if f.thing == "kerb" and f.part == "tip" and not f.position] == []


def test_engine_rock_is_carried_through_the_flex() -> None:
    """What the engine holds goes as a rigid turn takes it; behind the flex it goes less, but not nothing."""
    design = twin_hung(twin_x())
    system = system_of(design)
    moves, _ = movement(design, system)
    rock = engine_positions(design)
    states = {s.name: s for s in hung_states(design, system, moves, rock)}
    still, rocked = states["as it hangs"], states[rock[1].name]
    ahead = next(key for key, mover in moves.pieces.items() if mover.startswith("engine"))
    piece = next(p for r in system.runs for p in r.pieces if (r.run.id, p.index) == ahead)
    goes = rock[1].points(piece.inlet.point) - piece.inlet.point
    assert rocked.pieces[ahead][0] - still.pieces[ahead][0] == pytest.approx(goes, abs=0.05)
    far = max(float(np.linalg.norm(rocked.parts[p] - still.parts[p])) for p in ("muffler-1", "muffler-2"))
    assert 0.01 < far < float(np.linalg.norm(goes))


def test_a_rod_is_turned_until_it_hits_nothing_and_pliers_reach(estate: tuple[Design, Review]) -> None:
    """The bumper stands 70 mm behind the tip's rubber: a hook that looks back cannot be reached, one that looks ahead
    can.
    """
    design, found = estate
    back = tuple(h.replace(hook_ahead=False) for h in design.hangers)
    hung = hang(design.replace(hangers=back), found.system, modes=0)
    said = [say_hung(f, design) for f in rod_faults(design, found, hung)]
    assert any("bumper is in the way of the pliers" in words for words in said)
    free = with_free_rods(found, hung)
    assert [h.hook_ahead for h in free][-1] is True
    hung = hang(design.replace(hangers=free), found.system, modes=0)
    assert list(rod_faults(design, found, hung)) == []
    eye = hung.carried[0].eye
    low, high = eye - np.array([15.0, 5.0, 40.0]), eye + np.array([15.0, 12.0, 60.0])
    wall = block("wall", "tunnel side", tuple(low), tuple(high))
    survey = design.survey.replace(things=(*design.survey.things, wall))
    walled = design.replace(survey=survey, hangers=free)
    hits = list(rod_faults(walled, review(walled), hung))
    assert ("rod-hits", free[0].id) in {(f.code, f.hanger) for f in hits}
    assert float(Length(3)) == hits[0].limit


def test_a_rod_that_would_bend_is_of_a_thicker_bar(estate: tuple[Design, Review]) -> None:
    """Bending stress goes with the load, and with one over the third power of the bar: 12 mm takes 1.7 times 10's."""
    design, found = estate
    hung = hang(design, found.system, modes=0)
    one = next(c for c in hung.carried if has_rod(c.hanger))
    rod = rod_for(found.system, one)
    times = 1.3 * 250.0 / max(rod.stop_mpa, rod.weld_mpa)  # mild steel yields at 250
    heavy = replace(one, load_n=one.load_n * times)
    assert not rod_for(found.system, heavy).holds
    (stouter,) = with_free_rods(found, replace(hung, carried=(heavy,)))
    assert float(stouter.rod_mm) == 12.0
    assert rod_for(found.system, replace(heavy, hanger=stouter)).holds
    # a shop that bends 10 at most is offered no thicker one, and one that bends 8 is told of what is thicker
    (kept,) = with_free_rods(found, replace(hung, carried=(heavy,)), 10.0)
    assert float(kept.rod_mm) == 10.0
    light = replace(one, load_n=one.load_n * 0.1)
    (thin,) = with_free_rods(found, replace(hung, carried=(light,)), 8.0)
    assert float(thin.rod_mm) == 8.0
    said = [say_hung(f, design) for f in beyond_shop(design, hung, Equipment(rod_mm=Length(8.0)))]
    assert len(said) == sum(has_rod(h) for h in design.hangers)
    assert "its rod is 10 mm, the shop bends 8 mm" in said[0]
    assert not list(beyond_shop(design, hung, Equipment()))
    assert with_free_rods(found, hung, 0.0) == with_free_rods(found, hung)  # a shop that bends none has it bent


def test_a_bracket_of_thicker_bar_than_the_shop_bends_is_said(estate: tuple[Design, Review]) -> None:
    """Its pin stands 80 mm to the side of its hole and 60 under it: a bent bar 4 mm thick."""
    bare, found = estate
    off = (Length(0), Length(80), Length(-60))
    hangers = tuple(h.replace(pin_mm=off, bracket="flat bar") for h in bare.hangers[:1])
    design = bare.replace(hangers=hangers)
    hung = hang(design, found.system, modes=0)
    (words,) = (say_hung(f, design) for f in beyond_shop(design, hung, Equipment(plate_mm=Length(3.0))))
    assert "its bracket is of 4 mm bar, the shop bends 3 mm" in words
    assert not list(beyond_shop(design, hung, Equipment(plate_mm=Length(4.0))))


def test_a_tail_is_held_as_far_down_as_its_end_sags() -> None:
    """A straight of 1.5 m goes 2.7 mm down at its front and 30.7 at its end: its end is where it is said to be, its
    middle half way, and a short piece beside it that goes as its end does moves with it only where that is so.
    """
    ends = np.array([[2000.0, 0, 300], [3500.0, 0, 300]])
    far = np.array([[0.0, 0, -2.7], [0.0, 0, -30.7]])
    tail = HungGoing.of(["as it hangs"], ends, [far])
    assert tail.states[0].points(ends) == pytest.approx(ends + far, abs=0.3)
    assert tail.states[0].points(ends.mean(axis=0)) == pytest.approx(ends.mean(axis=0) + far.mean(axis=0), abs=0.01)
    beside = HungGoing.of(["as it hangs"], np.array([[3500.0, 0, 300], [3600.0, 0, 300]]), [far[[1, 1]]])
    assert not beside.is_as(tail)
    assert tail.is_as(tail)
