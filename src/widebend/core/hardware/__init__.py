"""Hardware: what is on the shelf, made from a few measures into items with ports and bodies.

Glossary: a *kind* is what a part is, its *measures* what it is made by, an *item* the part itself with ports (where
pipe meets it) and bodies (the room it takes); a *crossing* is where two pipes of an X or H are cut into each other.
"""

from .catalogue import SHELF, Kind, Stocked, item_of
from .crossover import h_stub, off_centre_mm, off_for_chamber, saddle, twin_tip, x_pipe, y_pipe
from .kinds import Values
from .shelf import can, start_flange, tip

__all__ = [
    "SHELF",
    "Kind",
    "Stocked",
    "Values",
    "can",
    "h_stub",
    "item_of",
    "off_centre_mm",
    "off_for_chamber",
    "saddle",
    "start_flange",
    "tip",
    "twin_tip",
    "x_pipe",
    "y_pipe",
]
