"""Trims, darts and slices: how much comes off where, so that a face or a pipe turns by a little.

A tilt turns the end's face toward a clock direction: at that side most comes off, opposite nothing. All from the plane
that cuts a tube (docs/sources.md, Templates), and from turns of one pipe against another.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..errors import InputError
from .lists import slice_heel_and_throat
from .tube import round_the_tube, slanted_circumference

MOST_TILT_DEG, MOST_DART_DEG = 30.0, 15.0


@dataclass(frozen=True)
class Tilt:
    """One way to tilt an end: `off_mm` by hours from where it tilts (0 most), and the metal it costs."""

    tilt_deg: float
    cut_deg: float
    most_mm: float
    middle_mm: float


def tilt_by_cut(od_mm: float, tilt_deg: float) -> Tilt:
    """Cut the end off square by the whole tilt: D tan(tilt) at the side it tilts toward, half of it off the middle.

    >>> round(tilt_by_cut(63.5, 3.0).most_mm, 3)
    3.328
    """
    _tilts(tilt_deg)
    most = od_mm * math.tan(math.radians(tilt_deg))
    return Tilt(tilt_deg, tilt_deg, most, most / 2)


def tilt_by_flip(od_mm: float, tilt_deg: float) -> Tilt:
    """Cut through at half the tilt, turn the rest half round and weld it back: only the saw's cut is lost.

    The flip rule: a cut at a turns the rest by 2 a (reference A104 to A110).

    >>> round(tilt_by_flip(63.5, 10.0).cut_deg, 3)
    5.0
    """
    _tilts(tilt_deg)
    return Tilt(tilt_deg, tilt_deg / 2, od_mm * math.tan(math.radians(tilt_deg) / 2), 0.0)


def off_at(od_mm: float, cut_deg: float, from_tilt_deg: float) -> float:
    """Return the length cut off [mm] at an angle round the tube from where it tilts: r tan(cut) (1 + cos)."""
    return od_mm / 2 * math.tan(math.radians(cut_deg)) * (1.0 + math.cos(math.radians(from_tilt_deg)))


@dataclass(frozen=True)
class Reclock:
    """A bend cut square across and its rest turned: by how much, and how far that is round the tube."""

    turn_deg: float
    tape_mm: float


def tilt_by_reclocking(od_mm: float, rest_deg: float, tilt_deg: float) -> Reclock:
    """Turn what is behind a square cut in a bend, where `rest_deg` of the bend are behind it, so that its end looks
    `tilt_deg` another way, sideways of the bend: sin(tilt / 2) = sin(rest) sin(turn / 2). Raises InputError.

    >>> round(tilt_by_reclocking(63.5, 90.0, 3.0).turn_deg, 6)
    3.0
    """
    _tilts(tilt_deg)
    if not 0 < rest_deg < 180:
        raise InputError("behind the cut there is some of the bend: more than 0° and less than 180°", "rest")
    sine = math.sin(math.radians(tilt_deg) / 2) / math.sin(math.radians(rest_deg))
    if sine > 1:
        most = 2 * min(rest_deg, 180.0 - rest_deg)
        raise InputError(
            f"{rest_deg:g}° behind the cut tilts its end by {most:g}° at most: cut nearer the start", "rest"
        )
    turn = 2 * math.degrees(math.asin(sine))
    return Reclock(turn, round_the_tube(od_mm, turn))


def tilt_from_offset(off_mm: float, behind_mm: float) -> float:
    """The tilt [deg] that moves what lies `behind_mm` behind the cut by `off_mm` sideways: 2 asin(off / 2 behind).

    Raises InputError.

    >>> round(tilt_from_offset(4.0, 400.0), 3)
    0.573
    """
    if behind_mm <= 0 or abs(off_mm) > behind_mm:
        raise InputError("what fouls lies further behind the cut than it must move", "behind")
    return 2 * math.degrees(math.asin(abs(off_mm) / (2 * behind_mm)))


def tilt_from_gap(widest_mm: float, narrowest_mm: float, face_mm: float) -> float:
    """The tilt [deg] between two faces from the gap at its widest and opposite, over a face so far across.

    Raises InputError.

    >>> round(tilt_from_gap(3.5, 0.0, 100.0), 3)
    2.005
    """
    if widest_mm < narrowest_mm:
        raise InputError("the widest gap is no less than the gap opposite", "widest")
    if face_mm <= 0:
        raise InputError("how far across is the face?", "face")
    return math.degrees(math.atan((widest_mm - narrowest_mm) / face_mm))


@dataclass(frozen=True)
class Dart:
    """A slot that closes as the pipe is bent shut: its widest on the outside, how deep it goes, how far round it runs
    from the middle of its widest to each end [mm], and the weld that closes it.
    """

    wide_mm: float
    deep_mm: float
    round_mm: float
    weld_mm: float


def dart(od_mm: float, turn_deg: float, left_mm: float) -> Dart:
    """The slot for a turn, `left_mm` of the diameter left as the hinge: 2 deep tan(turn / 2) wide.

    Raises InputError.
    """
    if not 0 < turn_deg <= MOST_DART_DEG:
        most = f"a dart turns up to {MOST_DART_DEG:g}°"
        raise InputError(f"{most}: more buckles the hinge; cut it through instead", "turn")
    deep = od_mm - left_mm
    if not 0 < deep < od_mm:
        raise InputError(f"the hinge is more than nothing and less than the tube's {od_mm:g}", "left")
    half = math.acos(max(-1.0, min(1.0, 1.0 - 2.0 * deep / od_mm)))
    share = half / math.pi
    return Dart(
        2 * deep * math.tan(math.radians(turn_deg) / 2),
        deep,
        od_mm / 2 * half,
        share * slanted_circumference(od_mm, turn_deg / 2),
    )


@dataclass(frozen=True)
class SliceBend:
    """A bend of slices: every face cut `cut_deg` off square; lengths of a whole slice; `ends_mm` of a half one at its
    middle (0 without half ends); the straight tube it takes, slices laid head to foot, each cut at the same angle.
    """

    slices: int
    cut_deg: float
    heel_mm: float
    throat_mm: float
    middle_mm: float
    half_mm: float
    tube_mm: float
    welds: int
    weld_mm: float


def slice_bend(
    od_mm: float, clr_mm: float, turn_deg: float, count: int, kerf_mm: float, *, half_ends: bool
) -> SliceBend:
    """A bend from `count` joints with half slices at its ends (which have a square face), or from `count` whole slices
    between square-cut tube. Reference A049 to A060, A067 to A076. Raises InputError.
    """
    if clr_mm <= od_mm / 2:
        raise InputError(f"a radius of {clr_mm:g} mm is less than half the tube: more than {od_mm / 2:g}", "clr")
    if not 0 < turn_deg <= 180 or count < 1:
        raise InputError("it turns more than 0° and up to 180°, in one slice or more", "turn")
    each = turn_deg / count
    if each > 90:
        raise InputError("one joint turns up to 90°: take more", "count")
    heel, throat = slice_heel_and_throat(clr_mm, od_mm, each)
    middle = 2 * clr_mm * math.tan(math.radians(each) / 2)
    whole = count - 1 if half_ends else count
    joints = count if half_ends else count + 1
    # turned over in turn, slices share their cuts: a slice takes its middle, and the saw one kerf a cut
    slanted_kerf = kerf_mm / math.cos(math.radians(each) / 2)
    tube = whole * middle + (middle if half_ends else 0.0) + (whole + (1 if half_ends else -1)) * slanted_kerf
    weld = joints * slanted_circumference(od_mm, each / 2)
    return SliceBend(
        whole, each / 2, heel, throat, middle, middle / 2 if half_ends else 0.0, max(tube, 0.0), joints, weld
    )


def _tilts(tilt_deg: float) -> None:
    if not 0 < tilt_deg <= MOST_TILT_DEG:
        raise InputError(f"a trim tilts more than 0° and up to {MOST_TILT_DEG:g}°: more is a mitre or a bend", "tilt")
