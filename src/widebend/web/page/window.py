"""The stretch of the vehicle that the strips show."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from flask import g, request

from ...core.laying import LaidRun, System
from ...core.records import Survey
from ...core.space import Vector
from ...core.survey import bounds
from ...core.units import MM_PER_INCH
from .figures import number

LEAST_WINDOW_MM = 150.0
SAME_MM = 1.0  # bounds this near are the same: they travel in addresses, rounded
LEAST_ALONG_MM = 300.0  # a system shorter than this is not all there is to see yet
# how tall both strips may be together, so that at 1280 x 800 what is edited stands under or beside them
MEASURE_TALL_PX, LAYOUT_TALL_PX, ROUTE_TALL_PX, GHOSTS_TALL_PX = 430.0, 440.0, 360.0, 560.0
LEAST_STRIP_PX, SIDE_ROOM_PX = 110.0, 26.0
BESIDE = "w-beside"
USUAL_WIDTH_PX = {"w": 1240.0, BESIDE: 901.0}


@dataclass(frozen=True)
class Window:
    """The stretch of the vehicle that the strips show, and how wide they are drawn. Lengths mm, width in pixels;
    `whole` says that it is what fits all.
    """

    low: float
    high: float
    width_px: int = 1240
    turned: bool = False
    unit: str = "mm"
    whole: bool = False

    @classmethod
    def fitting(cls, around: Extent, width_px: int = 1240, tall_px: float = ROUTE_TALL_PX) -> Window:
        """All of what there is to see, along and both ways across, in strips that are so tall together."""
        pad = max(120.0, 0.04 * (around.high - around.low))
        low, high = around.low - pad, around.high + pad
        room = tall_px - 4 * SIDE_ROOM_PX
        per_mm = min(width_px / (high - low), room / max(around.across + around.up, 1.0))
        for one in (around.across, around.up):  # a strip that needs little is not made lower than its least
            if one * per_mm + 2 * SIDE_ROOM_PX < LEAST_STRIP_PX:
                other = max(around.across + around.up - one, 1.0)
                per_mm = min(width_px / (high - low), (tall_px - LEAST_STRIP_PX - 2 * SIDE_ROOM_PX) / other)
        middle, half = (low + high) / 2, width_px / per_mm / 2
        return cls(middle - half, middle + half, width_px)

    @property
    def span(self) -> float:
        return self.high - self.low

    @property
    def scale(self) -> float:
        """How many times smaller than life the picture is, at a browser's 96 pixels an inch."""
        return self.span / (self.width_px * MM_PER_INCH / 96.0)

    def zoomed(self, factor: float, about: float | None = None) -> Window:
        middle = (self.low + self.high) / 2 if about is None else min(max(about, self.low), self.high)
        span = min(max(self.span * factor, LEAST_WINDOW_MM), 12_000.0)
        share = (middle - self.low) / self.span
        low = middle - share * span
        return replace(self, low=low, high=low + span)

    def moved(self, share: float) -> Window:
        return replace(self, low=self.low + share * self.span, high=self.high + share * self.span)


@dataclass(frozen=True)
class Extent:
    """The extent of everything there is to see [mm]: from where to where along the vehicle, and how much of it across
    and up.
    """

    low: float
    high: float
    across: float
    up: float


def extent_of(system: System, survey: Survey, ways: Sequence[Vector] = ()) -> Extent:
    """The extent of a system, of ways over it (points (3,)) and of the low line; of the things while there is none."""
    around = np.concatenate([pipe_corners(system.runs), hardware_corners(system), np.reshape(list(ways), (-1, 3))])
    if len(around) < 2 or float(np.ptp(around[:, 0])) < LEAST_ALONG_MM:
        return extent_of_things(survey, around)
    up = around[:, 2].max() - _lowest(survey, float(around[:, 2].min()))
    return Extent(float(around[:, 0].min()), float(around[:, 0].max()), float(np.ptp(around[:, 1])), float(up))


