"""As built: a run as it was built, from readings; where its errors go; what follows for the rest.

Glossary: an *error* is how far one operation went off plan (a cut, an angle, a clock, what a tack pulled); a
*spread* is one deviation of it; a run is *built* when its errors are put in; a *reading* is a measure taken on what
is tacked, *found* what all readings together say, with its doubt.
"""

from .answering import CUT_LAST, Answer, answers, open_part
from .built import ERRORS, Chain, at_point, built, chain_of, standing, tilts, twists
from .closing_joint import ClosingPlace, between, closing_places, held_finish, tack_order, with_gap
from .correcting import Change, Correction, Gives, corrections, rest_of, with_rest
from .finding import Found, Odd, find, tells_most
from .keeping import measure, noted, put_on, take_off, unmeasure, weld
from .log import AsBuilt, as_built, as_found, as_it_rides, extent, reading_of, spreads_by, without_tail
from .outlook import Outlook, outlook_of, to_come
from .own_spreads import ENOUGH, OwnSpread, learned_spreads
from .reading import KINDS, Reading, read
from .spread import Spreads, spreads_of
from .stacking import Stack, at_end, sampled_ends

__all__ = [
    "CUT_LAST",
    "ENOUGH",
    "ERRORS",
    "KINDS",
    "Answer",
    "AsBuilt",
    "Chain",
    "Change",
    "ClosingPlace",
    "Correction",
    "Found",
    "Gives",
    "Odd",
    "Outlook",
    "OwnSpread",
    "Reading",
    "Spreads",
    "Stack",
    "answers",
    "as_built",
    "as_found",
    "as_it_rides",
    "at_end",
    "at_point",
    "between",
    "built",
    "chain_of",
    "closing_places",
    "corrections",
    "extent",
    "find",
    "held_finish",
    "learned_spreads",
    "measure",
    "noted",
    "open_part",
    "outlook_of",
    "put_on",
    "read",
    "reading_of",
    "rest_of",
    "sampled_ends",
    "spreads_by",
    "spreads_of",
    "standing",
    "tack_order",
    "take_off",
    "tells_most",
    "tilts",
    "to_come",
    "twists",
    "unmeasure",
    "weld",
    "with_gap",
    "with_rest",
    "without_tail",
]
