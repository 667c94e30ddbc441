"""One adjustment of all photos, lenses and tags: robust least squares with exact derivatives, and its covariance.

Gauss-Newton after Levenberg and Marquardt on the normal equations of all unknowns; what is far off for its photo's
sharpness counts little (Geman and McClure's weight) until it is left out for good. Triggs and others 2000, "Bundle
adjustment - a modern synthesis".
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.linalg import cho_factor, cho_solve

from ..space import Vector
from .lens import FIGURES
from .pose_estimate import Places, PoseEstimate, left_over, stepped
from .sightings import IndexArray, Table
from .square import skew
from .tags import job_of

ROUNDS, LITTLE_BETTER, ALL_BUT_STILL = 40, 1e-4, 1e-6
# how far a lens's figures may be from where they start (one deviation): common practice, no source
FOCAL_SHARE, MIDDLE_SHARE, BENT, ASIDE = 0.15, 0.01, 0.3, 0.005
KNOWN_FOCAL_SHARE = 0.05
SCALE_DOUBT = 0.02  # of a printer nobody measured
RADIUS_DOUBT_MM = 40.0
TAPE_DOUBT_MM = 0.5  # of a tape read to the millimetre, one deviation
LEAST_PX = 0.03  # no photo is sharper than this
FIRST, LEAST_DAMP = 1e3, 1e-13
NULL_TOL, RIDGE, DATUM_WEIGHT = 1e-18, 1e-10, 1e3  # of a matrix whose diagonal is one
OUTLIER = 3.5  # of its photo's deviations: a sighting farther off is left out


@dataclass(frozen=True)
class Taped:
    """A length taped between the places of two tags [mm], and its deviation."""

    first: int
    second: int
    length_mm: float
    doubt_mm: float = TAPE_DOUBT_MM


@dataclass(frozen=True)
class Adjusted:
    """The outcome of an adjustment: the poses, which sightings are inliers (n,), each photo's sharpness [pixels], the
    normal matrix of all unknowns and their places, what tapes are off [mm].
    """

    at: PoseEstimate
    inliers: IndexArray
    corner_sigma_px: Vector
    normal: Vector
    places: Places
    tape_off: tuple[float, ...]


OnProgress = Callable[[str, float], None]


def adjusted(
    table: Table, start: PoseEstimate, scale: tuple[float, float], tapes: Sequence[Taped], tell: OnProgress
) -> Adjusted:
    """Adjust everything that `start` has placed; `scale` is what the printed bar says, and its deviation."""
    places, prior = Places.of(table), _priors(table, start, scale)
    sharp = np.full(len(table.photos), 2.0)
    at, inliers = start, np.ones(len(table.photo), dtype=bool)
    for stage, gate in enumerate((8.0, 4.0, OUTLIER)):
        tell("all photos and tags at once", 0.3 + 0.2 * stage)
        at = _settled(table, at, places, prior, tapes, sharp, gate)
        sharp = _corner_sigma_px(table, at, gate)
    for _ in range(2):  # what is not believed is left out, and the rest decides
        inliers = _off(table, at, sharp) < OUTLIER
        at = _settled(table.only(inliers), at, places, prior, tapes, sharp, np.inf)
        sharp = _corner_sigma_px(table.only(inliers), at, np.inf, len(prior))
    normal, *_ = _normal(table.only(inliers), at, places, prior, tapes, sharp, np.inf)
    return Adjusted(at, inliers, sharp, normal, places, tuple(_tape(at, table, t)[0] for t in tapes))


def _priors(table: Table, start: PoseEstimate, scale: tuple[float, float]) -> Vector:
    """Where lenses, scale and radii are held to, and how fast: rows of (place, value, 1 / deviation)."""
    rows = []
    for k, name in enumerate(table.lenses):
        photo = next(p for p in table.photos if p.lens == name)
        first, focal = photo.first_lens, KNOWN_FOCAL_SHARE if photo.focal_px else FOCAL_SHARE
        off = (focal * first[0], MIDDLE_SHARE * photo.width, MIDDLE_SHARE * photo.width, BENT, BENT, BENT, ASIDE, ASIDE)
        rows += [(FIGURES * k + i, first[i], 1.0 / off[i]) for i in range(FIGURES)]
    places = Places.of(table)
    rows.append((places.scale, scale[0], 1.0 / scale[1]))
    rows += [(places.radius[k], start.radius[k], 1.0 / RADIUS_DOUBT_MM) for k in np.flatnonzero(table.cuff)]
    return np.array(rows)


def _values(at: PoseEstimate, table: Table) -> Vector:
    """Lenses, scale and radii in their places."""
    return np.concatenate([at.lens.ravel(), [at.scale], at.radius[table.cuff]])


def _off(table: Table, at: PoseEstimate, sharp: Vector) -> Vector:
    """How far off each sighting is (n,), in its photo's deviations."""
    left, _ = left_over(at, table)
    return np.asarray(np.sqrt((left**2).mean(axis=1)) / sharp[table.photo])


