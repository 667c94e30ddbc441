"""Tapes to marks: where a point is from taped distances to known marks, and how well that is known.

Three tapes give a place and its mirror image in the plane of the marks; a fourth checks them. The doubt is the radius
that holds the true place 95 times in 100, from the chance of each place given all tapes (docs/sources.md, "Doubt").
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy.optimize import least_squares
from scipy.special import chdtrc, ndtri

from ..errors import InputError
from ..space import Vector

SIGMAS_IN_DOUBT = 1.959963984540054  # a doubt of +/- is meant to hold 95 in 100 of a normal error
SAME_MM = 0.5  # two solutions nearer than this are one
WIDEST_MM = 1000.0  # said when the tapes allow nearly anything
SAMPLES = 4096
SPREAD = 1.4  # places are drawn from tapes that err this much more than said, so that the tails are held too
CLEAR_OF_LINE = 15.0  # marks must stand off a line this many times their own doubt, or the answer is a lottery
OFF_CHANCE = 0.01  # residuals worse than one set in a hundred are said
BADLY_PLACED = 3.0  # a weak direction known this many times worse than the tape itself is said


@dataclass(frozen=True)
class TapeMark:
    """A mark on the vehicle whose place is known: (3,) [mm] and its own +/- [mm]."""

    name: str
    point: Vector
    plus_minus_mm: float = 0.0


@dataclass(frozen=True)
class Fix:
    """A point found from tapes. Lengths mm.

    `residuals_mm` is tape less distance, a value a mark; `weak_axis` the unit direction it is known worst in and
    `weak_mm` the 95 % half width along it; `said` what a person should know about marks and tapes.
    """

    point: Vector
    plus_minus_mm: float
    residuals_mm: Vector
    weak_axis: Vector
    weak_mm: float
    agrees: bool
    said: tuple[str, ...]


@dataclass(frozen=True)
class Fixes:
    """The answer to choose from: one, or two that the tapes cannot tell apart (lower first)."""

    answers: tuple[Fix, ...]
    checked: bool


@dataclass(frozen=True)
class _Tapes:
    """A solution: marks (n, 3), distances (n,), their standard deviations (n,) and the plane of the marks.

    `sigmas` are of tape and mark together, `mark_sigmas` (n,) of each coordinate of a mark, `tape_sigma` of one tape.
    """

    marks: Vector
    distances: Vector
    sigmas: Vector
    mark_sigmas: Vector
    tape_sigma: float
    middle: Vector
    normal: Vector

    def misfit(self, points: Vector) -> Vector:
        """Sum of squared normalised residuals at points (..., 3)."""
        reach = np.linalg.norm(points[..., None, :] - self.marks, axis=-1)
        return np.asarray((((self.distances - reach) / self.sigmas) ** 2).sum(axis=-1))


def from_tapes(marks: Sequence[TapeMark], distances_mm: Sequence[float], tape_plus_minus_mm: float) -> Fixes:
    """Where the point is. `tape_plus_minus_mm` is the 95 % doubt of one tape reading.

    Raises InputError for fewer than three tapes, marks in one line, or tapes that cannot meet.
    """
    tapes = _checked(marks, distances_mm, tape_plus_minus_mm)
    found: list[Vector] = []
    for start in _starts(tapes):
        point = _refined(tapes, start)
        if all(np.linalg.norm(point - other) > SAME_MM for other in found):
            found.append(point)
    found.sort(key=lambda p: float(tapes.misfit(p)))
    best = float(tapes.misfit(found[0]))
    # a second answer stands only when its tapes fit about as well as those of the first
    rivals = [p for p in found if float(tapes.misfit(p)) - best < 9.0][:2]
    answers = [_fix(tapes, marks, p) for p in rivals]
    answers.sort(key=lambda a: float(a.point[2]))
    return Fixes(tuple(answers), len(distances_mm) > 3)


def _checked(marks: Sequence[TapeMark], distances: Sequence[float], tape: float) -> _Tapes:
    if len(marks) < 3:
        raise InputError(f"{len(marks)} tapes are not enough: three give a place, a fourth checks it")
    points = np.array([m.point for m in marks], dtype=float)
    reach = np.array(distances, dtype=float)
    if (reach <= 0).any():
        raise InputError(f"the tape from {marks[int(reach.argmin())].name} must be more than nothing")
    middle = points.mean(axis=0)
    _, spread, axes = np.linalg.svd(points - middle)
    if spread[1] < 1e-3 * max(spread[0], 1.0):
        raise InputError("the marks lie in one line: any place round that line fits; take one mark off to the side")
    offline = float(np.abs((points - middle) @ axes[1]).max())
    worst = max(m.plus_minus_mm for m in marks)
    if offline < CLEAR_OF_LINE * worst:
        raise InputError(
            f"the marks lie nearly in one line, {offline:.0f} mm off it, and are known to ± {worst:.1f} mm: "
            "take one mark farther off to the side"
        )
    sigmas = np.array([math.hypot(tape, m.plus_minus_mm) for m in marks]) / SIGMAS_IN_DOUBT
    own = np.array([m.plus_minus_mm for m in marks]) / SIGMAS_IN_DOUBT
    tape_sigma = max(tape / SIGMAS_IN_DOUBT, 1e-3)
    tapes = _Tapes(points, reach, np.maximum(sigmas, 1e-3), own, tape_sigma, middle, axes[2])
    _must_meet(tapes, marks, max(tape, 1.0))
    return tapes


def _must_meet(tapes: _Tapes, marks: Sequence[TapeMark], tape: float) -> None:
    """Two tapes whose ends cannot meet: the apex cannot exist whatever the third says."""
    for i in range(len(marks)):
        for j in range(i):
            apart = float(np.linalg.norm(tapes.marks[i] - tapes.marks[j]))
            a, b = float(tapes.distances[i]), float(tapes.distances[j])
            room = 3 * (tape + marks[i].plus_minus_mm + marks[j].plus_minus_mm)
            if a + b + room < apart or abs(a - b) - room > apart:
                raise InputError(
                    f"the tapes from {marks[j].name} and {marks[i].name} cannot meet: the marks are {apart:.0f} mm "
                    f"apart, the tapes {b:.0f} and {a:.0f} mm. Read them again, or check the marks"
                )


def _starts(tapes: _Tapes) -> list[Vector]:
    """A place on each side of the marks' plane: closed form from the linear differences, then the height."""
    rows = 2 * (tapes.marks[1:] - tapes.marks[0])
    right = (
        tapes.distances[0] ** 2
        - tapes.distances[1:] ** 2
        + (tapes.marks[1:] ** 2).sum(axis=1)
        - (tapes.marks[0] ** 2).sum()
    )
    flat = np.linalg.lstsq(rows, right, rcond=1e-6)[0]
    foot = flat - ((flat - tapes.middle) @ tapes.normal) * tapes.normal
    height = math.sqrt(max(0.0, float((tapes.distances**2 - ((tapes.marks - foot) ** 2).sum(axis=1)).mean())))
    height = max(height, 2.0)
    return [foot + height * tapes.normal, foot - height * tapes.normal]


