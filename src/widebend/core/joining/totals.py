"""Every weld of a system, and what all of them come to."""

from __future__ import annotations

from collections.abc import Sequence

from ..cutting import CutList
from ..laying import Obstacle, System
from ..records import Design
from ..welding import Welds
from .fixed_welds import fixed_welds
from .joints import WeldJoint, joints_of
from .weld_plan import WeldPlan, plan_of


def weld_totals(plans: Sequence[WeldPlan]) -> Welds:
    """The total of all joints: those that come apart are counted, what is refused is not welded."""
    made = [plan for plan in plans if plan.figures]
    return Welds(
        sum(p.joint.alike for p in plans),
        sum(p.joint.weld_mm * p.joint.alike for p in made),
        sum(p.arc_min for p in made),
        sum(p.filler_g for p in made),
        sum(p.gas_l for p in made),
    )


def all_welds(design: Design, system: System, lists: Sequence[CutList]) -> Welds:
    """The same of a whole system, by the cut lists of its runs: what quote, hours and parts list are made from."""
    welding, rules = design.settings.welding, design.settings.rules
    return weld_totals([plan_of(joint, welding, rules) for joint in every_joint(design, system, lists, (), 0.0)])


def every_joint(
    design: Design, system: System, lists: Sequence[CutList], near: Sequence[Obstacle], room_mm: float
) -> list[WeldJoint]:
    """The joints of all runs, then all else that is welded."""
    return [*joints_of(design, system, lists, near, room_mm), *fixed_welds(design, system, lists)]
