"""Props while it is tacked, the schools, clamps, an old rod, two pipes on one hanger: each by its statics."""

from __future__ import annotations

import numpy as np
import pytest

from widebend.core.editing import changed_hanger
from widebend.core.errors import EditError, InputError
from widebend.core.hanger_search import mock_up, propose_hangers
from widebend.core.hanging import (
    RUBBERS,
    bracket_template,
    hang,
    hang_faults,
    held_places,
    rod_for,
    rod_template,
    tie_for,
    tube_bracket_of,
)
from widebend.core.laying import system_of
from widebend.core.records import Design, Hanger, HangSchool
from widebend.core.units import Length
from widebend.core.wording import say_hung
from widebend.demo.examples import cat_back
from widebend.demo.hung import twin_hung
from widebend.demo.systems import twin_x

G = 9.80665


def _schooled(school: HangSchool) -> Design:
    design = cat_back()
    return design.replace(settings=design.settings.replace(hang_school=school))


def _changed(design: Design, hanger: Hanger, **more: object) -> Design:
    values = {
        key: getattr(hanger, key)
        for key in (
            "way",
            "rubber",
            "rubbers",
            "hang_point",
            "pin_mm",
            "rod_mm",
            "rod_left",
            "hook_ahead",
            "pre_mm",
            "slope_deg",
            "hold",
            "bracket",
            "also_run",
        )
    }
    return changed_hanger(design, hanger.id, **(values | more))  # type: ignore[arg-type]


def test_props_relieve_the_tacks_and_only_push() -> None:
    """Statics: without props the front joint bears the moment of the whole mass about it; with them it is let be."""
    design = cat_back()
    system = system_of(design)
    found = mock_up(design, system)
    assert found.props
    assert all(prop.load_n > 0 for prop in found.props)
    assert found.tack_nm <= design.settings.rules.tack_nm
    assert found.down_mm <= float(design.settings.rules.sag_mm)
    weak = design.settings.rules.replace(tack_nm=5.0)
    settings = design.settings.replace(rules=weak)
    more = mock_up(design.replace(settings=settings), system)
    assert len(more.props) > len(found.props)
    whole = hang(design, system).mass_kg * G
    assert sum(prop.load_n for prop in more.props) < whole


@pytest.mark.parametrize(
    ("school", "key", "value"),
    [
        ("two rubbers a point", "rubbers", 2),
        ("one tilted rod", "slope_deg", 15.0),
        ("bobbins", "way", "bobbin pulled"),
        ("solid", "way", "solid"),
    ],
)
def test_every_way_hangs_as_the_shop_does(school: HangSchool, key: str, value: object) -> None:
    answer = propose_hangers(_schooled(school), system_of(cat_back()))
    assert answer.found
    assert {getattr(h, key) for one in answer.found for h in one.hangers} == {value}


def test_pulled_rods_keep_equilibrium_and_their_flex_free() -> None:
    """Equal pulls apart cancel; one way all pull on what holds the front end. No flex bears more than it may."""
    apart, one_way = (
        propose_hangers(_schooled(school), system_of(cat_back())).found[0]
        for school in ("rods pulled apart", "rods pulled one way")
    )
    pulls = [float(h.pre_mm[0]) for h in apart.hangers]
    assert min(pulls) < 0 < max(pulls)
    assert len({float(h.pre_mm[0]) for h in one_way.hangers}) == 1
    assert float(one_way.hangers[0].pre_mm[0]) > 0
    assert not [f for p in (apart, one_way) for f in p.faults if f.code == "flex-carries"]


def test_an_old_rod_is_used_where_it_reaches_and_refused_where_not() -> None:
    design = cat_back()
    system = system_of(design)
    long = tuple(p.replace(old_rod_mm=Length(400)) for p in design.survey.hang_points)
    survey = design.survey.replace(hang_points=long)
    answer = propose_hangers(design.replace(survey=survey), system)
    assert {h.hold for h in answer.found[0].hangers} == {"old rod"}
    short = tuple(p.replace(old_rod_mm=Length(30)) for p in long)
    survey = design.survey.replace(hang_points=short)
    hung = design.replace(survey=survey, hangers=answer.found[0].hangers)
    said = [say_hung(f, hung) for f in hang_faults(hung, system, hang(hung, system))]
    assert any("the old rod is" in words and "too short" in words for words in said)
    with pytest.raises(InputError, match="old rod"):
        rod_for(system, hang(hung, system).carried[0])


