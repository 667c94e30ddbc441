"""Crossovers and splitters cut from bends: X and Y on the plane where two bends meet, H stubs, twin-tip splitters.

All in one plane: two round tubes of radius r, mirror images about the plane that the cut lies in. A bend's surface has
rulings: at roll psi from its heel (0 = heel) a ruling lies at distance rho = R + r cos(psi) from the bend's centre
line axis. Formulas are the trigonometry of a torus and a plane; tests compare them with a CAD kernel.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..errors import InputError
from ..space import Vector

RULINGS_DEG = tuple(range(0, 361, 15))


@dataclass(frozen=True)
class Cut:
    """A cut on a bend as a wrap template.

    `marks` (n, 2): roll from the heel [deg], distance along that ruling from the reference line [mm]; rulings the cut
    does not reach are left out. `outline` (n, 2): the opening in the cut plane (along, up) [mm], one half of it.
    """

    marks: Vector
    outline: Vector
    length_mm: float
    height_mm: float
    area_mm2: float
    seam_mm: float


@dataclass(frozen=True)
class XPipe:
    """Two equal bends sliced on the plane between them.

    `off_mm` is from a bend's centre line, at its middle, to the plane; `apart_mm` between the two pipes' middles at the
    ends of the bends, `along_mm` from one end to the other; each end looks `lead_deg` off the X's own axis.
    """

    cut: Cut
    off_mm: float
    depth_mm: float
    apart_mm: float
    along_mm: float
    lead_deg: float
    inside_the_bends: bool


def x_pipe(od_mm: float, clr_mm: float, bend_deg: float, off_mm: float) -> XPipe:
    """The slice of two bends whose middles stand `off_mm` from the plane. Raises InputError for no contact.

    Ruling psi meets the plane at the bend angle t with (R + r cos psi) cos t = R + off, either side of the middle;
    where that is more than half the bend, on the straight leg behind it.
    """
    r, reach, half = od_mm / 2, clr_mm + off_mm, math.radians(bend_deg) / 2
    _sane(od_mm, clr_mm, bend_deg)
    if not 0 <= off_mm < r:
        raise InputError(f"the pipes meet when the bend's middle is nearer than {r:.1f} mm to the plane, 0 at least")
    marks, outline, inside = [], [], True
    for psi in np.radians(RULINGS_DEG):
        rho = clr_mm + r * math.cos(psi)
        if rho < reach:
            continue
        turn = math.acos(reach / rho)
        if turn <= half:
            along, x = rho * turn, rho * math.sin(turn)
        else:
            inside = False
            leg = (rho * math.cos(half) - reach) / math.sin(half)
            along, x = rho * half + leg, rho * math.sin(half) + leg * math.cos(half)
        marks.append((math.degrees(psi), along))
        outline.append((x, r * math.sin(psi)))
    long, whole = _x_outline(r, clr_mm, reach, half)
    cut = Cut(np.array(marks), whole, 2 * long, 2 * math.sqrt(r * r - off_mm * off_mm), *_measured(whole))
    end = clr_mm * (1 - math.cos(half)) + off_mm
    return XPipe(cut, off_mm, r - off_mm, 2 * end, 2 * clr_mm * math.sin(half), math.degrees(half), inside)


def off_for_chamber(od_mm: float, clr_mm: float, bend_deg: float, chamber_mm: float) -> float:
    """The distance from a bend's middle to the plane that gives a chamber this long. Raises InputError.

    On the bend alone L = 2 sqrt((R + r)^2 - (R + off)^2); where the chamber runs onto the legs it is searched.
    """
    longest = x_pipe(od_mm, clr_mm, bend_deg, 0.0).cut.length_mm
    if not 0 < chamber_mm <= longest:
        raise InputError(
            f"bends of {bend_deg:g}° share a chamber of up to {longest:.0f} mm; a shallower bend's is longer"
        )
    low, high = 0.0, od_mm / 2
    for _ in range(60):
        mid = (low + high) / 2
        low, high = (mid, high) if x_pipe(od_mm, clr_mm, bend_deg, mid).cut.length_mm > chamber_mm else (low, mid)
    return (low + high) / 2


def _x_outline(r: float, clr: float, reach: float, half: float) -> tuple[float, Vector]:
    """The opening's reach along from its middle, and its outline in the plane, (n, 2), going round."""
    steep = math.acos(min(1.0, max(-1.0, (reach - clr) / r)))  # the ruling that just touches the plane
    points = []
    for psi in np.linspace(-steep, steep, 181):
        rho = clr + r * math.cos(psi)
        turn = math.acos(min(1.0, reach / rho))
        x = rho * math.sin(turn)
        if turn > half:
            leg = (rho * math.cos(half) - reach) / math.sin(half)
            x = rho * math.sin(half) + leg * math.cos(half)
        points.append((x, r * math.sin(psi)))
    half_shape = np.array(points)
    whole = np.concatenate([half_shape, half_shape[::-1] * [-1.0, 1.0]])
    return float(half_shape[:, 0].max()), whole


