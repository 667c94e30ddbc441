"""What the gas meets on its way.

Glossary: a *loss* is said as the straight pipe of the same size that would cost the flow as much, or as a coefficient K
of its own pressure; a *factor* is Darcy's friction factor; a *honeycomb* is a catalyst's.
A *way* is pipe without a branch, a *meeting* where ways join or part; a *breath* is the whole system in one state of
the engine; a *span* is a figure with its range.
"""

from .breathing import (
    AS_DRAWN,
    ATMOSPHERE_PA,
    Breath,
    Otherwise,
    Profile,
    Taken,
    breath_of,
    no_cover,
    skins_of,
    warmed,
    wind_ms,
)
from .cooling import Cooled, cooled, nusselt_dittus_boelter, nusselt_gnielinski
from .engine_gas import STATES, EngineGas, Span, State, gas_of, rpm_of
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
from .losses import Loss, bend_loss, can_across_mm, can_length_mm, mitre_loss, part_loss, slices_loss, step_loss
from .march import COLUMNS, cool, darcy, press
from .mass_flow import by_displacement, by_power
from .mixture import Gas, burnt, exhaust, mixed, stoichiometric
from .monolith import Monolith
from .road import road_kmh, rpm_at, tyre_rolling_mm
from .rows import Covered
from .ways import Capped, Meeting, Stretch, Way, Ways, ways_of

__all__ = [
    "AS_DRAWN",
    "ATMOSPHERE_PA",
    "COLUMNS",
    "ENTRANCE_PROJECTING",
    "ENTRANCE_SHARP",
    "EXIT",
    "STATES",
    "Breath",
    "Capped",
    "Cooled",
    "Covered",
    "EngineGas",
    "Gas",
    "Loss",
    "Meeting",
    "Monolith",
    "Otherwise",
    "Profile",
    "Span",
    "State",
    "Stretch",
    "Taken",
    "Way",
    "Ways",
    "as_straight_mm",
    "bend_crane",
    "bend_idelchik",
    "bend_loss",
    "breath_of",
    "burnt",
    "by_displacement",
    "by_power",
    "can_across_mm",
    "can_length_mm",
    "contraction_gradual",
    "contraction_sharp",
    "cool",
    "cooled",
    "darcy",
    "exhaust",
    "expansion_gradual",
    "expansion_sharp",
    "fanno",
    "friction_factor",
    "gas_of",
    "loss_pa",
    "mitre_blevins",
    "mitre_crane",
    "mitre_loss",
    "mixed",
    "no_cover",
    "nusselt_dittus_boelter",
    "nusselt_gnielinski",
    "part_loss",
    "press",
    "reynolds_of",
    "road_kmh",
    "rpm_at",
    "rpm_of",
    "skins_of",
    "slices_loss",
    "speed_of",
    "step_loss",
    "stoichiometric",
    "tyre_rolling_mm",
    "warmed",
    "ways_of",
    "wind_ms",
]
