"""Pressure losses of pipe and parts.

Glossary: a *loss* is said as the straight pipe of the same size that would cost the flow as much, or as a coefficient K
of its own pressure; a *factor* is Darcy's friction factor; a *honeycomb* is a catalyst's.
"""

from .fittings import (
    ENTRANCE_SHARP,
    bend_crane,
    bend_idelchik,
    contraction_gradual,
    contraction_sharp,
    expansion_gradual,
    expansion_sharp,
    mitre_blevins,
    mitre_crane,
)
from .flow_loss import as_straight_mm
from .friction import friction_factor
from .losses import (
    UNSURE,
    Loss,
    bend_loss,
    can_across_mm,
    can_length_mm,
    mitre_loss,
    part_loss,
    piece_loss,
    slices_loss,
    step_loss,
    substrate_of,
)
from .monolith import SQUARE_F_RE, Monolith

__all__ = [
    "ENTRANCE_SHARP",
    "SQUARE_F_RE",
    "UNSURE",
    "Loss",
    "Monolith",
    "as_straight_mm",
    "bend_crane",
    "bend_idelchik",
    "bend_loss",
    "can_across_mm",
    "can_length_mm",
    "contraction_gradual",
    "contraction_sharp",
    "expansion_gradual",
    "expansion_sharp",
    "friction_factor",
    "mitre_blevins",
    "mitre_crane",
    "mitre_loss",
    "part_loss",
    "piece_loss",
    "slices_loss",
    "step_loss",
    "substrate_of",
]