def pipe_corners(runs: Sequence[LaidRun]) -> Vector:
    """Boxes' corners round the ends of every piece, the start and the aim: (n, 3)."""
    out = []
    for run in runs:
        radius = float(run.run.tube.od_mm) / 2
        ends = [run.start, *(p.outlet for p in run.pieces), *([run.aim] if run.aim else [])]
        points = np.array([end.point for end in ends])
        thick = np.array([0.0, radius, radius])
        out += [points - thick, points + thick]
    return np.concatenate(out) if out else np.zeros((0, 3))


def hardware_corners(system: System) -> Vector:
    """The corners of the boxes round all hardware, (n, 3)."""
    return np.concatenate([np.zeros((0, 3)), *(body.corners for body in system.bodies)])


def thing_corners(survey: Survey) -> Vector:
    """The lowest and highest corners of the boxes round all bounded things, (n, 3)."""
    boxes = [around for thing in survey.things if (around := bounds(thing.shape))]
    return np.array([corner for box in boxes for corner in box], dtype=float).reshape(-1, 3)


def extent_of_things(survey: Survey, also: Vector | None = None) -> Extent:
    """The extent of the things of a survey, as far to both sides as to the farther one; and of other points (n, 3)."""
    corners = thing_corners(survey) if also is None else np.concatenate([thing_corners(survey), also])
    if not len(corners):
        return Extent(800.0, 4400.0, 1200.0, 400.0)
    low, high = corners.min(axis=0), corners.max(axis=0)
    aside = 2 * max(abs(float(low[1])), abs(float(high[1])))
    return Extent(float(low[0]), float(high[0]), aside, float(high[2]) - _lowest(survey, float(low[2])))


def _lowest(survey: Survey, otherwise: float) -> float:
    return min(float(survey.low_line.d), otherwise) if survey.low_line else otherwise


def strip_heights(around: Extent, per_mm: float, tall_px: float, usual_px: float) -> tuple[float, float]:
    """How tall [px] the strips from below and from the left are: as tall as what they show wants, together no more than
    `tall_px` and no less than `usual_px`.
    """
    wanted = [max(mm * per_mm + 2 * SIDE_ROOM_PX, LEAST_STRIP_PX) for mm in (around.across, around.up)]
    over = sum(wanted) - 2 * LEAST_STRIP_PX
    if sum(wanted) > tall_px:
        share = (tall_px - 2 * LEAST_STRIP_PX) / over
        below, left = (LEAST_STRIP_PX + (px - LEAST_STRIP_PX) * share for px in wanted)
    else:
        more = max(0.0, usual_px - sum(wanted)) / 2
        below, left = (px + more for px in wanted)
    return round(below), round(left)


def window_from_request(around: Extent, tall_px: float, width_cookie: str = BESIDE) -> Window:
    """The window a request asks for: its bounds, then a zoom or a move, or fit. Nonsense falls back to fit.

    `width_cookie` names how wide this room's strips are on the device: "w", or "w-beside" with something beside them.
    """
    width = int(min(max(number(request.cookies.get(width_cookie), USUAL_WIDTH_PX[width_cookie]), 320.0), 3000.0))
    fit = replace(Window.fitting(around, width, tall_px), turned=bool(g.view_flipped), unit=g.unit)
    asked = _asked(fit)
    return replace(asked, whole=abs(asked.low - fit.low) < SAME_MM and abs(asked.high - fit.high) < SAME_MM)


def _asked(fit: Window) -> Window:
    """Return the window by the request's bounds, zoom or move, from the one that fits all."""
    low, high = number(request.values.get("from_mm"), math.nan), number(request.values.get("to_mm"), math.nan)
    window = fit
    if math.isfinite(low) and math.isfinite(high) and LEAST_WINDOW_MM <= high - low <= 12_000:
        window = replace(window, low=low, high=high)
    sight = request.values.get("sight", "")
    cursor = number(request.values.get("cursor"), (window.low + window.high) / 2)
    moves = {
        "closer": lambda: window.zoomed(0.6, cursor),
        "wider": lambda: window.zoomed(1 / 0.6, cursor),
        "forward": lambda: window.moved(-0.3),
        "rearward": lambda: window.moved(0.3),
        "fit": lambda: fit,
    }
    if sight.startswith("at:"):
        here = number(sight[3:], cursor)
        span = min(window.span, 900.0)
        return replace(window, low=here - span / 2, high=here + span / 2)
    return moves[sight]() if sight in moves else window