def _corner_sigma_px(table: Table, at: PoseEstimate, gate: float, unknowns: int = 0) -> Vector:
    """Each photo's deviation [pixels]: the middle one of what is left, or once the rest is left out the mean square,
    with what the unknowns have taken up.
    """
    left, _ = left_over(at, table)
    square = (left**2).mean(axis=1)
    count = 8.0 * len(square)
    free = max(0.2, 1.0 - (unknowns + 6.0 * (len(set(table.photo.tolist())) + len(set(table.body.tolist())))) / count)
    whole = float(np.sqrt(np.median(square) if np.isfinite(gate) else square.mean() / free))
    out = np.full(len(table.photos), max(LEAST_PX, whole))
    for k in set(table.photo.tolist()):
        mine = square[table.photo == k]
        if len(mine) >= 3:
            one = np.median(mine) if np.isfinite(gate) else mine.mean() / free
            share = len(mine) / (len(mine) + 4.0)  # a photo of few tags is as sharp as the others, mostly
            out[k] = max(LEAST_PX, float(np.sqrt(share * one + (1 - share) * whole**2)))
    return out


def roughly(table: Table, at: PoseEstimate) -> PoseEstimate:
    """A few rounds for what stands so far, no tape and no printed bar known; what has no sighting stays."""
    places, sharp = Places.of(table), np.full(len(table.photos), 3.0)
    return _settled(table, at, places, _priors(table, at, (at.scale, 1e-4)), (), sharp, 8.0, rounds=6)


def _settled(
    table: Table,
    at: PoseEstimate,
    places: Places,
    prior: Vector,
    tapes: Sequence[Taped],
    sharp: Vector,
    gate: float,
    rounds: int = ROUNDS,
) -> PoseEstimate:
    damp, (normal, slope, cost) = 1e-4, _normal(table, at, places, prior, tapes, sharp, gate)
    for _ in range(rounds):
        diagonal = np.diag(normal)
        # what no sighting says stays; the first photo stays, or all could float: but nothing else may be held back, a
        # tape is weak beside a thousand corners and would never stretch them
        held = damp * diagonal + np.where(diagonal > 0, 0.0, 1.0)
        held[places.of_photo(0)] += FIRST * diagonal[places.of_photo(0)]
        try:
            factor = cho_factor(normal + np.diag(held), check_finite=False)
            step = -cho_solve(factor, slope, check_finite=False)
        except np.linalg.LinAlgError:
            damp *= 10.0
            continue
        trial = stepped(at, step, places, table)
        found = _normal(table, trial, places, prior, tapes, sharp, gate)
        if found[2] < cost:
            better = cost - found[2]
            at, (normal, slope, cost), damp = trial, found, max(damp * 0.1, LEAST_DAMP)
            if better < (LITTLE_BETTER if np.isfinite(gate) else ALL_BUT_STILL) * cost:
                break
        else:
            damp *= 8.0
            if damp > 1e6:
                break
    return at


