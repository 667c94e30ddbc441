"""Findings in the trade's sentences.

Glossary: *said* is a finding as a sentence, with lengths in the person's unit.
"""

from .findings import clock_words, in_state, piece_words, say, say_making, state_word
from .fitted import ANGLE_KINDS, FIT_WORDS, USUAL_DOUBT, say_change, say_measure
from .hung import broken_rules, hanger_name, say_hung

__all__ = [
    "ANGLE_KINDS",
    "FIT_WORDS",
    "USUAL_DOUBT",
    "broken_rules",
    "clock_words",
    "hanger_name",
    "in_state",
    "piece_words",
    "say",
    "say_change",
    "say_hung",
    "say_making",
    "say_measure",
    "state_word",
]
