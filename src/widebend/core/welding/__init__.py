"""Welding a joint of thin tube: current, tungsten, filler, shade, heat, purge; facts to be checked against the current
text of the standard they are from, and never in place of the shop's own written procedure or local codes.

Glossary: a *shade* is a filter lens's number, least by the standard and for comfort; *purge* is argon inside the pipe,
in *volumes* of what is purged; *heat input* energy a length of weld.
"""

from .figures import (
    FRICTION,
    THREADS,
    Shade,
    argon_that_lowers,
    current_a,
    heat_input_kj_mm,
    hours_at,
    shade,
    torque_nm,
    tungsten_mm,
)
from .processes import Consumables, consumables, process_refusal
from .purge import Purge, inside_l, purge_for, volumes_to
from .totals import Welds

__all__ = [
    "FRICTION",
    "THREADS",
    "Consumables",
    "Purge",
    "Shade",
    "Welds",
    "argon_that_lowers",
    "consumables",
    "current_a",
    "heat_input_kj_mm",
    "hours_at",
    "inside_l",
    "process_refusal",
    "purge_for",
    "shade",
    "torque_nm",
    "tungsten_mm",
    "volumes_to",
]
