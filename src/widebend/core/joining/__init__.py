"""How a system is put together: its joints, how each is welded, in which order, with what care, and how it is refitted.

Glossary: a *joint* is where two pieces of metal meet; it is *welded*, or *comes apart*; its *sides* are the two metals;
*shut* sides are those no torch reaches; the *root* is the weld's inside.
"""

from .cautions import STANDING, Caution, joint_cautions
from .joints import ROUND, WeldJoint, joints_of
from .refit import GASKETS, Named, RefitStep, reading_fault, refit_steps, torques
from .totals import all_welds, every_joint, weld_totals
from .weld_plan import (
    Figure,
    WeldPlan,
    plan_of,
    pull_toward,
    quarters_of,
    refusal,
    tack_clocks,
    weld_order,
)

__all__ = [
    "GASKETS",
    "ROUND",
    "STANDING",
    "Caution",
    "Figure",
    "Named",
    "RefitStep",
    "WeldJoint",
    "WeldPlan",
    "all_welds",
    "every_joint",
    "joint_cautions",
    "joints_of",
    "plan_of",
    "pull_toward",
    "quarters_of",
    "reading_fault",
    "refit_steps",
    "refusal",
    "tack_clocks",
    "torques",
    "weld_order",
    "weld_totals",
]
