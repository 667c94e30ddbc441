"""Questions about ways answered: find one past everything, make the drawn one better, mend it with little changed.

Glossary: a *wish* is what stays, through what, not past what, and what counts most; what is *asked* is a wish in
its design; a *proposal* is an answer laid and checked; a *remedy* a change that mends one finding; what would
*open* a way is a change after which there is one.
"""

from .proposals import Made, Proposal, Proposals, Side, propose, ready, taken, with_change
from .relaying import laid_again
from .remedy import remedies
from .rerouting import improve, mend
from .searching import OnProgress, Progress
from .wayfinding import seek, together
from .wishes import WEIGHED_BY, WEIGHS, Wish, parts_of

__all__ = [
    "WEIGHED_BY",
    "WEIGHS",
    "Made",
    "OnProgress",
    "Progress",
    "Proposal",
    "Proposals",
    "Side",
    "Wish",
    "improve",
    "laid_again",
    "mend",
    "parts_of",
    "propose",
    "ready",
    "remedies",
    "seek",
    "taken",
    "together",
    "with_change",
]
