"""Hours of each step of the work, by what the design counts: cuts, faces, joints by their reach, metres of weld.

What one of each takes is the shop's own figure; the defaults are common practice without a source.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import get_args

from ...facts import METALS
from ..cutting import CutList
from ..records import Design, Pricing, WorkStep
from ..welding import Welds

STEPS: tuple[WorkStep, ...] = get_args(WorkStep)
UNDER_VEHICLE = 2.0  # a joint made lying under a vehicle takes as long as two on the bench: common practice, no source
AT_VEHICLE = 2  # of a run, the first and the last are made there
JOINTS_A_REFIT = 4  # this many joints from one trial fit to the next: the same
SLOWER = {"TIG": 1.0, "MIG": 0.35, "stick": 0.5, "gas": 1.3}  # of TIG's time a metre: the same


@dataclass(frozen=True)
class StepEstimate:
    """A step: how many of what, and the minutes they take."""

    step: WorkStep
    count: float
    what: str
    minutes: float


def estimate(design: Design, lists: Sequence[CutList], welds: Welds, pricing: Pricing) -> tuple[StepEstimate, ...]:
    """Every step in the order of work, by the cut lists of the design's runs and all that is welded."""
    metal = [p for cuts in lists for p in cuts.pieces if p.kind != "part"]
    pieces, joints = sum(p.count for p in metal), welds.joints
    reached = joints + (UNDER_VEHICLE - 1.0) * sum(min(AT_VEHICLE, cuts.joints) for cuts in lists)
    weld_m = welds.weld_mm / 1000.0
    purged = joints if pricing.process == "TIG" and any(METALS[p.tube.material].is_purged for p in metal) else 0
    counts: dict[WorkStep, tuple[float, str]] = {
        "remove old": (1, "system"),
        "cut": (pieces, "pieces"),
        "face": (2 * pieces, "faces"),
        "fit up": (reached, "joints, those at the vehicle twice"),
        "tack": (joints, "joints"),
        "weld": (round(weld_m * SLOWER[pricing.process], 3), f"m of {pricing.process} weld"),
        "purge": (purged, "joints"),
        "hangers": (len(design.hangers), "hangers"),
        "refits": (math.ceil(joints / JOINTS_A_REFIT), "trial fits"),
        "finish": (joints, "joints"),
        "test": (1, "system"),
    }
    return tuple(
        StepEstimate(step, counts[step][0], counts[step][1], counts[step][0] * pricing.minutes.get(step, 0.0))
        for step in STEPS
    )


def estimated_h(steps: Sequence[StepEstimate]) -> float:
    """All of it in hours."""
    return sum(step.minutes for step in steps) / 60.0
