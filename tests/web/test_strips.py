"""The strips make room: a run in hand and what is proposed for it are seen whole, where there is room for that."""

import re
from collections.abc import Callable

import numpy as np
import pytest

from widebend.core.laying import spaced
from widebend.core.records import Design, Survey
from widebend.core.review import review
from widebend.core.routing import propose
from widebend.demo.examples import cat_back, first_job
from widebend.demo.systems import pie_downpipe, twin_x
from widebend.web.drawing.slice import draw_slice
from widebend.web.drawing.strip import Ghost, Picture
from widebend.web.drawing.strips import _so_that_it_shows, draw_strips
from widebend.web.page.window import GHOSTS_TALL_PX, ROUTE_TALL_PX, SIDE_ROOM_PX, Window, extent_of


def _drawn(design: Design, ghosts: tuple[Ghost, ...] = ()) -> Picture:
    found = review(design)
    return draw_strips(
        design, found, Window.fitting(extent_of(found.system, design.survey)), "r1", ghosts=ghosts, with_corners=True
    )


def _ghosts(design: Design) -> tuple[Ghost, ...]:
    return tuple(Ghost(i + 1, p.laid, i == 0) for i, p in enumerate(propose(design, "r1").found))


def test_ghosts_make_the_strips_taller_and_never_too_tall() -> None:
    bare, with_them = _drawn(first_job()), _drawn(first_job(), _ghosts(first_job()))
    tall, taller = (sum(strip.height for strip in picture.strips) for picture in (bare, with_them))
    assert ROUTE_TALL_PX - 1 <= tall <= taller <= GHOSTS_TALL_PX + 1


@pytest.mark.parametrize("make", [cat_back, first_job, twin_x, pie_downpipe])
def test_fit_shows_all_pipe_and_hardware_both_ways(make: Callable[[], Design]) -> None:
    """Also a downpipe that drops half a metre, at the scale that is stated."""
    picture = _drawn(make())
    for strip in picture.strips:
        places = [m.data["d"] for m in strip.marks if m.css == "pipe"]
        places += [m.data["points"] for m in strip.marks if m.css.startswith("part")]
        ys = [float(y) for d in places for y in re.findall(r",(-?[0-9.]+)", str(d))]
        assert strip.top <= min(ys)
        assert max(ys) <= strip.top + strip.height
    window = picture.window
    # at 96 pixels an inch this many times smaller than life
    assert window.scale == pytest.approx(window.span / (window.width_px / 96 * 25.4))


def test_the_chosen_ghost_is_seen_whole() -> None:
    ghosts = _ghosts(first_job())
    picture = _drawn(first_job(), ghosts)
    strip, per_mm = picture.strips[0], picture.width / picture.window.span
    across = np.concatenate([spaced(p, 20.0)[:, 1] for p in ghosts[0].laid])
    assert np.ptp(across) * per_mm + SIDE_ROOM_PX < strip.height
    drawn = [m.data["d"] for m in strip.marks if m.css == "ghost chosen"]
    ys = [float(y) for d in drawn for y in re.findall(r",(-?[0-9.]+)", d)]
    assert strip.top <= min(ys)
    assert max(ys) <= strip.top + strip.height


@pytest.mark.parametrize(
    ("middle", "values", "shown", "moved"),
    [
        (0.0, (-40.0, 40.0), 100.0, 0.0),  # seen as it is
        (0.0, (20.0, 80.0), 100.0, 30.0),  # moved just so far
        (0.0, (-80.0, -20.0), 100.0, -30.0),
        (5.0, (-200.0, 200.0), 100.0, 5.0),  # does not fit anyhow
        (5.0, (), 100.0, 5.0),
    ],
)
def test_a_middle_is_moved_as_little_as_shows(middle: float, values: tuple, shown: float, moved: float) -> None:
    assert _so_that_it_shows(middle, values, shown) == moved


def test_a_slice_says_what_it_cuts() -> None:
    """A pipe with nothing round it, a can in the line, and nothing."""
    found = review(cat_back().replace(survey=Survey()))
    muffler = next(body for body in found.system.bodies if body.part.name == "muffler").segment
    assert draw_slice(found, float(muffler[3] + muffler[6] * muffler[1] / 2)).cut == "through the muffler"
    assert draw_slice(found, 9000.0).cut == ""
    start = found.system.runs[0].start.point
    assert draw_slice(found, float(start[0]) + 5.0).cut == "nothing to keep clear of here"
