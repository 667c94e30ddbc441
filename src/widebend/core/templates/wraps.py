"""Wraps: the edge that a cut leaves on a tube, laid flat; and fingers for cuts on bends.

A wrap runs x along the way round the tube from roll 0, y along the tube; its upper edge is the cut, its lower edge is
straight and square to the tube, so that it closes on itself when it lies right. Plane and cylinder by direct
substitution (mitre), cylinder and cylinder as `hardware.crossover.saddle` states it.
"""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from shapely import Polygon, box, union_all

from ..errors import InputError
from ..hardware import saddle, x_pipe, y_pipe
from ..space import Vector
from .paper import Paper, Stroke, Template, Word, polyline

BODY_MM = 40.0  # paper left behind the shortest place of a cut, to lie straight on the tube
TAB_MM = 12.0  # laps over itself where the wrap closes
SPINE_MM = 6.0  # half the strip that fingers stand on
STEPS = 720  # half a degree: the edge between two corners is off by 0.001 mm on a 4 in tube
QUARTERS = (0, 90, 180, 270, 360)
FIRST_TOUCH = "no filing"  # cut back so that neither edge of the wall touches first
Profile = Callable[[Vector, float], Vector]  # rolls [rad], radius [mm] -> distance along the tube [mm]


def mitre_wrap(od_mm: float, cut_deg: float, paper: Paper, wall_mm: float = 0.0) -> Template:
    """A plane cut `cut_deg` off square: h = r tan(cut) (1 + cos roll) over the short side; roll 0 is the heel."""
    _fits("cut", cut_deg, 0.0, 80.0)
    slope = math.tan(math.radians(cut_deg))
    return _wrap(
        f"Mitre, {paper.says(od_mm)}, {cut_deg:.4g}° off square",
        od_mm,
        wall_mm,
        paper,
        lambda roll, r: np.asarray(r * slope * np.cos(roll)),
        (
            "The line marked heel is the longest side.",
            f"Longest and shortest differ by {paper.says(od_mm * slope)} outside. "
            f"Turned half round and put back, the rest turns the pipe by {2 * cut_deg:.4g}°.",
        ),
        zero="heel",
    )


def slice_wrap(od_mm: float, clr_mm: float, turn_deg: float, paper: Paper, wall_mm: float = 0.0) -> Template:
    """One whole slice of a pie-cut bend: both edges slope by half its turn; 2 tan(turn / 2) (CLR + r cos roll) long."""
    _fits("turn", turn_deg, 0.0, 90.0)
    if clr_mm <= od_mm / 2:
        raise InputError(
            f"a radius of {paper.says(clr_mm)} is less than half the tube: more than {paper.says(od_mm / 2)}", "clr"
        )
    slope = math.tan(math.radians(turn_deg) / 2)
    surface, middle = paper.surface_mm(od_mm, wall_mm), paper.middle_mm(od_mm, wall_mm)
    roll = np.linspace(0.0, 2 * np.pi, STEPS + 1)
    x, half = _way(middle, roll, paper), slope * (clr_mm + surface * np.cos(roll))
    around = np.vstack([np.column_stack([x, half]), np.column_stack([x, -half])[::-1]])
    heel, throat = 2 * slope * (clr_mm + surface), 2 * slope * (clr_mm - surface)
    strokes = [Stroke(around, "cut", closed=True), Stroke(polyline((x.min(), 0.0), (x.max(), 0.0)), "line")]
    words = []
    for q, name in ((0, "heel"), (90, "90°"), (180, "throat"), (270, "270°"), (360, "")):
        at, h = float(_way(middle, np.radians(q), paper)), slope * (clr_mm + surface * math.cos(math.radians(q)))
        strokes.append(Stroke(polyline((at, -h), (at, h)), "line"))
        words += [Word(at + 1.0, 1.0, name)] if name else []
    return Template(
        f"Slice, {paper.says(od_mm)}, radius {paper.says(clr_mm, 2)}, {turn_deg:.4g}°",
        (
            f"Heel {paper.says(heel)}, throat {paper.says(throat)}, middle {paper.says(2 * slope * clr_mm)}; saw at "
            f"{turn_deg / 2:.4g}° off square, turned over for each cut.",
        ),
        tuple(strokes),
        tuple(words),
    )


