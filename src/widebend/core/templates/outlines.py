"""Outlines laid flat on plate or sheet: flanges, gaskets, holes, ovals, muffler shells and their end plates."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from shapely.geometry import MultiPoint

from ..errors import InputError
from ..space import Vector
from ..units import format_length
from .paper import Stroke, Template, Word, polyline, ring

Says = Callable[[float], str]  # a length as the person reads it
FACETS = 90  # a quarter circle of shapely's buffer has this many sides: off by 0.002 mm at r 100


def flange(
    bore_mm: float,
    bolts: int,
    circle_mm: float,
    hole_mm: float,
    land_mm: float,
    edge_mm: float,
    says: Says = format_length,
) -> Template:
    """A plate flange: `bolts` holes on a bolt circle, `land_mm` of metal round the bore and `edge_mm` round each hole;
    its outline is the tightest string round both. Raises InputError where a hole breaks into the bore.
    """
    outer = _flange_outline(bore_mm, bolts, circle_mm, hole_mm, land_mm, edge_mm, says)
    return Template(
        f"Flange, bore {says(bore_mm)}, {bolts} × {says(hole_mm)} on {says(circle_mm)}",
        (f"Bolt to bolt {says(circle_mm * math.sin(math.pi / bolts))}, middles.", "Centre-punch through the crosses."),
        (
            Stroke(outer, closed=True),
            Stroke(ring(bore_mm / 2), closed=True),
            *_bolt_holes(bolts, circle_mm, hole_mm),
            *_cross(float(np.abs(outer).max()) + 5.0),
        ),
    )


def gasket(
    bore_mm: float,
    bolts: int,
    circle_mm: float,
    hole_mm: float,
    land_mm: float,
    edge_mm: float,
    clear_mm: float,
    says: Says = format_length,
) -> Template:
    """A gasket for the same flange: bore and holes larger by `clear_mm` all round, so that it does not stand in the
    gas. Raises InputError.
    """
    outer = _flange_outline(bore_mm, bolts, circle_mm, hole_mm, land_mm, edge_mm, says)
    if clear_mm >= land_mm:
        raise InputError(f"a gasket needs some land: less than {says(land_mm)} off the bore", "clear")
    return Template(
        f"Gasket, bore {says(bore_mm)}, {bolts} × {says(hole_mm)} on {says(circle_mm)}",
        (f"Bore and holes are {says(clear_mm)} larger all round than the flange's.",),
        (
            Stroke(outer, closed=True),
            Stroke(ring(bore_mm / 2 + clear_mm), closed=True),
            *_bolt_holes(bolts, circle_mm, hole_mm + 2 * clear_mm),
        ),
    )


def _flange_outline(
    bore: float, bolts: int, circle: float, hole: float, land: float, edge: float, says: Says
) -> Vector:
    if circle - hole < bore + 2.0:
        wanted = says(bore + hole + 2 * land)
        raise InputError(f"the holes break into the bore: a bolt circle of {wanted} leaves its land", "circle")
    rings = [ring(bore / 2 + land), *(ring(hole / 2 + edge, at) for at in _bolt_places(bolts, circle))]
    return np.array(MultiPoint(np.vstack(rings)).convex_hull.exterior.coords)[:-1]


def _bolt_places(bolts: int, circle: float) -> list[tuple[float, float]]:
    turn = [2 * math.pi * k / bolts + (0.0 if bolts == 2 else math.pi / 2) for k in range(bolts)]
    return [(circle / 2 * math.cos(t), circle / 2 * math.sin(t)) for t in turn]


def _bolt_holes(bolts: int, circle: float, hole: float) -> list[Stroke]:
    found = []
    for x, y in _bolt_places(bolts, circle):
        found.append(Stroke(ring(hole / 2, (x, y)), closed=True))
        far = hole / 2 + 3.0
        found += [
            Stroke(polyline((x - far, y), (x + far, y)), "line"),
            Stroke(polyline((x, y - far), (x, y + far)), "line"),
        ]
    return found


def hole(
    od_mm: float,
    gap_mm: float,
    name: str,
    middle: tuple[float, float] | None = None,
    cut_out: Vector | None = None,
    says: Says = format_length,
) -> Template:
    """A round hole in the body for a tip with a gap all round; `cut_out` (n, 2) about its middle is what was measured.

    `middle` is where it lies: right of the vehicle's middle, up.
    """
    radius = od_mm / 2 + gap_mm
    strokes = [Stroke(ring(radius), closed=True), Stroke(ring(od_mm / 2), "fold", closed=True), *_cross(radius + 8.0)]
    if cut_out is not None and len(cut_out):
        strokes.append(Stroke(np.asarray(cut_out, dtype=float), "fold", closed=True))
    notes = [f"Hole {says(2 * radius)}; {name} {says(od_mm)} (dashed); {says(gap_mm)} all round."]
    if middle:
        notes.append(f"Its middle is {says(middle[0])} right of the vehicle's and {says(middle[1])} up.")
    return Template(f"Hole for {name}", tuple(notes), tuple(strokes))


def oval(od_mm: float, high_mm: float, says: Says = format_length) -> Template:
    """Return a round tube pressed to `high_mm` between flats, its way round kept:
    two half circles and flats of pi (OD - high) / 2. Outside lines; raises InputError for more than the tube is high.
    """
    width = oval_width(od_mm, high_mm)
    return Template(
        f"Oval, {says(od_mm)} pressed to {says(high_mm)}",
        (f"{says(width)} wide: way round kept at {says(math.pi * od_mm)}. Its bore shrinks: check the gas.",),
        (Stroke(_racetrack(width, high_mm), closed=True), *_cross(width / 2 + 6.0)),
    )


def oval_width(od_mm: float, high_mm: float) -> float:
    """Width of a round tube pressed to a height, way round kept [mm]: high + pi (OD - high) / 2. Raises InputError.

    >>> round(oval_width(76.2, 50.8), 2)
    90.7
    """
    if not 0 < high_mm <= od_mm:
        raise InputError(f"a tube is pressed to less than its diameter, {od_mm:g} mm", "high")
    return high_mm + math.pi * (od_mm - high_mm) / 2


def _racetrack(width: float, high: float, grow: float = 0.0) -> Vector:
    core = [(-(width - high) / 2, 0.0), ((width - high) / 2, 0.0)]
    shape = MultiPoint(core).convex_hull.buffer(high / 2 + grow, quad_segs=FACETS)
    return np.array(shape.exterior.coords)[:-1]


def shell(
    width_mm: float,
    high_mm: float,
    long_mm: float,
    sheet_mm: float,
    overlap_mm: float,
    flange_mm: float,
    says: Says = format_length,
) -> Template:
    """The sheet a muffler's shell is rolled from, laid flat: outside width and height (alike for a round can).

    The middle of the sheet keeps its length: 2 (width - high) + pi (high - sheet) and the seam's overlap; `flange_mm`
    stands out at each end to be turned over the end plates. Raises InputError.
    """
    if not 0 < high_mm <= width_mm:
        raise InputError(f"a can {says(high_mm)} high is at least as wide", "width")
    around = 2 * (width_mm - high_mm) + math.pi * (high_mm - sheet_mm)
    x, y = around + overlap_mm, long_mm + 2 * flange_mm
    strokes = [
        Stroke(polyline((0, 0), (x, 0), (x, y), (0, y)), closed=True),
        Stroke(polyline((around, 0), (around, y)), "fold"),
    ]
    strokes += [Stroke(polyline((0, at), (x, at)), "fold") for at in (flange_mm, y - flange_mm) if flange_mm]
    strokes += [Stroke(polyline((around * k / 4, 0), (around * k / 4, y)), "line") for k in (1, 2, 3)]
    return Template(
        f"Shell, {says(width_mm)} × {says(high_mm)} × {says(long_mm)}",
        (f"{says(around)} round the middle of {says(sheet_mm)} sheet, {says(overlap_mm)} of it lap over at the seam.",),
        tuple(strokes),
        (Word(around + 1.0, y / 2, "seam"),),
    )


def end_plate(
    width_mm: float,
    high_mm: float,
    tube_mm: float,
    right_mm: float,
    up_mm: float,
    lip_mm: float,
    says: Says = format_length,
) -> Template:
    """An end plate of such a can with one hole for a tube, off its middle; `lip_mm` all round is turned over.

    Raises InputError where the hole leaves the plate.
    """
    if not 0 < high_mm <= width_mm:
        raise InputError(f"a can {says(high_mm)} high is at least as wide", "width")
    reach = math.hypot(max(0.0, abs(right_mm) - (width_mm - high_mm) / 2), up_mm) + tube_mm / 2
    if reach > high_mm / 2:
        over = says(reach - high_mm / 2)
        raise InputError(f"the hole stands {over} over the edge of the plate", "right")
    plate = _racetrack(width_mm, high_mm)
    strokes = [Stroke(_racetrack(width_mm, high_mm, lip_mm), closed=True)]
    strokes += [Stroke(plate, "fold", closed=True)] if lip_mm else []
    strokes += [Stroke(ring(tube_mm / 2, (right_mm, up_mm)), closed=True), *_cross(width_mm / 2 + lip_mm + 5.0)]
    return Template(
        f"End plate, {says(width_mm)} × {says(high_mm)}, tube {says(tube_mm)}",
        (f"The hole's middle: {says(right_mm)} right, {says(up_mm)} up. Turn the plate over for the other end.",),
        tuple(strokes),
    )


def _cross(far: float) -> list[Stroke]:
    return [Stroke(polyline((-far, 0.0), (far, 0.0)), "line"), Stroke(polyline((0.0, -far), (0.0, far)), "line")]
