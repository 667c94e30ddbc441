"""Heat round the system: how hot things near it get, and how near it may come.

Glossary: a thing *bears* a temperature by the shop's rule for its kind, and *reaches* another beside hot pipe; a
*cover* keeps heat in (wrap, double skin, coating), a *shield* keeps it off a thing.
"""

from .covers import USUAL, covered
from .growth import Gone, gone, rises_of, wanted_rises
from .near import HotPipe, Surroundings, may_come_mm, plume_rise_k, reaches_c, view_factor
from .outlet import jet_c, reach_mm
from .temper import TEMPER, temper_of
from .things import Near, Struck, bears_c, heat_gaps, heat_near, obstacles_of, struck

__all__ = [
    "TEMPER",
    "USUAL",
    "Gone",
    "HotPipe",
    "Near",
    "Struck",
    "Surroundings",
    "bears_c",
    "covered",
    "gone",
    "heat_gaps",
    "heat_near",
    "jet_c",
    "may_come_mm",
    "obstacles_of",
    "plume_rise_k",
    "reach_mm",
    "reaches_c",
    "rises_of",
    "struck",
    "temper_of",
    "view_factor",
    "wanted_rises",
]