def _refined(tapes: _Tapes, point: Vector) -> Vector:
    """Least squares by Levenberg-Marquardt from a start: (3,)."""

    def off(at: Vector) -> Vector:
        return np.asarray((tapes.distances - np.linalg.norm(at - tapes.marks, axis=1)) / tapes.sigmas)

    def slopes(at: Vector) -> Vector:
        gap = at - tapes.marks
        reach = np.maximum(np.linalg.norm(gap, axis=1), 1e-9)
        return np.asarray(-gap / reach[:, None] / tapes.sigmas[:, None])

    return np.asarray(least_squares(off, point, slopes, method="lm", xtol=1e-12, ftol=1e-12, gtol=1e-12).x)


def _fix(tapes: _Tapes, marks: Sequence[TapeMark], point: Vector) -> Fix:
    reach = np.linalg.norm(point - tapes.marks, axis=1)
    residuals = tapes.distances - reach
    radius, weak_axis, weak = _doubt(tapes, point)
    spare = len(residuals) - 3
    agrees = spare <= 0 or float(chdtrc(spare, float(tapes.misfit(point)))) >= OFF_CHANCE
    said = _said(tapes, marks, residuals, agrees, weak_axis, weak)
    return Fix(point, radius, residuals, weak_axis, weak, agrees, said)


@lru_cache(maxsize=1)
def _normals() -> Vector:
    """Evenly spread normal deviates (SAMPLES, 12) [-]: three tapes, nine coordinates; the same for every call."""
    from scipy.stats import qmc  # half a second to load: not while the program starts

    even = qmc.Sobol(12, scramble=True, seed=5).random(SAMPLES)
    return np.asarray(ndtri(np.clip(even, 1e-9, 1 - 1e-9)))


