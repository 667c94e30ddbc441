"""Taking a section out from under the vehicle, tried as slides and turns.

Glossary: a *section* comes out in one; a *step* is a slide or a turn that keeps clear; what a section is *nearer to
at the start* it may stay as near to.
"""

from .removal_path import AT_ONCE, Move, OnProgress, WayOut, deepest_mm, move_words, order_out, out_or_helped, way_out

__all__ = [
    "AT_ONCE",
    "Move",
    "OnProgress",
    "WayOut",
    "deepest_mm",
    "move_words",
    "order_out",
    "out_or_helped",
    "way_out",
]
