"""Nesting: pieces laid into bars and bends of the shelf, and what must be bought.

Glossary: a *bar* is straight tube, flat or rod to cut from, a *cut* a length wanted from one, a *layout* how one bar
is cut; *kerf* is what the saw takes, *facing* what is left on a piece to be dressed square; a *rest* is what is left of
a bar, an *offcut* a rest long enough to keep.
"""

from .bars import AIMS, Aim, Bar, Cut, Layout, Nest, Problem, Saw, Solve, nest, within
from .bends import BendNest, nest_bends, plan_of
from .bill import GROUPS, PartsLine, by_supplier, parts_list
from .job import BOUGHT, JOB_AIMS, JobAim, Stocked, TubeNest, is_tube, nest_job
from .kept import (
    changed_since,
    from_kept,
    name_of,
    nest_from_kept,
    nest_to_keep,
    plan_from_kept,
    plan_to_keep,
    problem_from_kept,
    problem_to_keep,
    rests_of_bars,
    rests_of_bends,
    to_keep,
)
from .kits import KitTried, compare_kits
from .spare_pieces import Spare, spares
from .yields import yield_of

__all__ = [
    "AIMS",
    "BOUGHT",
    "GROUPS",
    "JOB_AIMS",
    "Aim",
    "Bar",
    "BendNest",
    "Cut",
    "JobAim",
    "KitTried",
    "Layout",
    "Nest",
    "PartsLine",
    "Problem",
    "Saw",
    "Solve",
    "Spare",
    "Stocked",
    "TubeNest",
    "by_supplier",
    "changed_since",
    "compare_kits",
    "from_kept",
    "is_tube",
    "name_of",
    "nest",
    "nest_bends",
    "nest_from_kept",
    "nest_job",
    "nest_to_keep",
    "parts_list",
    "plan_from_kept",
    "plan_of",
    "plan_to_keep",
    "problem_from_kept",
    "problem_to_keep",
    "rests_of_bars",
    "rests_of_bends",
    "spares",
    "to_keep",
    "within",
    "yield_of",
]
