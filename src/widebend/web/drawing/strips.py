"""The strips: from below, from the left, the ruler, the margin ribbon and the ties to the line-up, as one picture.

Everything is in pixels of a picture `width` wide; one ruler runs through all strips. Marks are (kind, data) for the
template to draw; classes carry the meaning (hard, heat-shy, moving, touches, tight), the style sheet the look.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from ...core.editing import Corner, corners
from ...core.laying import LaidPiece, LaidRun, Obstacle, System, centre_line, window_corners
from ...core.records import Design, HalfSpace, InLine, Leg, Survey
from ...core.review import Review, seats
from ...core.survey import GUESS, bounds, handles
from ...core.units import MM_PER_INCH, format_length
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
)
from .labels import Labels
from .marks import Mark, Scale, station_to_px
from .ribbon import RIBBON_PX, ribbon
from .shapes import Silhouette, body_outline, silhouette_of

RULER_PX, TIES_PX = 22, 14
LEAST_ARROW_PX = 46.0
RULER_STEPS = (5, 10, 20, 50, 100, 200, 500, 1000)
RULER_INCHES = (0.25, 0.5, 1, 2, 4, 6, 12, 24, 48)


@dataclass
class Strip:
    """One strip: its top and height in the picture, what stands at its middle [mm], its marks and labels."""

    name: str
    top: float
    height: float
    middle: float = 0.0
    marks: list[Mark] = field(default_factory=list)
    labels: list[object] = field(default_factory=list)


@dataclass(frozen=True)
class Ghost:
    """An answer drawn over the run before it is taken."""

    number: int
    laid: tuple[LaidPiece, ...]
    chosen: bool
    misses: bool = False


@dataclass(frozen=True)
class Shadow:
    """Pipe or hardware drawn where it is not: on its way out, or in another position; a line (n, 3) and a width."""

    line: np.ndarray
    width_mm: float
    css: str = "shadow"


@dataclass
class Picture:
    """All strips, ready for the template."""

    width: int
    height: float
    strips: list[Strip]
    ticks: list[tuple[float, str]]
    ruler_top: float
    ribbon_top: float
    ribbon: list[Mark]
    ties: list[Mark]
    window: Window
    text_rows: list[tuple[str, ...]] = field(default_factory=list)


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
) -> Picture:
    """The picture of a design in a window; `piece` of run `run_id` is the chosen one, and `thing` the chosen thing."""
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
    side = Scale(
        window, below_px, left_px, _height_middle(found.system, window, ways, survey, left_px / per_mm), up=True
    )
    strips = []
    for name, scale, axes in (("from below", below, (0, 1)), ("from the left", side, (0, 2))):
        shown = {"from the left": "from the right"}.get(name, name) if window.turned else name
        strip = _strip(shown, scale, axes, design, found, run_id, piece, ghosts, sight, things_only)
        _handles(strip, scale, axes, design, thing)
        strip.marks += [_shadow(scale, axes, shadow) for shadow in shadows]
        if with_corners:
            strip.marks += [_corner(scale, axes, run, at) for run in found.system.runs if run.run.id == run_id
                            for at in corners(run)]  # fmt: skip
        strips.append(strip)
    ruler_top = below_px + left_px
    ribbon_top = ruler_top + RULER_PX
    margin = [] if things_only else ribbon(found, window, ribbon_top)
    ties = [] if things_only else _ties(found.system, window, run_id, ribbon_top + RIBBON_PX, piece)
    height = ribbon_top + (4 if things_only else RIBBON_PX + TIES_PX)
    return Picture(window.width_px, height, strips, _ticks(window, design), ruler_top, ribbon_top, margin, ties, window)


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


def _height_middle(
    system: System, window: Window, ways: Sequence[np.ndarray], survey: Survey, shown_mm: float
) -> float:
    """The middle of the side view: the low line near its bottom edge, unless the system would leave it at the top."""
    points = [pipe_corners(system.runs), hardware_corners(system), np.reshape(list(ways), (-1, 3))]
    values = _in_window(np.concatenate(points), window, 2)
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
    for x, y in _touch_marks(strip, scale, axes, found):
        labels.keep_free(x - 9, y - 9, x + 9, y + 9)
    touch_marks, strip.marks = strip.marks, []
    _things(strip, labels, scale, axes, seen(found, sight), found)
    _parts(strip, labels, scale, axes, found)
    _places(strip, labels, scale, axes, design.survey, with_marks=with_marks)
    for ghost in ghosts:
        _ghost(strip, scale, axes, ghost, design)
    for run in found.system.runs:
        _pipe(strip, scale, axes, run.pieces, found, run.run.id, piece if run.run.id == run_id else None)
        _ends(strip, scale, axes, run)
        strip.marks += _gas_arrow(scale, axes, run)
    _bosses(strip, labels, scale, axes, design, found)
    strip.marks += touch_marks
    strip.labels = list(labels.placed)
    return strip


def _things(
    strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], around: tuple[Obstacle, ...], found: Review
) -> None:
    wrong = {f.thing for f in found.findings if f.code in ("touches", "inside")}
    named: set[str] = set()
    for obstacle in sorted(around, key=lambda o: o.thing.id not in wrong):
        thing = obstacle.thing
        if isinstance(thing.shape, HalfSpace):
            _edge(strip, labels, scale, axes, obstacle)
            continue
        seen = silhouette_of(obstacle, axes)
        if not seen.outlines or not _in_view(scale, seen):
            continue
        d = scale.path(seen.outlines)
        css = "thing " + ("heat" if thing.nature == "heat-shy" else "soft" if thing.nature == "soft" else "hard")
        if obstacle.state:
            css += " moving" if obstacle.state == "ride" or thing.id not in named else " moving faint"
        css += " pending" if thing.state != "as found" else ""
        css += " guess" if thing.how_measured == GUESS else ""
        if thing.nature == "heat-shy":
            halo = 2 * obstacle.needed_mm * scale.per_mm
            strip.marks.append(Mark("halo", "halo", {"d": d, "width": halo}))
        strip.marks.append(Mark("area", css, {"d": d, "thing": thing.id}, thing.name))
        if thing.id not in named:
            named.add(thing.id)
            labels.put(thing.name, _name_places(scale, seen), "wrong" if thing.id in wrong else "")


def seen(found: Review, sight: Sight) -> tuple[Obstacle, ...]:
    """What of the things is drawn: all, or only what is near a pipe, less the kinds that are hidden."""
    near = {gap.obstacle.thing.id for gap in found.gaps}
    only_near = sight.near and bool(near)
    return tuple(
        o for o in found.obstacles
        if o.is_low_line
        or (o.thing.nature not in sight.hide and not (o.state and "moving" in sight.hide)
            and not (only_near and o.thing.id not in near and not isinstance(o.thing.shape, HalfSpace)))
    )  # fmt: skip


def _places(
    strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], survey: Survey, *, with_marks: bool
) -> None:
    """Windows as outlines, hang points as signs, each with its name; while measuring, marks and old parts too."""
    for window in survey.windows:
        seen = Silhouette.of([window_corners(window)[:, axes]])
        if _in_view(scale, seen):
            strip.marks.append(Mark("area", "window", {"d": scale.path(seen.outlines)}, window.name))
            labels.put(window.name, _name_places(scale, seen), "place-name")
    signs = [("hang", h.name, h.point) for h in survey.hang_points]
    if with_marks:
        signs += [("mark", m.name, m.point) for m in survey.marks]
        signs += [("old", o.name, o.point) for o in survey.old_parts if o.point]
    for kind, name, point in signs:
        x, y = scale.x(float(point[axes[0]])), scale.y(float(point[axes[1]]))
        if 0 <= x <= scale.window.width_px and scale.top <= y <= scale.top + scale.height:
            strip.marks.append(Mark("sign", f"sign {kind}", {"x": x, "y": y}, name))
            labels.keep_free(x - 6, y - 6, x + 6, y + 6)
            around = [(x + 9, y + 4), (x + 9, y - 9), (x + 9, y + 17), (x - 6.6 * len(name) - 9, y + 4)]
            labels.put(name, around + [(x + 9, y + 17 + 14 * k) for k in range(1, 4)], "place-name")


def _bosses(
    strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], design: Design, found: Review
) -> None:  # fmt: skip
    """Sensor bosses as stubs that stand off the pipe as far as they need room."""
    for seat in seats(design, found.system):
        foot = seat.at.point + seat.out * (seat.piece.tube.od_mm / 2)
        head = foot + seat.out * float(seat.boss.stands_mm or design.settings.rules.sensor_room_mm)
        (x1, y1), (x2, y2) = ((scale.x(float(p[axes[0]])), scale.y(float(p[axes[1]]))) for p in (foot, head))
        strip.marks.append(Mark("line", "boss", {"x1": x1, "y1": y1, "x2": x2, "y2": y2}))
        if 0 <= x2 <= scale.window.width_px:
            labels.put(seat.boss.name or "boss", [(x2 + 6, y2 + 4), (x2 + 6, y2 + 16), (x2 - 60, y2 - 4)], "part-name")


def _handles(strip: Strip, scale: Scale, axes: tuple[int, int], design: Design, thing_id: str) -> None:
    """What the chosen thing can be stretched by in this strip."""
    thing = design.survey.thing(thing_id) if thing_id else None
    for handle in handles(thing.shape) if thing else ():
        if set(handle.axes) & set(axes):
            at = {"x": scale.x(float(handle.point[axes[0]])), "y": scale.y(float(handle.point[axes[1]]))}
            strip.marks.append(Mark("handle", "handle", {**at, "handle": handle.key}))


def _corner(scale: Scale, axes: tuple[int, int], run: LaidRun, corner: Corner) -> Mark:
    at = {"x": scale.x(float(corner.point[axes[0]])), "y": scale.y(float(corner.point[axes[1]]))}
    return Mark("corner", "corner", {**at, "handle": run.pieces[corner.piece].piece.id})


def place_mm(
    window: Window, view: str, place_px: tuple[float, float], top: float, height: float, middle: float
) -> np.ndarray:
    """Where a pixel of a strip is in the vehicle, (2,) [mm] on the strip's axes; the strip as it was drawn."""
    return Scale(window, top, height, middle, up=view == "left").at(*place_px)


