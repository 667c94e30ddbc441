"""Hardware: what is on the shelf, made from a few measures into items with ports and bodies.

Glossary: a *kind* is what a part is, its *measures* what it is made by, an *item* the part itself with ports (where
pipe meets it) and bodies (the room it takes); a *crossing* is where two pipes of an X or H are cut into each other.
"""

from . import crossover, shelf
from .catalogue import SHELF, Kind, Stocked, item_of
from .kinds import Values

__all__ = [
    "SHELF",
    "Kind",
    "Stocked",
    "Values",
    "crossover",
    "item_of",
    "shelf",
]
