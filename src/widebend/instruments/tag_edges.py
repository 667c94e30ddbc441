"""Where a printed tag's corners are to a part of a pixel: its four edges are traced where black becomes white, and
where two of them cross is a corner. A corner looked for by itself takes the code's own cells for edges where the tag is
small, and one round a pipe has bent edges.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.space import Vector

CELLS = 8.0  # across a tag, of which the outer ones are black
INSIDE = 0.10  # of an edge at each end that is not looked at: its corners are rounded by blur
DEEP_CELLS, MOST_PX, FINE_PX = 0.8, 6.0, 0.25  # how far in and out of an edge is looked, and in what steps
LEAST_POINTS, MOST_POINTS, OFF_PX = 6, 40, 1.0
STEEP = 30.0  # of 255: less than this between inside and outside is no edge
ROUNDS = 4


def sharpened(picture: Any, corners: Vector, *, bent: bool) -> Vector | None:
    """A tag's corners (4, 2) [pixels] by its edges, from where they roughly are; `bent` edges are arcs. None where an
    edge cannot be traced.
    """
    edges = []
    for k in range(4):
        a, b = corners[k], corners[(k + 1) % 4]
        curve = _edge(picture, a, b, corners.mean(axis=0), bent=bent)
        if curve is None:
            return None
        edges.append((a, b, curve))
    return np.array([_crossing(edges[k - 1], edges[k]) for k in range(4)])


def _edge(picture: Any, a: Vector, b: Vector, middle: Vector, *, bent: bool) -> Vector | None:
    """How far out of the line from a to b an edge runs, as a polynomial of the share along it: lowest power first."""
    import cv2

    long = float(np.linalg.norm(b - a))
    out = _out(a, b, middle)
    deep = min(DEEP_CELLS * long / CELLS, MOST_PX)
    share = np.linspace(INSIDE, 1.0 - INSIDE, int(np.clip(long, LEAST_POINTS, MOST_POINTS)))
    steps = np.arange(-deep, deep + FINE_PX / 2, FINE_PX)
    at = (a + share[:, None] * (b - a))[:, None] + steps[:, None] * out
    if (at < 1).any() or (at > np.array(picture.shape[1::-1]) - 2).any():
        return None
    flat = at.astype(np.float32)
    values = cv2.remap(picture, flat[..., 0], flat[..., 1], cv2.INTER_LINEAR).astype(float)
    black, white = values[:, : len(steps) // 4].mean(), values[:, -(len(steps) // 4) :].mean()
    if white - black < STEEP:
        return None
    level = (black + white) / 2
    over = values > level
    crosses = over[:, 1:] & ~over[:, :-1]
    good = crosses.any(axis=1)
    if good.sum() < LEAST_POINTS:
        return None
    # of several crossings the one nearest the line that was found first
    far = np.where(crosses, np.abs(steps[1:]), np.inf)
    k = far.argmin(axis=1)[good]
    rows = np.flatnonzero(good)
    before, after = values[rows, k], values[rows, k + 1]
    where = steps[k] + FINE_PX * (level - before) / (after - before)
    return _fitted(share[good], where, 2 if bent else 1)


def _out(a: Vector, b: Vector, middle: Vector) -> Vector:
    way = (b - a) / np.linalg.norm(b - a)
    out = np.array([-way[1], way[0]])
    return out if (a - middle) @ out > 0 else -out


def _fitted(share: Vector, where: Vector, power: int) -> Vector:
    """The polynomial through most of the places; those far off it are left out."""
    keep = np.ones(len(share), dtype=bool)
    for _ in range(ROUNDS):
        rows = np.vander(share, power + 1, increasing=True)
        curve, *_ = np.linalg.lstsq(rows[keep], where[keep], rcond=None)
        off = np.abs(rows @ curve - where)
        keep = off < max(3.0 * float(np.median(off[keep])), 0.15)
    return np.asarray(curve)


def _crossing(first: tuple[Vector, Vector, Vector], second: tuple[Vector, Vector, Vector]) -> Vector:
    """Where one edge, near its end, crosses the next, near its beginning (2,)."""
    shares = np.array([1.0, 0.0])
    middle = (first[0] + second[1]) / 2
    for _ in range(ROUNDS):
        (p, dp), (q, dq) = _along(first, shares[0], middle), _along(second, shares[1], middle)
        shares = shares - np.linalg.solve(np.column_stack([dp, -dq]), p - q)
    return _along(first, shares[0], middle)[0]


def _along(edge: tuple[Vector, Vector, Vector], share: float, middle: Vector) -> tuple[Vector, Vector]:
    """A place of an edge (2,) and its derivative by the share along it."""
    a, b, curve = edge
    out, powers = _out(a, b, middle), np.arange(len(curve))
    off = curve @ share**powers
    slope = curve[1:] @ (powers[1:] * share ** powers[:-1])
    return a + share * (b - a) + off * out, (b - a) + slope * out