def drag_mm(window: Window, view: str, dx_px: float, dy_px: float) -> np.ndarray:
    """What a drag on a strip ("below" or "left") means in the vehicle's frame, (3,) [mm]."""
    scale = Scale(window, 0.0, 0.0, 0.0, up=view == "left")
    along = (scale.x(1.0) - scale.x(0.0)) or 1.0
    up = (scale.y(1.0) - scale.y(0.0)) or 1.0
    back, other = dx_px / along, dy_px / up
    return np.array([back, other, 0.0] if view == "below" else [back, 0.0, other])


def _in_view(scale: Scale, seen: Silhouette) -> bool:
    ys = scale.y(seen.low[1]), scale.y(seen.high[1])
    along = seen.high[0] > scale.window.low and seen.low[0] < scale.window.high
    return bool(along and max(ys) > scale.top + 2 and min(ys) < scale.top + scale.height - 2)


def _name_places(scale: Scale, seen: Silhouette) -> list[tuple[float, float]]:
    xs = sorted((scale.x(seen.low[0]), scale.x(seen.high[0])))
    ys = sorted((scale.y(seen.low[1]), scale.y(seen.high[1])))
    left, right = max(xs[0], 0.0), min(xs[1], scale.window.width_px)
    places = [(left + 4, ys[0] + 14), (left + 4, ys[1] - 5), (left + 4, (ys[0] + ys[1]) / 2 + 4)]
    places += [(right + 4, ys[0] + 14), (right + 4, ys[1] - 5), (left, ys[0] - 4), (left, ys[1] + 14)]
    return (
        places
        + [(left + 4, ys[0] + 14 + 15 * k) for k in range(1, 9)]
        + [(right + 4, ys[0] + 15 * k) for k in range(9)]
    )


