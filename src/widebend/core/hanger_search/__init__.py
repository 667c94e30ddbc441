"""Where to hang a system: points and places tried by the rules themselves, new points, props while it is tacked, how a
shop likes to hang.

Glossary: a *candidate* is a hanger that a point of the vehicle reaches; a *set* is hangers tried together; a *school*
is how a shop hangs, whatever points are chosen.
"""

from .new_points import OVER_MM, NewPoint
from .proposing import NEEDS, WEIGHS, HangAnswer, HangProposal, propose_hangers
from .propping import MockUp, Prop, mock_up
from .schools import in_school

__all__ = [
    "NEEDS",
    "OVER_MM",
    "WEIGHS",
    "HangAnswer",
    "HangProposal",
    "MockUp",
    "NewPoint",
    "Prop",
    "in_school",
    "mock_up",
    "propose_hangers",
]
