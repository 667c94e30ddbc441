"""A finished system kept for the next vehicle of its kind: how alike two are, and whether it fits by a few readings.

Glossary: a *card* is a finished design with its survey; a *reading* is one coordinate of the vehicle that is quickly
taken again, chosen because it would tell most; its *play* is how far it may be off before the card does not fit there.
"""

from .alike import likeness, shape_of_system
from .readings import MOST_READINGS, Reading, chosen_readings, fitted_to, misfits

__all__ = ["MOST_READINGS", "Reading", "chosen_readings", "fitted_to", "likeness", "misfits", "shape_of_system"]