def _normal(
    table: Table, at: PoseEstimate, places: Places, prior: Vector, tapes: Sequence[Taped], sharp: Vector, gate: float
) -> tuple[Vector, Vector, float]:
    """The normal matrix, the slope and the cost at a standing."""
    left, by = left_over(at, table)
    off = np.sqrt((left**2).mean(axis=1)) / sharp[table.photo]
    share = (off / gate) ** 2 if np.isfinite(gate) else np.zeros(len(off))
    weight = 1.0 / (1.0 + share) ** 2 / sharp[table.photo] ** 2
    cost = float((8.0 * off**2 / (1.0 + share)).sum())
    rows = places.rows(table)
    normal, slope = np.zeros((places.count, places.count)), np.zeros(places.count)
    weighted = by * weight[:, None, None]
    np.add.at(normal, (rows[:, :, None], rows[:, None, :]), weighted.transpose(0, 2, 1) @ by)
    np.add.at(slope, rows, (weighted.transpose(0, 2, 1) @ left[..., None])[..., 0])
    held = prior[:, 0].astype(int)
    away = (_values(at, table)[held] - prior[:, 1]) * prior[:, 2]
    normal[held, held] += prior[:, 2] ** 2
    slope[held] += away * prior[:, 2]
    cost += float(away @ away)
    for tape in tapes:
        miss, by_tape = _tape(at, table, tape, places)
        if by_tape is not None:
            normal += np.outer(by_tape, by_tape) / tape.doubt_mm**2
            slope += by_tape * miss / tape.doubt_mm**2
            cost += (miss / tape.doubt_mm) ** 2
    return normal, slope, cost


def place_of(at: PoseEstimate, table: Table, number: int, places: Places | None = None) -> tuple[Vector, Vector]:
    """Where the place of a flat tag is (3,) [mm], and its derivative (3, unknowns) where they are given."""
    k = table.bodies.index(number)
    job = job_of(number)
    own = np.array(job.place if job else (0.0, 0.0, 0.0))
    turn = at.body_turn[k]
    where = at.body_place[k] + turn @ (own * at.scale)
    by = np.zeros((3, places.count if places else 0))
    if places:
        by[:, places.of_body(k)] = np.hstack([-skew(turn @ (own * at.scale)), np.eye(3)])
        by[:, places.scale] = turn @ own
    return where, by


def _tape(at: PoseEstimate, table: Table, tape: Taped, places: Places | None = None) -> tuple[float, Vector | None]:
    """How much longer what was taped stands than it was taped [mm], and the derivative; 0 where a tag was not seen."""
    if tape.first not in table.bodies or tape.second not in table.bodies:
        return 0.0, None
    (a, by_a), (b, by_b) = (place_of(at, table, number, places) for number in (tape.first, tape.second))
    long = float(np.linalg.norm(b - a))
    way = (b - a) / max(long, 1e-9)
    return long - tape.length_mm, way @ (by_b - by_a) if places else None


def covariance(normal: Vector, held: Vector) -> Vector:
    """Of all unknowns, where `held` (6, unknowns) says what fixes the whole in space: (unknowns, unknowns). What no
    sighting holds is as good as nowhere, not an error: its doubt is very large.
    """
    diagonal = np.diag(normal)
    by = 1.0 / np.sqrt(np.where(diagonal > NULL_TOL * diagonal.max(), diagonal, 1.0))
    even = normal * by[:, None] * by[None, :]
    rows = held * by[None, :]
    rows = rows / np.linalg.norm(rows, axis=1, keepdims=True)
    even = (even + even.T) / 2 + DATUM_WEIGHT * (rows.T @ rows) + RIDGE * np.eye(len(even))
    return np.asarray(cho_solve(cho_factor(even), np.eye(len(even))) * by[:, None] * by[None, :])
