"""Cautions before the step they belong to. Each defers to local codes, the maker, licensed practice.

Sources: docs/sources.md, *Cautions*.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ...facts import METALS
from ..laying import Obstacle
from ..review import Around, packed, point_gaps
from .joints import WeldJoint
from .weld_plan import WeldPlan

Before = Literal["get under", "get in", "clean", "tack", "weld", "purge", "first start"]
SPATTER_MM = 600.0  # what burns within this of a joint is named; combustibles in all 11 m (29 CFR 1910.252, NFPA 51B)
LADEN = ("fuel line", "fuel tank", "brake hose", "wiring", "rubber boot", "plastic")


@dataclass(frozen=True)
class Caution:
    """A caution: before which step it bites, in words, and where it is from."""

    before: Before
    words: str
    source: str


# those of every job under a vehicle
STANDING = (
    Caution(
        "get under",
        "Vehicle on a lift or on stands at the maker's points, rocked by hand before anybody goes under; pipe on a "
        "jack or a prop until it is tacked.",
        "common practice",
    ),
    Caution("get under", "A pipe that ran is hot for an hour, a catalyst longer.", "common practice"),
    Caution(
        "get in",
        "Old lagging and ring gaskets may hold asbestos: do not dry-brush or blow it; local rules say who takes "
        "it off.",
        "local codes",
    ),
    Caution(
        "get in",
        "Brake, steering, fuel or handbrake parts moved to get in are written down on the refit card and checked "
        "before the vehicle moves; where the law asks for it, by who is licensed.",
        "licensed practice",
    ),
    Caution(
        "clean",
        "No chlorinated cleaner near an arc or hot metal: it makes phosgene. Acetone, and let it dry.",
        "ANSI Z49.1, 29 CFR 1910.252",
    ),
    Caution(
        "tack",
        "Battery's minus off and control units as their maker asks; earth clamp on the pipe beside the joint, never so "
        "that current goes through a bearing, a hanger, a flex or a sensor.",
        "common practice",
    ),
    Caution(
        "tack",
        "Fire watch while it is hot and half an hour after, an hour by the later standard; extinguisher at hand, what "
        "burns gone for 11 m or covered.",
        "29 CFR 1910.252; NFPA 51B",
    ),
    Caution(
        "tack",
        "Every hollow that is shut (a double skin, a resonator's or muffler's shell, a capped pipe) is vented before "
        "it is heated: drill it or leave an end open. Shut, it bursts.",
        "29 CFR 1910.252(a)(3), ANSI Z49.1",
    ),
    Caution(
        "first start",
        "Started in the open or with extraction: carbon monoxide at 1200 ppm is an immediate danger to life.",
        "29 CFR, NIOSH pocket guide",
    ),
)


def joint_cautions(plan: WeldPlan, obstacles: Sequence[Obstacle]) -> list[Caution]:
    """Those of one joint, for what is welded and what is near it."""
    joint = plan.joint
    return [*_near(joint, obstacles), *_fume(joint), *_of_weld(plan)]


def _near(joint: WeldJoint, obstacles: Sequence[Obstacle]) -> Iterator[Caution]:
    laden = [o for o in obstacles if o.thing.heat_shy_what in LADEN]
    if not laden:
        return
    around: Around = packed(laden)
    far = point_gaps(np.array([joint.at.point]), around)[0]
    names: dict[str, float] = {}
    for obstacle, gap in zip(laden, far, strict=True):
        if gap - joint.od_mm / 2 < SPATTER_MM:
            names[obstacle.thing.name] = min(float(gap), names.get(obstacle.thing.name, np.inf))
    for name, gap in sorted(names.items(), key=lambda one: one[1]):
        near = f"The {name} is {max(0.0, gap - joint.od_mm / 2):.0f} mm from this joint"
        yield Caution("tack", f"{near}: cover it, or take the piece out to weld.", "29 CFR 1910.252")


def _fume(joint: WeldJoint) -> Iterator[Caution]:
    metals = {side.metal for side in joint.sides}
    if any(METALS[metal].is_stainless for metal in metals):
        words = "Stainless fume holds chromium VI: draw it off at the arc, 5 µg/m³ over a shift is the limit."
        yield Caution("weld", words, "29 CFR 1910.1026")
    if any(METALS[metal].is_coated for metal in metals) or any(side.surface == "coated" for side in joint.sides):
        words = "Coated: strip it first. Zinc fume gives metal-fume fever; aluminium spoils the weld."
        yield Caution("weld", words, "29 CFR 1910.1000")


OXY_FUEL = (
    "Cylinders upright and chained, oxygen apart from fuel; flashback arrestors at both; every connection soaped for "
    "leaks; acetylene never over 1 bar at the hose; no oil or grease near oxygen."
)


def _of_weld(plan: WeldPlan) -> Iterator[Caution]:
    if any(figure.what == "flame" for figure in plan.figures):
        yield Caution("weld", OXY_FUEL, "29 CFR 1910.253, ANSI Z49.1")
    if plan.shade:
        comfort = f", {plan.shade.comfort} for comfort" if plan.shade.comfort else ""
        words = f"Lens {plan.shade.least} at least{comfort} at {plan.amps:.0f} A; screens for who stands by."
        yield Caution("weld", words, "AWS/ANSI Z49.1, 29 CFR 1910.133")
    if plan.purge:
        words = "Argon is heavier than air and is not noticed: it fills pits and closed rooms. Under 19.5 % of oxygen "
        yield Caution("purge", words + "nobody stays.", "29 CFR 1910.146")
