"""What was really fitted: a run as it was built, from readings; where its errors go; what follows for the rest.

Glossary: an *error* is how far one operation went off plan (a cut, an angle, a clock, what a tack pulled); a
*spread* is one deviation of it; a run is *built* when its errors are put in; a *reading* is a measure taken on what
is tacked, *found* what all readings together say, with its doubt.
"""

from .built import ERRORS, Chain, built, chain_of, twists
from .correcting import Change, Correction, corrections
from .finding import Found, Odd, find, tells_most
from .reading import KINDS, Reading, read
from .spread import Spreads, spreads_of
from .stacking import Stack, at_end, chance_within, sampled_ends

__all__ = [
    "ERRORS",
    "KINDS",
    "Chain",
    "Change",
    "Correction",
    "Found",
    "Odd",
    "Reading",
    "Spreads",
    "Stack",
    "at_end",
    "built",
    "chain_of",
    "chance_within",
    "corrections",
    "find",
    "read",
    "sampled_ends",
    "spreads_of",
    "tells_most",
    "twists",
]