def _edge(strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], obstacle: Obstacle) -> None:
    """A half-space seen edge on: its solid side as a band. Seen face on it would cover everything: not drawn."""
    n, d = obstacle.solids[0, 1:4], float(obstacle.solids[0, 4])
    across = float(n[axes[1]])
    if abs(across) < 0.7:
        return
    x0, x1 = scale.window.low, scale.window.high
    rest = next(i for i in range(3) if i not in axes)
    y0, y1 = ((d - n[0] * x - n[rest] * 0.0) / across for x in (x0, x1))
    far = 3000.0 * (-1.0 if across > 0 else 1.0)
    outline = np.array([(x0, y0), (x1, y1), (x1, y1 + far), (x0, y0 + far)])
    css = "low-line" if obstacle.is_low_line else "thing hard"
    strip.marks.append(Mark("poly", css, {"points": scale.points(outline)}, obstacle.thing.name))
    y = scale.y(y0)
    below = scale.y(y0 + far) > y
    if not (y < scale.top + scale.height - 2 if below else y > scale.top + 2):
        return  # its solid side lies outside the picture: a name there would say it is in it
    name = obstacle.thing.name
    text = (
        f"{name} {format_length(d / across, scale.window.unit, 0 if scale.window.unit == 'mm' else 1)}"
        if obstacle.is_low_line
        else name
    )
    spots = [(scale.window.width_px - 10 - 6.6 * len(text) - 110 * k, y + (14 if below else -5)) for k in range(6)]
    labels.put(text, spots, "")


