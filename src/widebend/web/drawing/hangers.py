"""Hangers on the strips: bracket, rubber as it is stretched, rod, an arrow for the load; and the hung shape."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ...core.hanging import Carried, HungSystem
from ...core.laying import System, centre_line
from ...core.records import InLine
from .marks import Mark, Scale
from .strip import Picture, Shadow

ARROW_PX_N = 0.35  # so long an arrow for each newton
LEAST_ARROW_PX, MOST_ARROW_PX = 14.0, 60.0
SAG_SHOWN_MM = 60.0  # the hung shape is drawn so far down at its lowest, by a round factor
FACTORS = (1, 2, 5, 10, 20, 50, 100)


def sag_factor(hung: HungSystem) -> int:
    """How many times the sag is drawn: the largest round factor that keeps it small beside the vehicle."""
    fits = [f for f in FACTORS if f * hung.sag_mm <= SAG_SHOWN_MM]
    return fits[-1] if fits else 1


Moved = tuple[Mapping[tuple[str, int], tuple[np.ndarray, np.ndarray]], Mapping[str, np.ndarray]]


def hung_shadows(system: System, moved: Moved, factor: float) -> list[Shadow]:
    """Pipe and parts where they hang or swing to, what they move drawn this many times."""
    pieces, parts = moved
    found = []
    for run in system.runs:
        for piece in run.pieces:
            ends = pieces.get((run.run.id, piece.index))
            if ends is None or isinstance(piece.piece, InLine):
                continue
            line = centre_line(piece)
            share = np.linspace(0.0, 1.0, len(line))[:, None]
            shown = line + factor * ((1 - share) * ends[0] + share * ends[1])
            found.append(Shadow(shown, float(piece.tube.od_mm)))
    for body in system.bodies:
        gone = parts.get(body.part.id)
        if gone is not None:
            line = np.array([body.start, body.end]) + factor * gone[:3]
            found.append(Shadow(line, 2 * (body.half_u + body.radius_mm), "shadow body"))
    return found


def draw_hangers(picture: Picture, carried: Sequence[Carried], chosen: str, wrong: set[str]) -> None:
    """Every hanger on both strips, each with a handle to slide it by."""
    for strip, axes, up in zip(picture.strips, ((0, 1), (0, 2)), (False, True), strict=True):
        scale = Scale(picture.window, strip.top, strip.height, strip.middle, up)
        for number, one in enumerate(carried, 1):
            css = " chosen" if one.hanger.id == chosen else ""
            css += " wrong" if one.hanger.id in wrong else ""
            strip.marks += _hanger(scale, axes, one, number, css, arrow=up)


def _hanger(scale: Scale, axes: tuple[int, int], one: Carried, number: int, css: str, *, arrow: bool) -> list[Mark]:
    place, eye, pin = (
        np.array([scale.x(float(p[axes[0]])), scale.y(float(p[axes[1]]))]) for p in (one.place, one.eye, one.pin)
    )
    words = f"hanger {number}: {one.load_n:.0f} N"
    marks = [_line("hanger-rod", place, eye), _line("hanger-rubber", eye, pin)]
    marks.append(Mark("circle", f"hanger-pin{css}", {"x": pin[0], "y": pin[1], "r": 5.0}))
    if arrow:
        long = min(MOST_ARROW_PX, max(LEAST_ARROW_PX, abs(one.load_n) * ARROW_PX_N))
        end = eye + np.array([0.0, long if one.load_n >= 0 else -long])
        marks.append(
            Mark("line", f"hanger-load{css}", {"x1": eye[0], "y1": eye[1], "x2": end[0], "y2": end[1], "arrow": True})
        )
        marks.append(
            Mark(
                "words",
                f"label hanger-words{css}",
                {"x": end[0] + 6, "y": end[1] - 2, "text": f"{number}: {one.load_n:.0f} N"},
            )
        )
    marks.append(Mark("corner", "corner", {"x": place[0], "y": place[1], "handle": one.hanger.id}, words))
    return marks


def _line(css: str, a: np.ndarray, b: np.ndarray) -> Mark:
    return Mark("line", css, {"x1": a[0], "y1": a[1], "x2": b[0], "y2": b[1]})