def saddle_wrap(
    branch_od_mm: float,
    header_od_mm: float,
    angle_deg: float,
    off_mm: float,
    paper: Paper,
    wall_mm: float = 0.0,
    contact: str = "outside",
) -> Template:
    """The end of a branch that sits on a header. `contact` is the edge of the branch's wall that meets the header:
    outside, inside, or FIRST_TOUCH. Raises InputError where the branch does not fit on the header.
    """
    _fits("angle", angle_deg, 15.0, 90.0)
    radii = {"outside": (branch_od_mm / 2,), "inside": (branch_od_mm / 2 - wall_mm,)}.get(
        contact, (branch_od_mm / 2, branch_od_mm / 2 - wall_mm)
    )
    if min(radii) <= 0:
        raise InputError(
            f"a wall of {paper.says(wall_mm)} leaves no inside in a tube of {paper.says(branch_od_mm)}", "wall"
        )

    def profile(roll: Vector, _: float) -> Vector:
        # what is cut away is what lies nearer the header: the longest of the wall's edges decides
        return -np.asarray(
            np.max([saddle(2 * r, header_od_mm, angle_deg, np.degrees(roll), off_mm) for r in radii], axis=0)
        )

    beside = f", {paper.says(off_mm)} beside its middle" if off_mm else ""
    fits = f"The upper edge sits on the header; it fits at the {contact} of the wall."
    if contact == FIRST_TOUCH:
        fits = "Cut so, no edge of the wall touches before the other: what stays open is filled by the weld."
    title = f"Saddle, {paper.says(branch_od_mm)} on {paper.says(header_od_mm)} at {angle_deg:.4g}°{beside}"
    notes = ("The line marked sharp side lies in the sharp angle between the pipes.", fits)
    return _wrap(title, branch_od_mm, wall_mm, paper, profile, notes, zero="sharp side")


def hole_wrap(
    branch_mm: float, header_od_mm: float, angle_deg: float, off_mm: float, paper: Paper, wall_mm: float = 0.0
) -> Template:
    """The hole in a header for a branch `branch_mm` across (its inside to sit on, its outside to go in), laid flat.

    x = s cos b + r cos roll sin b along the header, R asin((r sin roll + e) / R) round it.
    """
    _fits("angle", angle_deg, 15.0, 90.0)
    roll = np.linspace(0.0, 2 * np.pi, STEPS, endpoint=False)
    r, big, b = branch_mm / 2, header_od_mm / 2, math.radians(angle_deg)
    s = saddle(branch_mm, header_od_mm, angle_deg, np.degrees(roll), off_mm)
    along = s * math.cos(b) + r * np.cos(roll) * math.sin(b)
    turn = np.arcsin(np.clip((r * np.sin(roll) + off_mm) / big, -1.0, 1.0))
    outline = np.column_stack([_way(paper.middle_mm(header_od_mm, wall_mm), turn, paper), along])
    pad = 15.0
    low, high = outline.min(axis=0) - pad, outline.max(axis=0) + pad
    sheet = polyline((low[0], low[1]), (high[0], low[1]), (high[0], high[1]), (low[0], high[1]))
    return Template(
        f"Hole in {paper.says(header_od_mm)} for {paper.says(branch_mm)} at {angle_deg:.4g}°",
        ("The upright line lies along the header's top, the level one where the branch's axis meets the header's.",),
        (
            Stroke(outline, "cut", closed=True),
            Stroke(sheet, "cut", closed=True),
            Stroke(polyline((0.0, low[1]), (0.0, high[1])), "line"),
            Stroke(polyline((low[0], 0.0), (high[0], 0.0)), "line"),
        ),
        (Word(1.5, float(high[1]) - 5.0, "sharp side"),),
    )


def x_fingers(od_mm: float, clr_mm: float, bend_deg: float, off_mm: float, paper: Paper) -> Template:
    """An X cut on a bend: fingers from the bend's middle both ways, each as long as its line to the cut."""
    cut = x_pipe(od_mm, clr_mm, bend_deg, off_mm).cut
    lines = [(deg if deg <= 180 else deg - 360, mm) for deg, mm in cut.marks.tolist() if deg < 360]
    return _fingers(
        f"X cut, {paper.says(od_mm)}, radius {paper.says(clr_mm, 2)}, {bend_deg:.4g}°",
        od_mm,
        clr_mm,
        math.radians(bend_deg) / 2,
        sorted(lines),
        paper,
        both=True,
        note="The long line goes round the bend at its middle, heel on the heel. Press each strip along the bend and "
        "mark its tip, both ways: the cut runs through the tips.",
    )


