"""What is found, in the trade's sentences.

Glossary: *said* is a finding as a sentence, with lengths in the person's unit.
"""

from .findings import clock_words, piece_words, say, state_word
from .hung import hanger_name, say_hung

__all__ = [
    "clock_words",
    "hanger_name",
    "piece_words",
    "say",
    "say_hung",
    "state_word",
]
