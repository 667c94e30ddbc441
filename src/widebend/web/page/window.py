"""What part of the vehicle the strips show."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

from flask import g, request

from ...core.laying import System
from ...core.records import Survey
from ...core.review import Review
from ...core.survey import bounds
from .figures import number

LEAST_WINDOW_MM = 150.0


@dataclass(frozen=True)
class Window:
    """What part of the vehicle the strips show, and how wide they are drawn. Lengths mm, width in pixels."""

    low: float
    high: float
    width_px: int = 1240
    turned: bool = False
    unit: str = "mm"

    @classmethod
    def default(cls, system: System, survey: Survey | None = None) -> Window:
        """Everything of the system, or of the survey while there is none."""
        xs = [float(p.point[0]) for run in system.runs for piece in run.pieces for p in (piece.inlet, piece.outlet)]
        xs += [float(run.start.point[0]) for run in system.runs]
        xs += [float(run.aim.point[0]) for run in system.runs if run.aim]
        for body in system.bodies:
            xs += [float(body.start[0]), float(body.end[0])]
        if len(xs) < 2 or max(xs) - min(xs) < 300:
            xs += [x for thing in (survey.things if survey else ()) for x in _extent(thing.shape)] or [800.0, 4400.0]
        pad = max(120.0, 0.04 * (max(xs) - min(xs)))
        return cls(min(xs) - pad, max(xs) + pad)

    @property
    def span(self) -> float:
        return self.high - self.low

    def zoomed(self, factor: float, about: float | None = None) -> Window:
        middle = (self.low + self.high) / 2 if about is None else min(max(about, self.low), self.high)
        span = min(max(self.span * factor, LEAST_WINDOW_MM), 12_000.0)
        share = (middle - self.low) / self.span
        low = middle - share * span
        return replace(self, low=low, high=low + span)

    def moved(self, share: float) -> Window:
        return replace(self, low=self.low + share * self.span, high=self.high + share * self.span)


def _extent(shape: Any) -> list[float]:
    """How far along the vehicle a bounded shape reaches."""
    around = bounds(shape)
    return [float(around[0][0]), float(around[1][0])] if around else []


def window_from_request(found: Review, survey: Survey, width_cookie: str = "w") -> Window:
    """The window a request asks for: its bounds, then a zoom or a move, or fit. Nonsense falls back to fit.

    `width_cookie` names how wide this room's strips are on the device: "w", or "w-beside" with the slice beside them.
    """
    fit = Window.default(found.system, survey)
    width = int(
        min(max(number(request.cookies.get(width_cookie), 1240.0 if width_cookie == "w" else 925.0), 320.0), 3000.0)
    )
    low, high = number(request.values.get("from_mm"), math.nan), number(request.values.get("to_mm"), math.nan)
    window = replace(fit, width_px=width, turned=bool(g.lie), unit=g.unit)
    if math.isfinite(low) and math.isfinite(high) and LEAST_WINDOW_MM <= high - low <= 12_000:
        window = replace(window, low=low, high=high)
    sight = request.values.get("sight", "")
    cursor = number(request.values.get("cursor"), (window.low + window.high) / 2)
    moves = {
        "closer": lambda: window.zoomed(0.6, cursor),
        "wider": lambda: window.zoomed(1 / 0.6, cursor),
        "forward": lambda: window.moved(-0.3),
        "rearward": lambda: window.moved(0.3),
        "fit": lambda: replace(fit, width_px=width, turned=bool(g.lie), unit=g.unit),
    }
    if sight.startswith("at:"):
        here = number(sight[3:], cursor)
        span = min(window.span, 900.0)
        return replace(window, low=here - span / 2, high=here + span / 2)
    return moves[sight]() if sight in moves else window
