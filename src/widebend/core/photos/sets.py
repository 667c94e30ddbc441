"""A second set of photos beside the first: the axle let down or jacked up, or the pipe tacked in. What stayed holds
it in the same frame; what did not has travelled.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..errors import InputError
from ..space import Vector
from .datum import Known
from .sightings import IndexArray, Photo
from .solving import SURE, KnownBeside, Solved, solve
from .tags import is_cuff

LEAST_STEADY, LAID_OVER = 4, 3  # tags that must agree; this many laid over each other agree by chance
STAYED_MM = 1.5  # beside both doubts: common practice, no source
MOVED_MM = 4.0  # less than this is no travel: common practice, no source
TRIES = 400


@dataclass(frozen=True)
class Travelled:
    """A tag that moved between two sets: which, how far (3,) [mm], how far that may be off [mm]."""

    number: int
    shift: Vector
    plus_minus_mm: float


def solve_beside(photos: Sequence[Photo], asked: KnownBeside, first: Solved) -> Solved:
    """Another set of photos, held by the tags that stayed where the first set has them. Raises InputError where fewer
    than four did.
    """
    free = solve(photos, replace(asked, tapes=(), known=Known({}, None, False, by_tags=False)))
    stayed = steady(first, free)
    if len(stayed) < LEAST_STEADY:
        raise InputError("fewer than four tags lie to each other as they did: leave the body's tags where they are")
    places = {number: tuple(map(float, tag.place)) for number in stayed if (tag := first.tag(number))}
    return solve(photos, replace(asked, tapes=(), known=Known(places, None, False, by_tags=False)))  # type: ignore[arg-type]


def steady(first: Solved, second: Solved) -> list[int]:
    """The most tags that lie to each other in both sets alike, scale aside within a hundredth."""
    both = [tag.number for tag in first.tags if second.tag(tag.number) and not is_cuff(tag.number)]
    if len(both) < LEAST_STEADY:
        return []
    a, b = (np.array([one.place for n in both if (one := found.tag(n))]) for found in (first, second))
    allowed = np.array([STAYED_MM + max(1.0, t.plus_minus_mm) for n in both if (t := first.tag(n))])
    rng, best = np.random.default_rng(len(both)), np.zeros(len(both), dtype=bool)
    for _ in range(TRIES):
        some = rng.choice(len(both), LAID_OVER, replace=False)
        fits = _fits(a, b, some, allowed)
        best = fits if fits.sum() > best.sum() else best
    if best.sum() >= LEAST_STEADY:
        best = _fits(a, b, np.flatnonzero(best), allowed)
    return [n for n, fine in zip(both, best, strict=True) if fine]


def _fits(a: Vector, b: Vector, some: IndexArray, allowed: Vector) -> IndexArray:
    """Which places agree when some of them are laid over each other (Umeyama 1991)."""
    mean_a, mean_b = a[some].mean(axis=0), b[some].mean(axis=0)
    u, s, vt = np.linalg.svd((a[some] - mean_a).T @ (b[some] - mean_b))
    flip = np.array([1.0, 1.0, np.sign(np.linalg.det(u @ vt))])
    turn = u @ np.diag(flip) @ vt
    spread = float(((b[some] - mean_b) ** 2).sum())
    scale = float((s * flip).sum()) / spread if spread > 0 else 1.0
    if abs(scale - 1.0) > 0.01:
        return np.zeros(len(a), dtype=bool)
    off = np.linalg.norm(a - (mean_a + scale * (b - mean_b) @ turn.T), axis=1)
    return np.asarray(off < allowed)


def travelled(first: Solved, second: Solved) -> list[Travelled]:
    """The tags that moved by more than both doubts."""
    out = []
    for tag in second.tags:
        was = first.tag(tag.number)
        if was is None:
            continue
        shift = tag.place - was.place if not is_cuff(tag.number) else tag.middle - was.middle
        mm = SURE * float(np.sqrt(np.linalg.eigvalsh(tag.place_spread + was.place_spread)[-1]))
        if np.linalg.norm(shift) > max(MOVED_MM, mm):
            out.append(Travelled(tag.number, shift, mm))
    return out