def _parts(strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], found: Review) -> None:
    wrong = {f.part: "touches" if f.spoils else "tight" for f in reversed(found.findings) if f.part}
    named: set[str] = set()
    for body in sorted(found.system.bodies, key=lambda b: -b.half_u - b.half_v - b.radius_mm):
        seen = body_outline(body, axes)
        if not seen.outlines or not _in_view(scale, seen):
            continue
        outline = seen.outlines[0]
        css = f"part {wrong.get(body.part.id, '')}".strip()
        name = body.part.name or body.part.item.kind
        strip.marks.append(Mark("poly", css, {"points": scale.points(outline), "part": body.part.id}, name))
        if body.part.id not in named and body.part.item.kind not in ("flange",):
            named.add(body.part.id)
            x = (scale.x(seen.low[0]) + scale.x(seen.high[0])) / 2 - 3.3 * len(name)
            y = (scale.y(seen.low[1]) + scale.y(seen.high[1])) / 2 + 4
            labels.put(name, [(x, y), (x, y + 15), (x, y - 15), (x, y + 30)], "part-name")


def _pipe(
    strip: Strip,
    scale: Scale,
    axes: tuple[int, int],
    pieces: tuple[LaidPiece, ...],
    found: Review,
    run_id: str,
    chosen: int | None,
) -> None:
    """A pipe's silhouette is its projected centre line drawn as wide as the tube."""
    pipe = [p for p in pieces if not isinstance(p.piece, InLine)]
    paths = [(p, scale.line(centre_line(p)[:, axes]), p.tube.od_mm * scale.per_mm) for p in pipe]
    for p, d, width in paths:
        edge = _edge_class(found, run_id, p.index, p.index == chosen)
        strip.marks.append(Mark("path", f"pipe-edge {edge}".strip(), {"d": d, "width": width + (4 if edge else 2.4)}))
    for _p, d, width in paths:
        strip.marks.append(Mark("path", "pipe", {"d": d, "width": max(width - 0.4, 1.0)}))
    for p, d, width in paths:
        strip.marks.append(Mark("path", "centre-line", {"d": d, "width": 1}, f"piece {p.index + 1}"))
        strip.marks.append(Mark("hit", "hit", {"d": d, "width": max(width, 14), "piece": p.piece.id}))
    for p in pieces[:-1]:
        strip.marks.append(_joint(scale, axes, p))


def _edge_class(found: Review, run_id: str, index: int, chosen: bool) -> str:
    codes = {f.code for f in found.of_piece(run_id, index)}
    state = "touches" if "touches" in codes else "tight" if codes & {"tight", "own"} else ""
    return " ".join(w for w in (state, "chosen" if chosen else "") if w)


