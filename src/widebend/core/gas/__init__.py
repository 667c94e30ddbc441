"""What the gas meets on its way.

Glossary: a *loss* is said as the straight pipe of the same size that would cost the flow as much, or as a coefficient K
of its own pressure; a *factor* is Darcy's friction factor; a *honeycomb* is a catalyst's.
"""

from .cooling import Cooled, cooled, nusselt_dittus_boelter, nusselt_gnielinski
from .fittings import (
    ENTRANCE_PROJECTING,
    ENTRANCE_SHARP,
    EXIT,
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
from .friction import fanno, friction_factor, loss_pa, reynolds_of, speed_of
from .mass_flow import by_displacement, by_power
from .monolith import Monolith

__all__ = [
    "ENTRANCE_PROJECTING",
    "ENTRANCE_SHARP",
    "EXIT",
    "Cooled",
    "Monolith",
    "as_straight_mm",
    "bend_crane",
    "bend_idelchik",
    "by_displacement",
    "by_power",
    "contraction_gradual",
    "contraction_sharp",
    "cooled",
    "expansion_gradual",
    "expansion_sharp",
    "fanno",
    "friction_factor",
    "loss_pa",
    "mitre_blevins",
    "mitre_crane",
    "nusselt_dittus_boelter",
    "nusselt_gnielinski",
    "reynolds_of",
    "speed_of",
]