def test_two_pipes_share_one_hanger() -> None:
    """The bar across takes both: what one hanger carries is what two did there, and it is as long as they are apart."""
    design = twin_hung(twin_x())
    system = system_of(design)
    first, second = design.hangers[:2]
    apart = hang(design, system)
    two = apart.carried[0].load_n + apart.carried[1].load_n
    point = held_places(first, system)[0][1], held_places(second, system)[0][1]
    between = float(np.linalg.norm(point[1] - point[0]))
    assert _changed(design, first, also_run=second.run).hangers[0].also_run == second.run
    with pytest.raises(EditError, match="a bar across"):  # the other side's rear passes far out
        _changed(design, design.hangers[2], also_run=second.run)
    near = first.replace(
        also_run=second.run, also_piece=second.piece, also_along_mm=second.along_mm, rubber=RUBBERS["two-hole-stiff"]
    )
    joined = design.replace(hangers=(near, *design.hangers[2:]))
    hung = hang(joined, system)
    assert hung.carried[0].load_n == pytest.approx(two, rel=0.25)
    tube = held_places(first, system)[0][0].tube
    assert tie_for(system, near) == pytest.approx(between - float(tube.od_mm) + 40.0, abs=0.01)


def test_a_bridge_over_the_flex_and_a_cradle_on_a_bend_are_said() -> None:
    design = twin_hung(twin_x())
    system = system_of(design)
    from widebend.core.laying import movers

    moves = movers(design, system)
    engine = next(key for key, mover in moves.pieces.items() if mover == "engine")
    piece = next(p for r in system.runs for p in r.pieces if (r.run.id, p.index) == engine)
    tie = Hanger(id="tie", run=engine[0], piece=piece.piece.id, along_mm=Length(5), way="solid")
    tied = design.replace(hangers=(*design.hangers, tie))
    assert "bridge" in {f.code for f in hang_faults(tied, system, hang(tied, system))}
    bend = next(
        (r.run.id, p.piece.id)
        for r in system.runs
        for p in r.pieces
        if p.piece.kind == "bend" and moves.pieces[(r.run.id, p.index)] == "hung"
    )
    clamp = Hanger(id="clamp", run=bend[0], piece=bend[1], along_mm=Length(10), hold="cradle")
    clamped = design.replace(hangers=(*design.hangers, clamp))
    assert "cradle-bent" in {f.code for f in hang_faults(clamped, system, hang(clamped, system))}


def test_a_tube_bracket_is_a_polyline_with_one_arc() -> None:
    """Cut length by hand: 120 out and 90 down with a radius of 44 between, and the ends: 120 + 90 - 88 + 44 pi / 2."""
    made = tube_bracket_of(np.array([120.0, 0.0, -90.0]), 8.5, 10.5, 80.0)
    apart = made.holes[1][0] - made.holes[0][0]
    assert apart == pytest.approx(120 + 90 - 88 + 44 * np.pi / 2, abs=1e-9)
    second = np.pi / 64 * (22**4 - 18**4)
    assert made.stress_mpa == pytest.approx(3 * 80 * 120 * 11 / second)
    assert bracket_template(made, "one").notes
    with pytest.raises(InputError, match="bent tube"):
        tube_bracket_of(np.array([20.0, 0.0, -90.0]), 8.5, 10.5, 80.0)


def test_the_rod_on_paper_is_as_long_as_the_rod() -> None:
    design = twin_hung(twin_x())
    system = system_of(design)
    one = hang(design, system).carried[0]
    rod = rod_for(system, one)
    paper = rod_template(rod, "hanger 1")
    assert np.ptp(paper.strokes[0].points[:, 0]) == pytest.approx(rod.cut_mm)
    views = [s.points for s in paper.strokes if len(s.points) == len(rod.line) and s.kind == "line" and not s.closed]
    assert np.ptp(views[0], axis=0) == pytest.approx(np.ptp(rod.line[:, 1:], axis=0))
    assert np.ptp(views[1], axis=0) == pytest.approx(np.ptp(rod.line[:, [0, 2]], axis=0))
