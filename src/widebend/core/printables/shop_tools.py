"""Tools to print: a saddle that marks angles on a bend, a ring that marks a square cut, a V-block."""

from __future__ import annotations

import math

import numpy as np

from ..errors import InputError
from ..laying import Surface
from ..units import format_length
from .swept import closed_round, named, open_round, prism

SIDES = 96
CLEAR_MM = 0.3  # slips over a tube of its nominal size: common practice of printing, no source
WALL_MM = 4.0
GROOVE_MM = 0.8


def bend_saddle(od_mm: float, clr_mm: float, span_deg: float, every_deg: float) -> Surface:
    """A half sleeve that lies on the heel of a bend, its ends in planes through the bend's centre, with a groove every
    this many degrees: set one end where the bend starts and scribe at the other, or at a groove. Raises InputError.
    """
    if clr_mm <= od_mm / 2 + 1.0:
        raise InputError(f"a radius of {clr_mm:g} mm leaves no throat: more than {od_mm / 2 + 1:.0f}", "clr")
    if not 5 <= span_deg <= 120 or not 1 <= every_deg <= span_deg:
        raise InputError("it spans 5° to 120°, with grooves from 1° apart", "span")
    inner, outer = od_mm / 2 + CLEAR_MM / 2, od_mm / 2 + CLEAR_MM / 2 + WALL_MM
    stations, grooves = [0.0], []
    half = math.degrees(GROOVE_MM / 2 / (clr_mm + outer))
    for k in range(1, math.ceil(span_deg / every_deg)):
        mid = k * every_deg
        if mid < span_deg - 2 * half:
            stations += [mid - half, mid, mid + half]
            grooves.append(mid)
    stations = sorted({*stations, *np.arange(0.0, span_deg, 1.5).tolist(), span_deg})
    radius = [outer - GROOVE_MM if s in grooves else outer for s in stations]
    roll = np.radians(np.linspace(-95.0, 95.0, SIDES // 2))
    contour = [*zip(stations, radius, strict=True), *((s, inner) for s in reversed(stations))]
    grid = np.array([[_on_bend(clr_mm, deg, r, psi) for psi in roll] for deg, r in contour])
    return named(f"saddle {od_mm:g} radius {clr_mm:g}", open_round(grid))


def _on_bend(clr: float, deg: float, r: float, psi: float) -> tuple[float, float, float]:
    """A place at a roll from the heel on a bend about the z axis."""
    rho, t = clr + r * math.cos(psi), math.radians(deg)
    return rho * math.cos(t), rho * math.sin(t), r * math.sin(psi)


def square_ring(od_mm: float, long_mm: float) -> Surface:
    """A ring that slips on a tube; its face is square: scribe along it. Raises InputError for one too short to sit."""
    if long_mm < od_mm / 4:
        raise InputError(f"shorter than a quarter of the tube it rocks: {format_length(od_mm / 4)} or more", "long")
    inner, outer = od_mm / 2 + CLEAR_MM / 2, od_mm / 2 + CLEAR_MM / 2 + WALL_MM
    phi = np.linspace(0.0, 2 * np.pi, SIDES, endpoint=False)
    contour = [(0.0, outer), (long_mm, outer), (long_mm, inner), (0.0, inner)]
    grid = np.array([[(r * math.cos(a), r * math.sin(a), z) for a in phi] for z, r in contour])
    return named(f"square ring {od_mm:g}", closed_round(grid))


def v_block(od_mm: float, long_mm: float) -> Surface:
    """A block with a square groove that holds a tube on both flanks, at 45 deg to each side. Raises InputError."""
    if not 10 <= long_mm <= 300:
        raise InputError("10 to 300 mm long", "long")
    r = od_mm / 2
    touch = r / math.sqrt(2)  # where a tube touches flanks at 45 deg, from its middle
    wide, lip = 2 * touch + 12.0, 8.0
    mouth = touch + 4.0  # the flanks run a little past where they touch
    base = -(r * math.sqrt(2)) - 10.0  # the groove's bottom lies r sqrt 2 under the middle
    top = -r * math.sqrt(2) + mouth
    outline = np.array(
        [
            (-wide / 2 - lip, base),
            (wide / 2 + lip, base),
            (wide / 2 + lip, top),
            (mouth, top),
            (0.0, -r * math.sqrt(2)),
            (-mouth, top),
            (-wide / 2 - lip, top),
        ]
    )
    return named(f"V-block {od_mm:g}", prism(outline, long_mm))
