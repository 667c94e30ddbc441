"""How a system hangs: what its hangers carry, how far it sags and what swings.

Glossary: a hanger is a chain from a *hang point* of the vehicle by a bracket to the *pin* of a rubber, by the rubber to
the *eye* of a rod, and by the rod to its *place* on pipe or part; what goes down under its own weight *sags*; a *mode*
is a way it swings by itself.
"""

from .brackets import Bracket, bend_allowance, bracket_of, bracket_template, tube_bracket_of
from .faults import SPOILS, HangCode, HangFault, beyond_shop, far_from, hang_faults
from .frame import Frame, Hung, Member, Mode, Solved, Spring, as_kg, lever, weight
from .hardware_of import TIE_OVER_MM, bracket_for, bracket_way, has_rod, old_rod_wants, rod_for, tie_for
from .hung import WET_KG_M, Carried, HungSystem, Strained, hang
from .model import Eye, HangState, Model, bend_factor, held_places, model_of, pin_of, usual_kg
from .parts import MetalNest, from_a_metre, hanging_metal, hanging_parts
from .rod_on_paper import rod_template
from .rods import RODS_MM, YIELD_MPA, Rod, RodBend, bending_mpa, rod_of, rolled_mm
from .rubbers import RUBBERS, RubberStiffness, hold, rubber_of, stiffness_of
from .states import HungState, goes_of, hung_states, lost_states

__all__ = [
    "RODS_MM",
    "RUBBERS",
    "SPOILS",
    "TIE_OVER_MM",
    "WET_KG_M",
    "YIELD_MPA",
    "Bracket",
    "Carried",
    "Eye",
    "Frame",
    "HangCode",
    "HangFault",
    "HangState",
    "Hung",
    "HungState",
    "HungSystem",
    "Member",
    "MetalNest",
    "Mode",
    "Model",
    "Rod",
    "RodBend",
    "RubberStiffness",
    "Solved",
    "Spring",
    "Strained",
    "as_kg",
    "bend_allowance",
    "bend_factor",
    "bending_mpa",
    "beyond_shop",
    "bracket_for",
    "bracket_of",
    "bracket_template",
    "bracket_way",
    "far_from",
    "from_a_metre",
    "goes_of",
    "hang",
    "hang_faults",
    "hanging_metal",
    "hanging_parts",
    "has_rod",
    "held_places",
    "hold",
    "hung_states",
    "lever",
    "lost_states",
    "model_of",
    "old_rod_wants",
    "pin_of",
    "rod_for",
    "rod_of",
    "rod_template",
    "rolled_mm",
    "rubber_of",
    "stiffness_of",
    "tie_for",
    "tube_bracket_of",
    "usual_kg",
    "weight",
]