def y_fingers(od_mm: float, clr_mm: float, bend_deg: float, leg_mm: float, paper: Paper) -> Template:
    """A Y cut on a bend: fingers from the outlet end, each as long as its line to the cut."""
    cut = y_pipe(od_mm, clr_mm, bend_deg, leg_mm)
    return _fingers(
        f"Y cut, {paper.says(od_mm)}, radius {paper.says(clr_mm, 2)}, {bend_deg:.4g}°",
        od_mm,
        clr_mm,
        math.radians(bend_deg),
        [(deg, mm) for deg, mm in cut.marks.tolist()],
        paper,
        both=False,
        note="The long line goes round the outlet end of the bend, heel on the heel. Press each strip along the bend "
        "and mark its tip: the cut runs through the tips. The other bend is the same turned over.",
    )


def _fingers(
    title: str,
    od: float,
    clr: float,
    bend_rad: float,
    lines: list[tuple[float, float]],
    paper: Paper,
    *,
    both: bool,
    note: str,
) -> Template:
    """Fingers at rolls [deg] of lengths along the bend's outside [mm], on a spine that goes round the tube."""
    middle, half = paper.middle_mm(od, 0.0), paper.thickness_mm / 2
    wide = 0.4 * middle * math.radians(lines[1][0] - lines[0][0])
    left, right = (middle * math.radians(d) for d in (lines[0][0] - 15, lines[-1][0] + 15))
    shapes = [box(left, -SPINE_MM, right, SPINE_MM if both else 0.0)]
    strokes, words = [Stroke(polyline((left, 0.0), (right, 0.0)), "line")], []
    for deg, along in lines:
        cos, x = math.cos(math.radians(deg)), middle * math.radians(deg)
        on_bend = min(along, bend_rad * (clr + od / 2 * cos))
        long = along + on_bend * half * cos / (clr + od / 2 * cos)  # the paper lies half its thickness off the metal
        for way in (1.0, -1.0) if both else (1.0,):
            neck = way * max(0.0, long - wide)
            shapes.append(
                Polygon(
                    [
                        (x - wide / 2, 0.0),
                        (x - wide / 2, neck),
                        (x, way * long),
                        (x + wide / 2, neck),
                        (x + wide / 2, 0.0),
                    ]
                )
            )
            strokes.append(Stroke(polyline((x, 0.0), (x, way * long)), "line"))
        words.append(Word(x - wide / 2 + 0.5, -SPINE_MM + 1.0, "heel" if deg == 0 else f"{deg:g}", 2.2))
    outline = np.array(union_all(shapes).exterior.coords)[:-1]
    return Template(title, (note,), (Stroke(outline, closed=True), *strokes), tuple(words))


def _wrap(
    title: str, od: float, wall: float, paper: Paper, profile: Profile, notes: tuple[str, ...], *, zero: str
) -> Template:
    surface, middle = paper.surface_mm(od, wall), paper.middle_mm(od, wall)
    roll = np.linspace(0.0, 2 * np.pi, STEPS + 1)
    x, y = _way(middle, roll, paper), profile(roll, surface)
    base = float(y.min()) - BODY_MM
    left, right = float(x.min()), float(x.max())
    edge = np.column_stack([x, y])
    if paper.side == "inside":
        edge = edge[::-1]
    around = np.vstack([polyline((left, base)), edge, polyline((right, base))])
    seam = float(edge[-1, 1])
    tab = polyline((right, base), (right + TAB_MM, base + 3.0), (right + TAB_MM, seam - 3.0), (right, seam))
    strokes = [Stroke(around, "cut", closed=True)]
    if paper.side == "outside":
        strokes.append(Stroke(tab, "fold"))
    words = []
    for q in QUARTERS:
        at = float(_way(middle, np.radians(q), paper))
        strokes.append(Stroke(polyline((at, base), (at, float(profile(np.radians([q]), surface)[0]))), "line"))
        if q < 360:
            words.append(Word(at + 1.0, base + 2.0, zero if q == 0 else f"{q}°"))
    once = (
        f"Once round is {2 * math.pi * middle:.1f} mm on paper {paper.thickness_mm:g} mm thick, {paper.side} the tube."
    )
    return Template(title, (*notes, once), tuple(strokes), tuple(words))


def _way(middle: float, roll: Vector | float, paper: Paper) -> Vector:
    """Where a roll lies on the sheet [mm]: read from inside, the way round runs to the left."""
    return np.asarray(middle * np.asarray(roll) * (1.0 if paper.side == "outside" else -1.0))


def _fits(field: str, value: float, least: float, most: float) -> None:
    if not least < value <= most and value != least:
        raise InputError(f"{value:g}° is outside {least:g}° to {most:g}°", field)
