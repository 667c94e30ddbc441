"""The strips: from below, from the left, the ruler, the margin ribbon and the ties to the line-up, as one picture.

Everything is in pixels of a picture `width` wide; one ruler runs through all strips. Marks are (kind, data) for the
template to draw; classes carry the meaning (hard, heat-shy, moving, touches, tight), the style sheet the look.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ...core.editing import corners
from ...core.laying import System
from ...core.records import Design, Survey
from ...core.review import Review
from ...core.survey import bounds
from ...core.units import MM_PER_INCH
from ..page.sight import EVERYTHING, Sight
from ..page.window import (
    GHOSTS_TALL_PX,
    LAYOUT_TALL_PX,
    MEASURE_TALL_PX,
    ROUTE_TALL_PX,
    SIDE_ROOM_PX,
    Window,
    extent_of,
    extent_of_things,
    hardware_corners,
    pipe_corners,
    strip_heights,
    thing_corners,
)
from .labels import Labels
from .lines_ribbon import LINES_PX, Lines, drawn
from .marks import Mark, Scale, station_to_px
from .pipes_on_strip import corner_mark, draw_ends, draw_ghost, draw_pipe, gas_arrow, shadow_mark, touch_marks
from .ribbon import RIBBON_PX, ribbon
from .strip import PLANNED, Ghost, Picture, Shadow, Strip
from .things_on_strip import draw_bosses, draw_handles, draw_hardware, draw_places, draw_things, seen

RULER_PX, TIES_PX = 22, 14
RULER_STEPS = (5, 10, 20, 50, 100, 200, 500, 1000)
RULER_INCHES = (0.25, 0.5, 1, 2, 4, 6, 12, 24, 48)


def draw_strips(
    design: Design,
    found: Review,
    window: Window,
    run_id: str | None,
    piece: int | None = None,
    ghosts: tuple[Ghost, ...] = (),
    things_only: bool = False,
    sight: Sight = EVERYTHING,
    thing: str = "",
    shadows: Sequence[Shadow] = (),
    with_corners: bool = False,
    lines: Sequence[Lines] = (),
) -> Picture:
    """The picture of a design in a window; `piece` of run `run_id` is the chosen one, and `thing` the chosen thing;
    `lines` are drawn as ribbons under the ruler.
    """
    ways = [p.outlet.point for ghost in ghosts for p in ghost.laid]
    chosen = [float(p.outlet.point[1]) for ghost in ghosts if ghost.chosen for p in ghost.laid]
    survey, per_mm = design.survey, window.width_px / window.span
    if things_only:
        below_px, left_px = strip_heights(extent_of_things(survey), per_mm, MEASURE_TALL_PX, MEASURE_TALL_PX)
        across = _across(design, window, thing, below_px)
    else:
        usual = ROUTE_TALL_PX if with_corners else LAYOUT_TALL_PX
        most = GHOSTS_TALL_PX if ghosts else usual
        below_px, left_px = strip_heights(extent_of(found.system, survey, ways), per_mm, most, usual)
        shown_mm = (below_px - SIDE_ROOM_PX) / per_mm
        across = _so_that_it_shows(_middle_across(found.system, window, run_id, ways, shown_mm), chosen, shown_mm)
    below = Scale(window, 0.0, below_px, across, up=False)
    corners_of = [np.reshape(list(ways), (-1, 3)), pipe_corners(found.system.runs), hardware_corners(found.system)]
    shown_points = np.concatenate(corners_of)
    if things_only or not len(shown_points):
        shown_points = np.concatenate([shown_points, thing_corners(survey)])
    side = Scale(window, below_px, left_px, _height_middle(shown_points, window, survey, left_px / per_mm), up=True)
    strips = []
    for name, scale, axes in (("from below", below, (0, 1)), ("from the left", side, (0, 2))):
        shown = {"from the left": "from the right"}.get(name, name) if window.turned else name
        strip = _strip(shown, scale, axes, design, found, run_id, piece, ghosts, sight, things_only)
        draw_handles(strip, scale, axes, design, thing)
        grey = [shadow_mark(scale, axes, shadow) for shadow in shadows if shadow.css == PLANNED]
        strip.marks[:0] = grey  # what was planned lies behind what is there
        strip.marks += [shadow_mark(scale, axes, shadow) for shadow in shadows if shadow.css != PLANNED]
        if with_corners:
            strip.marks += [
                corner_mark(scale, axes, run, at)
                for run in found.system.runs
                if run.run.id == run_id
                for at in corners(run)
            ]
        strips.append(strip)
    ruler_top = below_px + left_px
    ribbon_top = ruler_top + RULER_PX + len(lines) * LINES_PX
    margin = [] if things_only else ribbon(found, window, ribbon_top)
    ties = [] if things_only else _ties(found.system, window, run_id, ribbon_top + RIBBON_PX, piece)
    height = ribbon_top + (4 if things_only else RIBBON_PX + TIES_PX)
    return Picture(
        window.width_px,
        height,
        strips,
        _ticks(window, design),
        ruler_top,
        ribbon_top,
        margin,
        ties,
        window,
        drawn(lines, window, ruler_top + RULER_PX),
    )


def _across(design: Design, window: Window, thing_id: str, tall_px: float) -> float:
    """Where the view from below is centred while measuring: on the centre line, or so that the chosen thing shows."""
    thing = design.survey.thing(thing_id) if thing_id else None
    around = bounds(thing.shape) if thing else None
    if around is None:
        return 0.0
    shown = tall_px * window.span / window.width_px / 2
    low, high = float(around[0][1]), float(around[1][1])
    return (low + high) / 2 if max(-low, high) > shown and high - low < 2 * shown else 0.0


def _in_window(points: np.ndarray, window: Window, axis: int) -> list[float]:
    """How far across (1) or up (2) those of some points (n, 3) are that are in the window."""
    inside = (points[:, 0] >= window.low) & (points[:, 0] <= window.high)
    return points[inside, axis].tolist()  # type: ignore[no-any-return]


def _middle_across(
    system: System, window: Window, run_id: str | None, ways: Sequence[np.ndarray], shown_mm: float
) -> float:
    """Where the view from below is centred: on all that is in the window where it fits, else on the run in hand."""
    on_way = _in_window(np.reshape(list(ways), (-1, 3)), window, 1)
    values = _in_window(pipe_corners(system.runs), window, 1) + _in_window(hardware_corners(system), window, 1) + on_way
    if values and max(values) - min(values) > shown_mm:
        in_hand = pipe_corners([r for r in system.runs if r.run.id == run_id])
        values = _in_window(in_hand, window, 1) + on_way or values
    return (min(values) + max(values)) / 2 if values else 0.0


def _so_that_it_shows(middle: float, values: Sequence[float], shown_mm: float) -> float:
    """A strip's middle moved as little as lets it show these values, where they fit."""
    if not values or max(values) - min(values) > shown_mm:
        return middle
    return min(max(middle, max(values) - shown_mm / 2), min(values) + shown_mm / 2)


