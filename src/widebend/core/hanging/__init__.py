"""How a system hangs: what its hangers carry, how far it sags and what swings.

Glossary: a hanger is a chain from a *hang point* of the vehicle by a bracket to the *pin* of a rubber, by the rubber to
the *eye* of a rod, and by the rod to its *place* on pipe or part; what goes down under its own weight *sags*; a *mode*
is a way it swings by itself.
"""

from .brackets import Bracket, bend_allowance, bracket_of, bracket_template, tube_bracket_of
from .faults import SPOILS, HangCode, HangFault, beyond_shop, hang_faults
from .frame import Frame, Hung, Member, Mode, Solved, Spring
from .hardware_of import bracket_for, bracket_way, has_rod, old_rod_wants, rod_for, tie_for
from .hung import WET_KG_M, Carried, HungSystem, Strained, hang
from .model import How, bend_factor, held_places, model_of, pin_of, usual_kg
from .new_points import OVER_MM, NewPoint
from .parts import MetalNest, from_a_metre, hanging_metal, hanging_parts
from .proposing import NEEDS, WEIGHS, HangAnswer, HangProposal, propose_hangers
from .propping import MockUp, Prop, mock_up
from .rod_on_paper import rod_template
from .rods import RODS_MM, ROLLED_DEG, Rod, RodBend, bending_mpa, rod_of
from .rubbers import RUBBERS, RubberStiffness, hold, rubber_of, stiffness_of
from .schools import in_school
from .states import HungState, goes_of, hung_states, lost_states

__all__ = [
    "NEEDS",
    "OVER_MM",
    "RODS_MM",
    "ROLLED_DEG",
    "RUBBERS",
    "SPOILS",
    "WEIGHS",
    "WET_KG_M",
    "Bracket",
    "Carried",
    "Frame",
    "HangAnswer",
    "HangCode",
    "HangFault",
    "HangProposal",
    "How",
    "Hung",
    "HungState",
    "HungSystem",
    "Member",
    "MetalNest",
    "MockUp",
    "Mode",
    "NewPoint",
    "Prop",
    "Rod",
    "RodBend",
    "RubberStiffness",
    "Solved",
    "Spring",
    "Strained",
    "bend_allowance",
    "bend_factor",
    "bending_mpa",
    "beyond_shop",
    "bracket_for",
    "bracket_of",
    "bracket_template",
    "bracket_way",
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
    "in_school",
    "lost_states",
    "mock_up",
    "model_of",
    "old_rod_wants",
    "pin_of",
    "propose_hangers",
    "rod_for",
    "rod_of",
    "rod_template",
    "rubber_of",
    "stiffness_of",
    "tie_for",
    "tube_bracket_of",
    "usual_kg",
]
