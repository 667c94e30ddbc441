"""How far operations at the bench usually go off: one deviation of each, which a shop's own fit log may correct."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..space import Vector, chain
from .built import Chain


@dataclass(frozen=True)
class Spreads:
    """One deviation of: a cut's length [mm]; how far off square a saw cuts [deg]; a stock bend's angle [deg] and radius
    [share of it]; a clock set by tape round the tube [mm of it]; what a tack, and later the weld, pulls a joint each
    way [deg]. Common practice, no source.
    """

    length_mm: float = 0.5
    saw_deg: float = 0.15
    angle_deg: float = 0.4
    radius_share: float = 0.01
    clock_mm: float = 1.0
    tack_deg: float = 0.25
    weld_deg: float = 0.2

    @property
    def joint_deg(self) -> float:
        """One deviation of how a joint stands each way when it is tacked: two faces and the tacks [deg]."""
        return float(np.hypot(np.sqrt(2.0) * self.saw_deg, self.tack_deg))


def spreads_of(plan: Chain, spreads: Spreads) -> Vector:
    """One deviation of every error of a chain (n, 5); a part's own size is its maker's and taken as true."""
    out = np.zeros((len(plan.steps), 5))
    kind = plan.steps[:, 0]
    out[:, 0] = np.where(kind == chain.LEG, spreads.length_mm, np.where(kind == chain.RIGID, 0.0, spreads.angle_deg))
    out[:, 1] = np.where(kind == chain.BEND, spreads.radius_share * plan.steps[:, 2], 0.0)
    out[:, 2] = np.where(kind == chain.LEG, 0.0, np.degrees(spreads.clock_mm / (plan.od_mm / 2)))
    # what is one piece has no joint within it
    joint = np.array([k > 0 and plan.piece[k] != plan.piece[k - 1] for k in range(len(plan.steps))])
    out[joint, 3:] = spreads.joint_deg
    return out
