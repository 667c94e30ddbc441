"""The cost of a system: hours of each step, corrected by past jobs; metal and parts; totals to the cent.

Glossary: an *estimate* is minutes of each step by what the design counts; a *factor* what the shop's own jobs took of
what was estimated; an *offer* one way to make it with its price; a *wish* a change of it, with what that costs more.
"""

from .history import Corrected, PastJob, corrected
from .hours import STEPS, StepEstimate, estimate, estimated_h
from .offers import Offer, OfferLine, offer_of
from .sums import Totals, changed_lines, earned_an_hour, half_up, money, totals
from .tips import TipChange, tips_changed
from .wishing import WISHES, Wish, wishes

__all__ = [
    "STEPS",
    "WISHES",
    "Corrected",
    "Offer",
    "OfferLine",
    "PastJob",
    "StepEstimate",
    "TipChange",
    "Totals",
    "Wish",
    "changed_lines",
    "corrected",
    "earned_an_hour",
    "estimate",
    "estimated_h",
    "half_up",
    "money",
    "offer_of",
    "tips_changed",
    "totals",
    "wishes",
]
