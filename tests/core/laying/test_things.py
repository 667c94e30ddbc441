"""Outlines, windows, states, moving by hand: what a thing is to the review."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from widebend.core.errors import EditError
from widebend.core.laying import biggest_tube, gap_rule, needed_gap, obstacles
from widebend.core.records import Box, Extrusion, LowLine, Rules, Survey, Thing, Window
from widebend.core.review import distances, review
from widebend.core.space import biggest_round, convex_parts, oval, rectangle
from widebend.core.survey import STARTERS, bounds, checklist, handles, moved, snapped, starter, stretched
from widebend.core.units import Length
from widebend.demo.examples import block, cat_back

STAR = [
    (200 * (1 if k % 2 else 0.4) * np.cos(np.pi * k / 7), 200 * (1 if k % 2 else 0.4) * np.sin(np.pi * k / 7))
    for k in range(14)
]


@pytest.mark.parametrize("holes", [(), (rectangle(40, 30),), (oval(50, 50, 20),)])
def test_convex_parts_are_convex_and_together_the_outline(holes: tuple) -> None:
    """Areas and union by shapely, a reference library."""
    whole = shapely.Polygon(STAR, holes)
    parts = [shapely.Polygon(p) for p in convex_parts(STAR, holes)]
    assert all(p.convex_hull.area == pytest.approx(p.area) for p in parts)
    assert sum(p.area for p in parts) == pytest.approx(whole.area)
    assert shapely.union_all(parts).symmetric_difference(whole).area < 1e-3


@settings(max_examples=60, deadline=None)
@given(st.tuples(*[st.floats(-400, 400)] * 3))
def test_distance_to_an_extrusion_by_shapely(point: tuple[float, float, float]) -> None:
    """Outside: the flat distance by shapely and the distance past its ends, squared and added."""
    shape = Extrusion.model_validate(
        {
            "origin": (0.0, 0.0, 0.0),
            "axis": (1.0, 0.0, 0.0),
            "reference": (0.0, 0.0, 1.0),
            "depth": 300.0,
            "outline": STAR,
        }
    )
    survey = Survey(things=(Thing(id="star", name="star", shape=shape),))
    got = float(distances(np.array([point]), obstacles(survey, Rules())[0])[0])
    flat = shapely.Polygon(STAR).distance(shapely.Point(point[1], point[2]))
    past = max(-point[0], point[0] - 300, 0.0)
    want = float(np.hypot(flat, past))
    if want > 0:
        assert got == pytest.approx(want, abs=1e-6)
    else:
        assert got <= 1e-9


def test_a_window_is_cut_out_of_what_it_goes_through() -> None:
    wall = block("wall", "crossmember", (1900, -400, 250), (1990, 400, 450))
    window = {
        "id": "w1",
        "name": "hole",
        "center": (1945.0, 100.0, 350.0),
        "outline": oval(120, 120, 20),
        "through": "wall",
    }
    survey = Survey.model_validate({"things": [wall.model_dump()], "windows": [window]})
    middle = np.array([[1945.0, 100.0, 350.0]])
    assert distances(middle, obstacles(survey, Rules())[0])[0] == pytest.approx(60.0, abs=1.0)
    assert distances(middle, obstacles(Survey(things=(wall,)), Rules())[0])[0] < 0
    assert biggest_round(survey.windows[0].outline, 10.0)[0] == pytest.approx(100.0, abs=2.0)


def test_a_window_that_cannot_be_cut_is_said_and_the_thing_stays_whole() -> None:
    wall = block("wall", "crossmember", (1900, -400, 250), (1990, 400, 450))
    window = {
        "id": "w1",
        "name": "hole",
        "center": (1945.0, 500.0, 350.0),
        "outline": rectangle(80, 80),
        "through": "wall",
    }
    survey = Survey.model_validate({"things": [wall.model_dump()], "windows": [window]})
    found = review(cat_back().replace(survey=survey))
    assert any(f.code == "shut" and "does not lie inside" in f.names[0] for f in found.findings)


def test_each_view_reckons_with_its_states() -> None:
    states = ("as found", "on order", "missing", "removed for now")
    things = tuple(block(f"t{i}", s, (0, 0, 0), (10, 10, 10), state=s) for i, s in enumerate(states))
    survey = Survey(things=things)
    names = {view: [o.thing.name for o in obstacles(survey, Rules(), view)] for view in ("now", "coming", "everything")}
    assert names == {"now": ["as found"], "coming": ["as found", "on order"], "everything": list(states)}
    found = review(cat_back().replace(survey=survey), "now")
    assert {f.names[0]: f.checked for f in found.findings if f.code == "pending"} == dict.fromkeys(states[1:], False)


def test_needed_gaps_go_by_what_a_thing_is_and_moves_with() -> None:
    rules = Rules.model_validate({"brake_hose_gap_mm": 70.0, "axle_gap_mm": 25.0})
    hose = block("h", "hose", (0, 0, 0), (9, 9, 9), nature="heat-shy", heat_shy_what="brake hose")
    axle = block("a", "axle", (0, 0, 0), (9, 9, 9), moves_with="rear-axle")
    assert [gap_rule(hose), gap_rule(axle)] == ["brake_hose_gap_mm", "axle_gap_mm"]
    assert [needed_gap(hose, rules), needed_gap(axle, rules)] == [70.0, 25.0]
    assert needed_gap(hose.replace(needed_gap_mm=Length(12)), rules) == 12.0


def test_both_low_lines_are_kept_clear_of() -> None:
    survey = Survey(low_line=LowLine(d=Length(150)), lowered_line=LowLine(d=Length(190)))
    assert [o.thing.name for o in obstacles(survey, Rules())] == ["low line", "low line when lowered"]


@pytest.mark.parametrize("key", STARTERS)
def test_a_starter_scales_and_is_all_guesses(key: str) -> None:
    usual = STARTERS[key]
    plain = starter(key, usual.wheelbase_mm, usual.track_mm)
    wide = starter(key, 2 * usual.wheelbase_mm, usual.track_mm)
    first, second = (bounds(s.things[-2].shape) for s in (plain, wide))
    assert second[1][0] == pytest.approx(2 * first[1][0], rel=0.01)
    assert all(t.how_measured == "a guess until measured" and t.plus_minus_mm for t in plain.things)
    assert all(o.solids.size for o in obstacles(plain, Rules()))
    open_items = {i.id for i in checklist(plain) if not i.done}
    assert {"covers", "pictures", "lines", "hang-points"} <= open_items


def test_moving_and_stretching_by_hand() -> None:
    box = block("t", "tank", (100, -50, 200), (300, 50, 260)).shape
    low, high = bounds(moved(box, np.array([10.0, -5.0, 2.0])))
    assert np.allclose(low, [110, -55, 202])
    assert np.allclose(high, [310, 45, 262])
    longer = stretched(box, "x1", np.array([40.0, 0, 0]))
    assert isinstance(longer, Box)
    assert np.allclose(bounds(longer), [[100, -50, 200], [340, 50, 260]])
    assert {h.key for h in handles(box)} == {"x0", "x1", "y0", "y1", "z0", "z1"}
    with pytest.raises(EditError, match="stretch it less"):
        stretched(box, "z1", np.array([0, 0, -59.0]))


def test_a_drag_snaps_to_the_centre_line_a_rail_or_another_thing() -> None:
    survey = Survey.model_validate(
        {
            "things": [
                block("t", "tank", (100, -53, 200), (300, 47, 260)).model_dump(),
                block("o", "brace", (400, 100, 200), (420, 200, 260)).model_dump(),
            ],
            "rails": {"left_y_mm": -430.0, "right_y_mm": 430.0},
        }
    )
    by, said = snapped(survey, survey.things[0], np.array([96.0, 0.0, 0.0]), 8.0)
    assert np.allclose(by, [100, 0, 0])
    assert said == ("the brace",)
    by, said = snapped(survey, survey.things[0], np.array([0.0, 380.0, 0.0]), 8.0)
    assert by[1] == pytest.approx(383.0)
    assert said == ("right rail",)
    by, said = snapped(survey, survey.things[0], np.array([33.4, 0.0, 0.0]), 8.0)
    assert (by[0], said) == (pytest.approx(33.0), ())


@pytest.mark.parametrize(
    ("survey", "words"),
    [
        (
            {
                "windows": [
                    {
                        "id": "w",
                        "name": "w",
                        "center": [0.0, 0.0, 0.0],
                        "axis": [0.0, 0.0, 1.0],
                        "outline": [[0.0, 0.0], [9.0, 0.0], [9.0, 9.0]],
                    }
                ]
            },
            "runs along its axis",
        ),
        (
            {
                "windows": [
                    {
                        "id": "w",
                        "name": "w",
                        "center": [0.0, 0.0, 0.0],
                        "outline": [[0.0, 0.0], [9.0, 9.0], [9.0, 0.0], [0.0, 9.0]],
                    }
                ]
            },
            "crosses itself",
        ),
        ({"low_line": {"n": [0.0, 0.0, 0.0], "d": 150.0}}, "direction"),
        (
            {
                "groups": [
                    {
                        "id": "engine",
                        "motion": {"kind": "rock", "about": [0.0, 0.0, 0.0], "axis": [0.0, 0.0, 0.0], "deg": 3.0},
                    }
                ]
            },
            "direction",
        ),
        (
            {
                "things": [
                    {
                        "id": "t",
                        "name": "t",
                        "moves_with": "moon",
                        "shape": {"type": "sphere", "radius": 5.0, "center": [0.0, 0.0, 0.0]},
                    }
                ]
            },
            "not a group",
        ),
        (
            {
                "windows": [
                    {
                        "id": "w",
                        "name": "w",
                        "center": [0.0, 0.0, 0.0],
                        "through": "t9",
                        "outline": [[0.0, 0.0], [9.0, 0.0], [9.0, 9.0]],
                    }
                ]
            },
            "not a thing here",
        ),
    ],
)
def test_a_survey_that_cannot_be_reviewed_is_refused_when_it_is_read(survey: dict, words: str) -> None:
    """What would make a direction or an opening of nothing never reaches the review."""
    with pytest.raises(ValueError, match=words):
        Survey.model_validate(survey)


def test_the_biggest_tube_keeps_its_gap_and_the_doubt_of_the_window() -> None:
    """A hole 100 x 140: round 100 fits; less 2 x (10 + 3) is 74. Its own gap goes before the rule."""
    window = {"id": "w", "name": "w", "center": (0.0, 0.0, 0.0), "outline": rectangle(100, 140), "plus_minus_mm": 3.0}
    assert biggest_tube(Window.model_validate(window), Rules()) == pytest.approx(74.0, abs=0.2)
    own = Window.model_validate(window | {"needed_gap_mm": 20.0})
    assert biggest_tube(own, Rules()) == pytest.approx(54.0, abs=0.2)
    assert biggest_tube(Window.model_validate(window | {"needed_gap_mm": 60.0}), Rules()) == 0.0