def _height_middle(points: np.ndarray, window: Window, survey: Survey, shown_mm: float) -> float:
    """The middle of the side view: the low line near its bottom edge, unless what is to be seen (n, 3) would be left
    at the top.
    """
    values = _in_window(points, window, 2)
    low = float(survey.low_line.d) if survey.low_line else 150.0
    resting = low - 0.08 * shown_mm + shown_mm / 2
    highest = max(values) + 20.0 if values else low
    return max(resting, highest - shown_mm / 2)


# --- one strip --------------------------------------------------------------------------------------------------


def _strip(
    name: str,
    scale: Scale,
    axes: tuple[int, int],
    design: Design,
    found: Review,
    run_id: str | None,
    piece: int | None,
    ghosts: tuple[Ghost, ...],
    sight: Sight,
    with_marks: bool,
) -> Strip:
    strip = Strip(name, scale.top, scale.height, scale.middle)
    labels = Labels(0, scale.top, scale.window.width_px, scale.top + scale.height)
    labels.put(name, [(6, scale.top + 14)], "strip-name")
    for x, y in touch_marks(strip, scale, axes, found):
        labels.keep_free(x - 9, y - 9, x + 9, y + 9)
    wrong, strip.marks = strip.marks, []
    draw_things(strip, labels, scale, axes, seen(found, sight), found)
    draw_hardware(strip, labels, scale, axes, found)
    draw_places(strip, labels, scale, axes, design.survey, with_marks=with_marks)
    for ghost in ghosts:
        draw_ghost(strip, scale, axes, ghost, design)
    for run in found.system.runs:
        draw_pipe(strip, scale, axes, run.pieces, found, run.run.id, piece if run.run.id == run_id else None)
        draw_ends(strip, scale, axes, run)
        strip.marks += gas_arrow(scale, axes, run)
    draw_bosses(strip, labels, scale, axes, design, found)
    strip.marks += wrong
    strip.labels = list(labels.placed)
    return strip


# --- ruler, ribbon, ties ------------------------------------------------------------------------------------------


def _ticks(window: Window, design: Design) -> list[tuple[float, str]]:
    of, steps, word = (1.0, RULER_STEPS, "") if window.unit == "mm" else (MM_PER_INCH, RULER_INCHES, " in")
    step = next((s for s in steps if s * of * window.width_px / window.span >= 70), steps[-1])
    first, last = math.ceil(window.low / of / step), math.floor(window.high / of / step)
    return [(station_to_px(window, k * step * of), f"{k * step:g}{word}") for k in range(first, last + 1)]


def _ties(system: System, window: Window, run_id: str | None, top: float, chosen: int | None) -> list[Mark]:
    """A hairline from each piece's place to its tile: tiles share the width evenly."""
    run = next((r for r in system.runs if r.run.id == run_id), None)
    if run is None or not run.pieces:
        return []
    marks = []
    each = window.width_px / len(run.pieces)
    for piece in run.pieces:
        x = station_to_px(window, float(piece.middle[0]))
        if not 0 <= x <= window.width_px:
            continue
        slot = len(run.pieces) - 1 - piece.index if window.turned else piece.index
        css = "tie chosen" if piece.index == chosen else "tie"
        marks.append(Mark("line", css, {"x1": x, "y1": top, "x2": (slot + 0.5) * each, "y2": top + TIES_PX}))
    return marks
