"""What is found, in the trade's sentences.

Glossary: *said* is a finding as a sentence, with lengths in the person's unit.
"""

from .findings import clock_words, piece_words, say, state_word

__all__ = [
    "clock_words",
    "piece_words",
    "say",
    "state_word",
]