def _doubt(tapes: _Tapes, point: Vector) -> tuple[float, Vector, float]:
    """The radius that holds the true place 95 in 100 [mm], the worst known direction, and its half width [mm].

    Places are drawn by letting the best three tapes and their marks err and meeting them again, so that they follow
    the curved region that is allowed; each counts by how well all tapes fit there, over how densely it was drawn (the
    determinant of the three directions): the chance of each place when no place was likelier before measuring.
    """
    three = _best_three(tapes, point)
    drawn = _normals()[:, :3] * SPREAD
    marks = tapes.marks[three] + _normals()[:, 3:].reshape(-1, 3, 3) * tapes.mark_sigmas[three, None]
    reach = tapes.distances[three] + drawn * tapes.tape_sigma
    places, meets = _meet(marks, reach, point, tapes)
    if not meets.any():
        return WIDEST_MM, np.array([0.0, 0.0, 1.0]), WIDEST_MM
    places, marks, drawn = places[meets], marks[meets], drawn[meets]
    gaps = places[:, None, :] - marks
    long = np.linalg.norm(gaps, axis=2, keepdims=True)
    misfit = (((tapes.distances[three] - long[..., 0]) / tapes.tape_sigma) ** 2).sum(axis=1)
    others = [i for i in range(len(tapes.distances)) if i not in three]
    if others:
        off = tapes.distances[others] - np.linalg.norm(places[:, None, :] - tapes.marks[others], axis=2)
        misfit = misfit + ((off / tapes.sigmas[others]) ** 2).sum(axis=1)
    density = np.abs(np.linalg.det(gaps / long))
    weights = np.exp(-0.5 * (misfit - misfit.min()) + 0.5 * ((drawn / SPREAD) ** 2).sum(axis=1))
    weights /= np.maximum(density, 1e-6)
    away = places - point
    mean = (weights[:, None] * away).sum(axis=0) / weights.sum()
    _, axes = np.linalg.eigh(((away - mean) * weights[:, None]).T @ (away - mean))
    weak = axes[:, -1]
    radius = _quantile(np.linalg.norm(away, axis=1), weights, 0.95)
    return radius, weak, _quantile(np.abs(away @ weak), weights, 0.95)


def _best_three(tapes: _Tapes, point: Vector) -> list[int]:
    """The three tapes whose directions meet most squarely at a point."""
    gap = point - tapes.marks
    ways = gap / np.maximum(np.linalg.norm(gap, axis=1), 1e-9)[:, None] / tapes.sigmas[:, None]
    return list(max(itertools.combinations(range(len(ways)), 3), key=lambda t: abs(np.linalg.det(ways[list(t)]))))


def _meet(marks: Vector, reach: Vector, near: Vector, tapes: _Tapes) -> tuple[Vector, Vector]:
    """Where three tapes (n, 3) from marks (n, 3, 3) meet, on the side of `near`: places (n, 3), whether they do (n,).

    Closed form in the plane of the marks, e.g. Fang 1986 (from memory): along, across, then the height left over.
    """
    base = marks[:, 1] - marks[:, 0]
    d = np.linalg.norm(base, axis=1)
    along = base / d[:, None]
    normal = np.cross(along, marks[:, 2] - marks[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1), 1e-12)[:, None]
    normal *= np.where(normal @ tapes.normal < 0, -1.0, 1.0)[:, None]  # the same way up in every draw
    across = np.cross(normal, along)
    i = ((marks[:, 2] - marks[:, 0]) * along).sum(axis=1)
    j = ((marks[:, 2] - marks[:, 0]) * across).sum(axis=1)
    r = reach**2
    x = (r[:, 0] - r[:, 1] + d * d) / (2 * d)
    y = (r[:, 0] - r[:, 2] + i * i + j * j - 2 * i * x) / (2 * j)
    left = r[:, 0] - x * x - y * y
    side = 1.0 if (near - tapes.middle) @ tapes.normal >= 0 else -1.0
    z = side * np.sqrt(np.maximum(left, 0.0))
    places = marks[:, 0] + x[:, None] * along + y[:, None] * across + z[:, None] * normal
    return places, (left >= 0) & (reach > 0).all(axis=1)


def _quantile(values: Vector, weights: Vector, share: float) -> float:
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(total, share * total[-1])])


def _said(
    tapes: _Tapes, marks: Sequence[TapeMark], residuals: Vector, agrees: bool, weak_axis: Vector, weak: float
) -> tuple[str, ...]:
    said = []
    if not agrees:
        worst = int(np.abs(residuals / tapes.sigmas).argmax())
        said.append(
            f"the tapes do not agree: the one from {marks[worst].name} is {abs(residuals[worst]):.0f} mm too "
            f"{'long' if residuals[worst] > 0 else 'short'}. Read it again, or check where that mark is"
        )
    tape = float(tapes.sigmas.min()) * SIGMAS_IN_DOUBT
    if weak > BADLY_PLACED * tape:
        said.append(
            f"the marks are badly placed for this point: {_axis_word(weak_axis)} is known only to ± {weak:.0f} mm. "
            f"Add a tape that pulls {_axis_word(weak_axis)}"
        )
    return tuple(said)


def _axis_word(axis: Vector) -> str:
    return ("along the vehicle", "across it", "up and down")[int(np.abs(axis).argmax())]
