"""The expected error of the rest: how far the end may miss, by the linear answer and by sampled builds, and what it
comes from.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..records import Design
from ..space import Vector
from .answering import target_of
from .built import at_point, built
from .log import AsBuilt, spreads_by
from .stacking import Stack, at_end

SAMPLES, DRAWN = 400, 20_000
FACTORS = ("cut", "radius", "clock", "tack", "tack")
OF_BEND = ("angle", *FACTORS[1:])


@dataclass(frozen=True)
class Outlook:
    """How the end lies if the rest is built as it stands: how far off it is expected [mm, deg], one deviation about
    that [mm], by the linear answer and by sampled builds; the chance that it meets its aim as a joint takes it up, both
    ways; what makes most of it, (piece from 0, operation, share), the most first.
    """

    off_mm: float
    off_deg: float
    linear_mm: float
    sampled_mm: float
    linear_meets: float
    sampled_meets: float
    shares: tuple[tuple[int, str, float], ...]


def to_come(design: Design, now: AsBuilt) -> Vector:
    """The covariance of the errors (5 n, 5 n): as found, and what welds still to be made will pull."""
    weld = spreads_by(design.settings.rules).weld_deg
    welded = {one.piece for one in design.fitted if one.run == now.run.id and one.state == "welded"}
    extra = np.zeros_like(now.spreads)
    for k, piece in enumerate(now.plan.piece):
        joint = k > 0 and now.plan.piece[k - 1] != piece
        if joint and now.run.pieces[piece].id not in welded:
            extra[k, 3:] = weld**2
    return now.found.spread + np.diag(extra.ravel())


def outlook_of(design: Design, now: AsBuilt) -> Outlook:
    """The expected error at the end of a run."""
    plan, errors, wide = now.plan, now.found.errors, to_come(design, now)
    rules, target = design.settings.rules, target_of(design, now)
    stack = at_end(plan, now.spreads, errors, wide)
    end = built(plan, errors)[-1]
    mean = np.concatenate([end[:, 3] - target[:, 3], end[:, 0] - target[:, 0]])
    rng = np.random.default_rng(1)
    linear = mean + rng.normal(size=(DRAWN, 6)) @ _root(_both(now, wide, errors)).T
    root = _root(wide)
    ends = np.array(
        [built(plan, errors + (root @ rng.normal(size=errors.size)).reshape(errors.shape))[-1] for _ in range(SAMPLES)]
    )
    sampled = np.concatenate([ends[:, :, 3] - target[:, 3], ends[:, :, 0] - target[:, 0]], axis=1)
    limits = float(rules.fit_mm), float(np.radians(rules.fit_deg))
    off = sampled[:, :3] - mean[:3]
    return Outlook(
        off_mm=float(np.linalg.norm(mean[:3])),
        off_deg=float(np.degrees(np.linalg.norm(mean[3:]))),
        linear_mm=stack.off_mm,
        sampled_mm=float(np.sqrt((off**2).sum(axis=1).mean())),
        linear_meets=_meets(linear, *limits),
        sampled_meets=_meets(sampled, *limits),
        shares=_shares(now, stack),
    )


def _both(now: AsBuilt, wide: Vector, errors: Vector) -> Vector:
    """The covariance of the end's place and flow together (6, 6)."""
    moves = now.found.moves(len(now.plan.steps) - 1)
    end = built(now.plan, errors)[-1]
    by = np.vstack([at_point(moves, end[:, 3]), np.cross(moves[:3].T, end[:, 0]).T])
    return np.asarray(by @ wide @ by.T)


def _root(wide: Vector) -> Vector:
    values, ways = np.linalg.eigh(wide)
    return np.asarray(ways * np.sqrt(np.maximum(values, 0.0)))


def _meets(off: Vector, most_mm: float, most_rad: float) -> float:
    near = (np.linalg.norm(off[:, :3], axis=1) <= most_mm) & (np.linalg.norm(off[:, 3:], axis=1) <= most_rad)
    return float(near.mean())


def _shares(now: AsBuilt, stack: Stack) -> tuple[tuple[int, str, float], ...]:
    added: dict[tuple[int, str], float] = {}
    for k, piece in enumerate(now.plan.piece):
        names = FACTORS if now.plan.steps[k, 0] == 0 else OF_BEND
        for name, share in zip(names, stack.shares[k], strict=True):
            added[piece, name] = added.get((piece, name), 0.0) + float(share)
    most = sorted(added.items(), key=lambda one: -one[1])
    return tuple((piece, name, share) for (piece, name), share in most if share > 0.02)
