"""The work of the bench: pieces of metal, marks, stock, offcuts, hardware of joints, what a spoilt piece still makes.

Glossary: the *heel* is a bend's outer line and the *throat* its inner one; a *kept leg* is straight that stays on a
stock bend; a *roll mark* is the turn between two bends as an arc on the tube's outside; *seams* are what is welded;
an *offcut* is what is left of a stock bend.
"""

from .bench_picture import Picture, hand_of, on_bench, witness_marks
from .bends_at_hand import USEFUL_DEG, WHOLE_DEG, BendPlan, BendSource, Offcut, stock_for
from .cut_pieces import LEAST_ASKEW_DEG, CutPiece, FixedMark, falls_on, shape_of
from .joint_hardware import Fitting, fittings
from .lists import (
    CutList,
    cut_list,
    cut_lists,
    cut_with_rests,
    least_slice_clr,
    seams,
    slice_heel_and_throat,
    tube_mass_per_metre,
)
from .pricing import price_of
from .reuse import CameOut, Fit, as_drawn_again, came_out, fit
from .roll import roll_mark
from .salvage import WENT_WRONG, rescue
from .sliced_bends import SlicedBend, sliced_bends, tube_at
from .stepped_slices import stepped
from .trims import (
    dart,
    off_at,
    slice_bend,
    tilt_by_cut,
    tilt_by_flip,
    tilt_by_reclocking,
    tilt_from_gap,
    tilt_from_offset,
)
from .tube import USUAL_OD_MM, circumference, slanted_circumference
from .within_reach import out_of_reach

__all__ = [
    "LEAST_ASKEW_DEG",
    "USEFUL_DEG",
    "USUAL_OD_MM",
    "WENT_WRONG",
    "WHOLE_DEG",
    "BendPlan",
    "BendSource",
    "CameOut",
    "CutList",
    "CutPiece",
    "Fit",
    "Fitting",
    "FixedMark",
    "Offcut",
    "Picture",
    "SlicedBend",
    "as_drawn_again",
    "came_out",
    "circumference",
    "cut_list",
    "cut_lists",
    "cut_with_rests",
    "dart",
    "falls_on",
    "fit",
    "fittings",
    "hand_of",
    "least_slice_clr",
    "off_at",
    "on_bench",
    "out_of_reach",
    "price_of",
    "rescue",
    "roll_mark",
    "seams",
    "shape_of",
    "slanted_circumference",
    "slice_bend",
    "slice_heel_and_throat",
    "sliced_bends",
    "stepped",
    "stock_for",
    "tilt_by_cut",
    "tilt_by_flip",
    "tilt_by_reclocking",
    "tilt_from_gap",
    "tilt_from_offset",
    "tube_at",
    "tube_mass_per_metre",
    "witness_marks",
]
