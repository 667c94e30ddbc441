"""Which bore: the whole system with pipe of each size the shop has.

Glossary: a system *as it lies* keeps its centre line, *laid again* is closed with what the tube is bent to; a size
*tells* as long as the next one takes off more than the methods doubt.
"""

from .bores import Bore, main_tube, radii_for, resized, stops_telling, with_bore
from .otherwise import Variant, stepped_down, variants

__all__ = [
    "Bore",
    "Variant",
    "main_tube",
    "radii_for",
    "resized",
    "stepped_down",
    "stops_telling",
    "variants",
    "with_bore",
]
