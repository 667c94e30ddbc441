"""How a system hangs: what its hangers carry, how far it sags and what swings.

Glossary: a hanger is a chain from a *hang point* of the vehicle by a bracket to the *pin* of a rubber, by the rubber to
the *eye* of a rod, and by the rod to its *place* on pipe or part; what goes down under its own weight *sags*; a *mode*
is a way it swings by itself.
"""

from .brackets import Bracket, bend_allowance, bracket_of, bracket_template
from .faults import SPOILS, HangCode, HangFault, firing_hz, hang_faults
from .frame import Frame, Hung, Member, Mode, Solved, Spring
from .hardware_of import bracket_for, rod_for
from .hung import STATES, WET_KG_M, Carried, HungSystem, Strained, hang
from .model import How, bend_factor, model_of, pin_of
from .parts import hanging_parts
from .proposing import WEIGHS, HangAnswer, HangProposal, NewPoint, propose_hangers
from .rods import Rod, RodBend, bending_mpa, rod_of
from .rubbers import RUBBERS, RubberStiffness, hold, rubber_of, stiffness_of

__all__ = [
    "RUBBERS",
    "SPOILS",
    "STATES",
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
    "HungSystem",
    "Member",
    "Mode",
    "NewPoint",
    "Rod",
    "RodBend",
    "RubberStiffness",
    "Solved",
    "Spring",
    "Strained",
    "bend_allowance",
    "bend_factor",
    "bending_mpa",
    "bracket_for",
    "bracket_of",
    "bracket_template",
    "firing_hz",
    "hang",
    "hang_faults",
    "hanging_parts",
    "hold",
    "model_of",
    "pin_of",
    "propose_hangers",
    "rod_for",
    "rod_of",
    "rubber_of",
    "stiffness_of",
]
