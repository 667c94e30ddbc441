"""One hanger at true shape from two sides: pipe, rod, rubber, pin and bracket, to scale."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.hanging import Carried, Rod
from .marks import Mark, pairs

WIDE_PX, TALL_PX, ROOM_MM = 330.0, 230.0, 25.0
VIEWS = (("from behind", 1), ("from the left", 0))


@dataclass(frozen=True)
class HangerView:
    """A view with its name, its marks, and how many pixels a millimetre is."""

    name: str
    marks: list[Mark]


def draw_hanger(one: Carried, rod: Rod | None, hole: np.ndarray | None) -> list[HangerView]:
    """Both views; what it holds is a circle from behind and a band from the left."""
    place, pipe_od_mm = (rod.middle, rod.round_mm) if rod else (one.place, 0.0)
    points = [
        place + np.array([0.0, 0.0, -pipe_od_mm / 2]),
        place + np.array([0.0, pipe_od_mm / 2, 0.0]),
        place - np.array([0.0, pipe_od_mm / 2, 0.0]),
        one.eye,
        one.pin,
    ]
    cloud = np.vstack([*points, *([rod.line] if rod else []), *([hole[None]] if hole is not None else [])])
    return [_view(name, axis, cloud, one, rod, place, pipe_od_mm, hole) for name, axis in VIEWS]


def _view(
    name: str,
    axis: int,
    cloud: np.ndarray,
    one: Carried,
    rod: Rod | None,
    held: np.ndarray,
    od: float,
    hole: np.ndarray | None,
) -> HangerView:
    flat = cloud[:, [axis, 2]]
    low, high = flat.min(axis=0) - ROOM_MM, flat.max(axis=0) + ROOM_MM
    per = min(WIDE_PX / (high[0] - low[0]), TALL_PX / (high[1] - low[1]))
    middle = (low + high) / 2

    def at(points: np.ndarray) -> np.ndarray:
        off = (np.atleast_2d(points)[:, [axis, 2]] - middle) * per
        return np.asarray(np.column_stack([WIDE_PX / 2 + off[:, 0], TALL_PX / 2 - off[:, 1]]))

    place, eye, pin = at(held)[0], at(one.eye)[0], at(one.pin)[0]
    if axis == 1:
        marks = [Mark("circle", "hanger-pipe", {"x": place[0], "y": place[1], "r": od / 2 * per})]
    else:
        skin = [place[1] + side * od / 2 * per for side in (-1, 1)]
        marks = [Mark("line", "hanger-pipe-side", {"x1": 0.0, "y1": y, "x2": WIDE_PX, "y2": y}) for y in skin]
    if hole is not None:
        marks.append(_line("hanger-bracket", at(hole)[0], pin))
    if rod is not None:
        path = "M" + "L".join(pairs(at(rod.line)))
        marks.append(Mark("path", "hanger-bent", {"d": path, "width": max(2.0, rod.od_mm * per)}))
    marks.append(_line("hanger-rubber", eye, pin))
    marks.append(Mark("circle", "hanger-pin", {"x": pin[0], "y": pin[1], "r": 5.0}))
    return HangerView(name, marks)


def _line(css: str, a: np.ndarray, b: np.ndarray) -> Mark:
    return Mark("line", css, {"x1": a[0], "y1": a[1], "x2": b[0], "y2": b[1]})
