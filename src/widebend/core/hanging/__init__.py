"""How a system hangs: what its hangers carry, how far it sags and what swings.

Glossary: a hanger is a chain from a *hang point* of the vehicle by a bracket to the *pin* of a rubber, by the rubber to
the *eye* of a rod, and by the rod to its *place* on pipe or part; what goes down under its own weight *sags*; a *mode*
is a way it swings by itself.
"""

from .faults import SPOILS, HangCode, HangFault, firing_hz, hang_faults
from .frame import Frame, Hung, Member, Mode, Solved, Spring
from .hung import Carried, HungSystem, Strained, hang
from .model import How, bend_factor, model_of, pin_of
from .proposing import WEIGHS, HangAnswer, HangProposal, NewPoint, propose_hangers
from .rubbers import RUBBERS, RubberStiffness, hold, rubber_of, stiffness_of

__all__ = [
    "RUBBERS",
    "SPOILS",
    "WEIGHS",
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
    "RubberStiffness",
    "Solved",
    "Spring",
    "Strained",
    "bend_factor",
    "firing_hz",
    "hang",
    "hang_faults",
    "hold",
    "model_of",
    "pin_of",
    "propose_hangers",
    "rubber_of",
    "stiffness_of",
]
