"""From placed tags to records, and tags stuck on known things.

Glossary: a *proposal* is something that tags can become, *beside* how it lies to what is there already; what is
*tacked* is pipe that hangs for the first time, with cuffs and discs on it; *stuck* is a tag on a vehicle that only the
simulated phone sees, *tagged* all of them.
"""

from .points import spot_proposal
from .proposal import Beside, Proposal, called
from .proposing import proposals
from .sticking import Stuck, Surface, Tagged, long_tape, stick, stood, taped_mm, view
from .tacked import Fitted, as_measures, beside_plan
from .travel import travels

__all__ = [
    "Beside",
    "Fitted",
    "Proposal",
    "Stuck",
    "Surface",
    "Tagged",
    "as_measures",
    "beside_plan",
    "called",
    "long_tape",
    "proposals",
    "spot_proposal",
    "stick",
    "stood",
    "taped_mm",
    "travels",
    "view",
]