def _measured(outline: Vector) -> tuple[float, float]:
    """Area [mm2] and length of the edge [mm] of a closed outline (n, 2)."""
    nxt = np.roll(outline, -1, axis=0)
    area = abs(float(np.sum(outline[:, 0] * nxt[:, 1] - outline[:, 1] * nxt[:, 0]))) / 2
    return area, float(np.linalg.norm(nxt - outline, axis=1).sum())


@dataclass(frozen=True)
class YPipe:
    """Two bends trimmed on their common plane into one outlet: where the crotch is, and the wrap template.

    `marks` are measured from the bend's end at the outlet, along each ruling.
    """

    marks: Vector
    crotch_mm: float
    seam_mm: float
    apart_mm: float
    along_mm: float


def y_pipe(od_mm: float, clr_mm: float, bend_deg: float, leg_mm: float = 0.0) -> YPipe:
    """Two bends whose ends lie on each other at the outlet and turn away from each other, cut on the plane between.

    Ruling psi meets the plane at the bend angle t with (R + r cos psi) cos t = R; beyond the bend, on its leg.
    `leg_mm` is the straight behind each bend. Raises InputError where the legs are too short for the cut.
    """
    _sane(od_mm, clr_mm, bend_deg)
    r, beta = od_mm / 2, math.radians(bend_deg)
    marks, crotch = [], 0.0
    edge = []
    for deg in np.arange(-90.0, 91.0, 2.5):
        psi = math.radians(float(deg))
        rho = clr_mm + r * math.cos(psi)
        turn = math.acos(min(1.0, clr_mm / rho))
        if turn <= beta:
            along, x = rho * turn, rho * math.sin(turn)
        else:
            leg = (rho * math.cos(beta) - clr_mm) / math.sin(beta)
            along, x = rho * beta + leg, rho * math.sin(beta) + leg * math.cos(beta)
            if leg > leg_mm + 1e-9:
                raise InputError(
                    f"the cut runs {leg:.0f} mm onto the straight behind a bend of {bend_deg:g}°; "
                    f"there are {leg_mm:.0f}: leave more straight on, or turn more"
                )
        crotch = max(crotch, x)
        edge.append((x, r * math.sin(psi)))
        if deg % 15 == 0:
            marks.append((float(deg), along))
    seam = float(np.linalg.norm(np.diff(np.array(edge), axis=0), axis=1).sum())
    side = clr_mm * (1 - math.cos(beta)) + leg_mm * math.sin(beta)
    ahead = clr_mm * math.sin(beta) + leg_mm * math.cos(beta)
    return YPipe(np.array(marks), crotch, seam, 2 * side, ahead)


@dataclass(frozen=True)
class TwinTip:
    """One pipe into two parallel ones: per side a bend away and one back, with a straight between."""

    bend_deg: float
    leg_mm: float
    apart_mm: float
    along_mm: float
    y: YPipe


