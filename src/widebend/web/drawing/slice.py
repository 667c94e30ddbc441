"""The slice: the plane X = station seen from behind, vehicle right at the right."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

import numpy as np

from ...core.laying import Obstacle, centre_line
from ...core.records import HalfSpace, InLine
from ...core.review import Review, nearest_margins, packed
from ...core.wording import in_state
from ..page.sight import EVERYTHING, Sight
from .labels import Labels
from .marks import Mark, outline_path
from .shapes import sections
from .things_on_strip import seen

WIDTH, HEIGHT = 300, 210
REACH_MM = 380.0


@dataclass
class SlicePicture:
    """Return the sections cut at one station."""

    station: float
    marks: list[Mark] = field(default_factory=list)
    labels: list[object] = field(default_factory=list)
    cut: str = ""  # what is cut, where that is not a pipe beside a thing
    nearest_mm: float | None = None
    nearest_name: str = ""


@dataclass(frozen=True)
class _Frame:
    y: float
    z: float

    def px(self, y: float) -> float:
        return WIDTH / 2 + (y - self.y) * WIDTH / (2 * REACH_MM)

    def py(self, z: float) -> float:
        return HEIGHT / 2 - (z - self.z) * WIDTH / (2 * REACH_MM)

    def path(self, outlines: list[np.ndarray]) -> str:
        origin = np.array([self.px(0.0), self.py(0.0)])
        per_mm = np.array([self.px(1.0), self.py(1.0)]) - origin
        return outline_path([origin + outline * per_mm for outline in outlines])


def draw_slice(
    found: Review, station: float, about: np.ndarray | None = None, sight: Sight = EVERYTHING
) -> SlicePicture:
    """The picture at one station, centred on the pipe, or on `about` (3,) where that is given."""
    picture = SlicePicture(station)
    crossings = _crossings(found, station)
    centre = crossings[0][0] if crossings else _part_middle(found, station)
    centre = centre if about is None else about
    frame = _Frame(float(centre[1]), float(centre[2]))
    labels = Labels(0, 0, WIDTH, HEIGHT)
    for points, od in crossings:
        x, y, r = frame.px(float(points[1])), frame.py(float(points[2])), od / 2 * WIDTH / (2 * REACH_MM)
        labels.keep_free(x - r, y - r, x + r, y + r)
    _things(picture, labels, frame, seen(found, sight), station)
    _parts(picture, frame, found, station)
    for point, od in crossings:
        r = od / 2 * WIDTH / (2 * REACH_MM)
        picture.marks.append(Mark("circle", "pipe-cut", {"x": frame.px(point[1]), "y": frame.py(point[2]), "r": r}))
    _nearest(picture, found, crossings)
    parts = dict.fromkeys(mark.title for mark in picture.marks if mark.css == "part")
    through = f"through the {' and the '.join(parts)}" if parts else ""
    picture.cut = "nothing to keep clear of here" if crossings else through
    picture.labels = list(labels.placed)
    return picture


def slice_drag_mm(dx_px: float, dy_px: float) -> np.ndarray:
    """Return a drag on the slice in the vehicle's frame, (3,) [mm]."""
    per_px = 2 * REACH_MM / WIDTH
    return np.array([0.0, dx_px * per_px, -dy_px * per_px])


def _crossings(found: Review, station: float) -> list[tuple[np.ndarray, float]]:
    """Where pipes pass the plane: (point, OD)."""
    out = []
    for run in found.system.runs:
        for piece in run.pieces:
            if isinstance(piece.piece, InLine):
                continue
            points = centre_line(piece)
            for a, b in itertools.pairwise(points):
                if (a[0] - station) * (b[0] - station) <= 0 and abs(b[0] - a[0]) > 1e-9:
                    out.append((a + (b - a) * (station - a[0]) / (b[0] - a[0]), float(piece.tube.od_mm)))
    kept: list[tuple[np.ndarray, float]] = []
    for point, od in out:
        if not any(np.linalg.norm(point - other) < 1.0 for other, _ in kept):
            kept.append((point, od))
    return kept


def _part_middle(found: Review, station: float) -> np.ndarray:
    for body in found.system.bodies:
        if min(body.start[0], body.end[0]) <= station <= max(body.start[0], body.end[0]):
            return body.start
    for run in found.system.runs:
        return np.asarray(run.start.point)
    return np.array([station, 0.0, 330.0])


def _things(picture: SlicePicture, labels: Labels, frame: _Frame, around: tuple[Obstacle, ...], station: float) -> None:
    named: set[str] = set()
    for obstacle in around:
        outlines = sections(obstacle, station, REACH_MM * 2, (frame.y, frame.z))
        if not outlines:
            continue
        outline = outlines[0]
        thing = obstacle.thing
        css = "thing " + ("heat" if thing.nature == "heat-shy" else "soft" if thing.nature == "soft" else "hard")
        css = "low-line" if obstacle.is_low_line else css + (" moving" if obstacle.state else "")
        css += " skin" if obstacle.mesh is not None else ""
        picture.marks.append(Mark("area", css, {"d": frame.path(outlines), "thing": thing.id}, thing.name))
        ys = [frame.py(p[1]) for p in outline]
        if thing.id not in named and max(ys) > 0 and min(ys) < HEIGHT:
            named.add(thing.id)
            xs, ys = [frame.px(p[0]) for p in outline], [frame.py(p[1]) for p in outline]
            left, top = max(min(xs), 0.0), max(min(ys), 0.0)
            if isinstance(thing.shape, HalfSpace):
                left = 0.0
            places = [(left + 4, top + 14), (left + 4, min(max(ys), HEIGHT) - 5), (max(xs) + 4, top + 14)]
            places += [(left + 4, top + 14 + 15 * k) for k in range(1, 8)]
            labels.put(thing.name, places)


def _parts(picture: SlicePicture, frame: _Frame, found: Review, station: float) -> None:
    for body in found.system.bodies:
        if abs(body.flow[0]) < 0.2:
            continue
        along = (station - body.start[0]) / body.flow[0]
        if 0 <= along <= body.length_mm:
            centre, r = body.start + along * body.flow, body.radius_mm
            scale = WIDTH / (2 * REACH_MM)
            w, h = 2 * (body.half_u + r) * scale, 2 * (body.half_v + r) * scale
            x, y = frame.px(centre[1]) - w / 2, frame.py(centre[2]) - h / 2
            data: dict[str, object] = {"x": x, "y": y, "w": w, "h": h, "r": r * scale}
            picture.marks.append(Mark("rect", "part", data, body.part.name))


def _nearest(picture: SlicePicture, found: Review, crossings: list[tuple[np.ndarray, float]]) -> None:
    around = packed(found.obstacles)
    if not around.obstacles or not crossings:
        return
    points, radii = np.array([c[0] for c in crossings]), np.array([c[1] / 2 for c in crossings])
    gaps, which = nearest_margins(points, radii, around, np.zeros(len(around.obstacles)))
    k = int(np.argmin(gaps))
    nearest = around.obstacles[int(which[k])]
    picture.nearest_mm = float(gaps[k])
    picture.nearest_name = nearest.thing.name + in_state(nearest.state)