def _joint(scale: Scale, axes: tuple[int, int], piece: LaidPiece) -> Mark:
    """A thin line across the pipe where one piece ends."""
    at, r = piece.outlet, float(piece.tube.od_mm) / 2
    flow = np.array([at.flow[axes[0]], at.flow[axes[1]]])
    length = float(np.linalg.norm(flow))
    square = np.array([-flow[1], flow[0]]) / length if length > 1e-6 else np.array([0.0, 1.0])
    a, b = (np.array([at.point[axes[0]], at.point[axes[1]]]) + s * r * square for s in (-1, 1))
    return Mark("line", "joint", {"x1": scale.x(a[0]), "y1": scale.y(a[1]), "x2": scale.x(b[0]), "y2": scale.y(b[1])})


def _ends(strip: Strip, scale: Scale, axes: tuple[int, int], run: LaidRun) -> None:
    """The run's start and aim as arrows along the flow; an end that misses is tied to its aim."""
    start, aim, end = run.start, run.aim, run.end
    arrows = [("start", start, 70.0)] if not run.pieces else []
    if aim is not None and run.miss_mm > 0.01:
        arrows.append(("aim", aim, -70.0))
        x1, y1 = scale.x(end.point[axes[0]]), scale.y(end.point[axes[1]])
        x2, y2 = scale.x(aim.point[axes[0]]), scale.y(aim.point[axes[1]])
        strip.marks.append(Mark("line", "miss", {"x1": x1, "y1": y1, "x2": x2, "y2": y2}))
    for css, at, reach in arrows:
        tail = at.point if reach > 0 else at.point + reach * at.flow
        head = at.point + reach * at.flow if reach > 0 else at.point
        strip.marks.append(Mark("line", f"arrow {css}", {
            "x1": scale.x(tail[axes[0]]), "y1": scale.y(tail[axes[1]]),
            "x2": scale.x(head[axes[0]]), "y2": scale.y(head[axes[1]]), "arrow": True,
        }))  # fmt: skip


def _gas_arrow(scale: Scale, axes: tuple[int, int], run: LaidRun) -> list[Mark]:
    """Which way the gas goes, on the longest straight of a run as it is seen here."""
    legs = [(p.inlet.point[list(axes)], p.outlet.point[list(axes)]) for p in run.pieces if isinstance(p.piece, Leg)]
    if not legs:
        return []
    a, b = max(legs, key=lambda ends: float(np.linalg.norm(ends[1] - ends[0])))
    long_px = float(np.linalg.norm(b - a)) * scale.per_mm
    if long_px < LEAST_ARROW_PX:
        return []
    head, tail = (a + b) / 2 + (b - a) * 9.0 / long_px, (a + b) / 2 - (b - a) * 9.0 / long_px
    return [Mark("line", "gas-arrow", {"x1": scale.x(tail[0]), "y1": scale.y(tail[1]), "x2": scale.x(head[0]),
                                       "y2": scale.y(head[1]), "arrow": True})]  # fmt: skip


def _ghost(strip: Strip, scale: Scale, axes: tuple[int, int], ghost: Ghost, design: Design) -> None:
    css = "ghost chosen" if ghost.chosen else "ghost"
    css += " misses" if ghost.misses else ""
    for piece in ghost.laid:
        width = piece.tube.od_mm * scale.per_mm if ghost.chosen else 2
        strip.marks.append(Mark("path", css, {"d": scale.line(centre_line(piece)[:, axes]), "width": width}))


def _shadow(scale: Scale, axes: tuple[int, int], shadow: Shadow) -> Mark:
    width = max(2.0, shadow.width_mm * scale.per_mm)
    return Mark("path", shadow.css, {"d": scale.line(shadow.line[:, axes]), "width": width})


def _touch_marks(strip: Strip, scale: Scale, axes: tuple[int, int], found: Review) -> list[tuple[float, float]]:
    """A lozenge where something is wrong: filled when it touches, half filled when it is tight; their places."""
    places = []
    for finding in found.findings:
        if finding.at is None or finding.code not in ("touches", "tight", "own", "inside"):
            continue
        x, y = scale.x(finding.at[axes[0]]), scale.y(finding.at[axes[1]])
        css = "lozenge touches" if finding.spoils else "lozenge tight"
        strip.marks.append(Mark("lozenge", css, {"x": x, "y": y}, finding.thing_name))
        places.append((x, y))
    return places


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