def twin_tip(od_mm: float, clr_mm: float, apart_mm: float, bend_deg: float) -> TwinTip:
    """Two tips `apart_mm` middle to middle: 2 (2 R (1 - cos b) + leg sin b) = apart. Raises InputError."""
    _sane(od_mm, clr_mm, bend_deg)
    beta = math.radians(bend_deg)
    jog = 2 * clr_mm * (1 - math.cos(beta))
    leg = (apart_mm / 2 - jog) / math.sin(beta)
    if apart_mm < od_mm:
        raise InputError(f"two tips of {od_mm:g} mm cannot stand {apart_mm:g} mm apart, middle to middle")
    if leg < 0:
        gentler = math.degrees(math.acos(max(-1.0, 1 - apart_mm / (4 * clr_mm))))
        raise InputError(f"bends of {bend_deg:g}° stand {2 * jog:.0f} mm apart at least; {gentler:.1f}° would do it")
    y = y_pipe(od_mm, clr_mm, bend_deg, leg_mm=leg)
    return TwinTip(bend_deg, leg, apart_mm, 2 * clr_mm * math.sin(beta) + leg * math.cos(beta), y)


def saddle(
    branch_od_mm: float, header_od_mm: float, angle_deg: float, rolls_deg: Vector, off_mm: float = 0.0
) -> Vector:
    """Distance from the header's axis along the branch to the cut, (n,) [mm], at each roll (0 = the acute side).

    s = [sqrt(R^2 - (r sin phi + e)^2) + r cos phi cos b] / sin b; r the branch's outside, R the header's, e how far the
    branch's axis passes beside the header's. Raises InputError where the branch does not fit on the header.
    """
    r, big, b = branch_od_mm / 2, header_od_mm / 2, math.radians(angle_deg)
    if r + abs(off_mm) > big + 1e-9:
        raise InputError(
            f"a branch of {branch_od_mm:g} mm is wider than a pipe of {header_od_mm:g} mm: cut it the other way"
        )
    phi = np.radians(np.asarray(rolls_deg, dtype=float))
    depth = np.sqrt(np.maximum(0.0, big**2 - (r * np.sin(phi) + off_mm) ** 2))
    return np.asarray((depth + r * np.cos(phi) * math.cos(b)) / math.sin(b))


@dataclass(frozen=True)
class HStub:
    """A stub square between two parallel pipes: its longest and shortest length, and one saddle's wrap template.

    `marks` (n, 2): roll [deg, 0 along the pipes], depth of the saddle there from the stub's longest point [mm].
    """

    longest_mm: float
    shortest_mm: float
    marks: Vector


def h_stub(stub_od_mm: float, pipe_od_mm: float, apart_mm: float) -> HStub:
    """A stub between pipes `apart_mm` middle to middle, a saddle at each end. Raises InputError."""
    if apart_mm <= pipe_od_mm:
        raise InputError(f"pipes {apart_mm:g} mm apart, middle to middle, leave no room for a stub: they touch")
    rolls = np.array(RULINGS_DEG, dtype=float)
    s = saddle(stub_od_mm, pipe_od_mm, 90.0, rolls)
    low, high = float(s.min()), float(s.max())
    return HStub(apart_mm - 2 * low, apart_mm - 2 * high, np.column_stack([rolls, s - low]))


def off_centre_mm(left_mm: float, right_mm: float) -> float:
    """How far [mm] a seam sits to the right of the middle, from the distances to the left and right pipe's far wall."""
    return (left_mm - right_mm) / 2


def _sane(od_mm: float, clr_mm: float, bend_deg: float) -> None:
    if not 0 < bend_deg <= 180:
        raise InputError("a bend turns more than 0° and up to 180°")
    if clr_mm <= od_mm / 2:
        raise InputError(f"a radius of {clr_mm:g} mm is less than half the tube: at least {od_mm / 2:.0f} mm")
