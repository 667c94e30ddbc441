"""What is cut from what: pieces laid into bars and bends of the shelf, and what must be bought.

Glossary: a *bar* is straight tube, flat or rod to cut from, a *cut* a length wanted from one, a *layout* how one bar
is cut; *kerf* is what the saw takes, *facing* what is left on a piece to be dressed square; a *rest* is what is left of
a bar, an *offcut* a rest long enough to keep.
"""

from .bars import AIMS, Aim, Bar, Cut, Layout, Nest, Saw, nest
from .bends import BendNest, nest_bends, plan_of
from .bill import PartsLine, by_supplier, parts_list
from .job import BOUGHT, JOB_AIMS, JobAim, Stocked, TubeNest, is_tube, nest_job
from .kept import (
    changed_since,
    from_kept,
    plan_from_kept,
    plan_to_keep,
    rests_of_bars,
    rests_of_bends,
    to_keep,
)
from .spare_pieces import Spare, spares
from .yields import yield_of

__all__ = [
    "AIMS",
    "BOUGHT",
    "JOB_AIMS",
    "Aim",
    "Bar",
    "BendNest",
    "Cut",
    "JobAim",
    "Layout",
    "Nest",
    "PartsLine",
    "Saw",
    "Spare",
    "Stocked",
    "TubeNest",
    "by_supplier",
    "changed_since",
    "from_kept",
    "is_tube",
    "nest",
    "nest_bends",
    "nest_job",
    "parts_list",
    "plan_from_kept",
    "plan_of",
    "plan_to_keep",
    "rests_of_bars",
    "rests_of_bends",
    "spares",
    "to_keep",
    "yield_of",
]
