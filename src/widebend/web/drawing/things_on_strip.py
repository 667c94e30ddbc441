"""Things, places, bosses and hardware on a strip, each with its name where there is room for it."""

from __future__ import annotations

import numpy as np

from ...core.laying import Obstacle, window_corners
from ...core.records import Design, HalfSpace, Survey
from ...core.review import Review, seats
from ...core.survey import GUESS, handles
from ...core.units import format_length
from ..page.sight import Sight
from .labels import Labels
from .marks import Mark, Scale
from .shapes import Silhouette, body_outline, silhouette_of
from .strip import Strip

BROAD = 0.5  # of the strip each way


def draw_things(
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
        css += " broad" if _is_broad(scale, seen) else ""
        if thing.nature == "heat-shy":
            halo = 2 * obstacle.needed_mm * scale.per_mm
            strip.marks.append(Mark("halo", "halo", {"d": d, "width": halo}))
        strip.marks.append(Mark("area", css, {"d": d, "thing": thing.id}, thing.name))
        if thing.id not in named:
            named.add(thing.id)
            labels.put(thing.name, _name_places(scale, seen), "wrong" if thing.id in wrong else "")


def _is_broad(scale: Scale, seen: Silhouette) -> bool:
    """Whether a thing lies over most of the strip, as a floor seen from below does: hatched, it would hide the rest."""
    wide = abs(scale.x(seen.high[0]) - scale.x(seen.low[0]))
    tall = abs(scale.y(seen.high[1]) - scale.y(seen.low[1]))
    return wide > BROAD * scale.window.width_px and tall > BROAD * scale.height


def seen(found: Review, sight: Sight) -> tuple[Obstacle, ...]:
    """Return the things that are drawn: all, or only what is near a pipe, less the kinds that are hidden."""
    near = {gap.obstacle.thing.id for gap in found.gaps}
    only_near = sight.near and bool(near)
    return tuple(
        o
        for o in found.obstacles
        if o.is_low_line
        or (
            o.thing.nature not in sight.hide
            and not (o.state and "moving" in sight.hide)
            and not (only_near and o.thing.id not in near and not isinstance(o.thing.shape, HalfSpace))
        )
    )


def draw_places(
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


def draw_bosses(
    strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], design: Design, found: Review
) -> None:
    """Sensor bosses as stubs that stand off the pipe as far as they need room."""
    for seat in seats(design, found.system):
        foot = seat.at.point + seat.out * (seat.piece.tube.od_mm / 2)
        head = foot + seat.out * float(seat.boss.stands_mm or design.settings.rules.sensor_room_mm)
        (x1, y1), (x2, y2) = ((scale.x(float(p[axes[0]])), scale.y(float(p[axes[1]]))) for p in (foot, head))
        strip.marks.append(Mark("line", "boss", {"x1": x1, "y1": y1, "x2": x2, "y2": y2}))
        if 0 <= x2 <= scale.window.width_px:
            labels.put(seat.boss.name or "boss", [(x2 + 6, y2 + 4), (x2 + 6, y2 + 16), (x2 - 60, y2 - 4)], "part-name")


def draw_handles(strip: Strip, scale: Scale, axes: tuple[int, int], design: Design, thing_id: str) -> None:
    """Return the handles that stretch the chosen thing in this strip."""
    thing = design.survey.thing(thing_id) if thing_id else None
    for handle in handles(thing.shape) if thing else ():
        if set(handle.axes) & set(axes):
            at = {"x": scale.x(float(handle.point[axes[0]])), "y": scale.y(float(handle.point[axes[1]]))}
            strip.marks.append(Mark("handle", "handle", {**at, "handle": handle.key}))


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


def draw_hardware(strip: Strip, labels: Labels, scale: Scale, axes: tuple[int, int], found: Review) -> None:
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
