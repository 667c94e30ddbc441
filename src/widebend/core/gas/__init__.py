"""The flow of the gas through a design.

Glossary: a *way* is pipe without a branch, a *meeting* where ways join or part; a *breath* is the whole system in one
state of the engine; a *span* is a figure with its range.
"""

from .engine_gas import STATES, EngineGas, Span, State, gas_of, rpm_of
from .flow_solution import (
    AS_DRAWN,
    ATMOSPHERE_PA,
    FlowSolution,
    Otherwise,
    PressureDrop,
    Profile,
    breath_of,
    no_cover,
    skins_of,
    warmed,
    wind_ms,
)
from .gas_paths import Capped, GasPath, GasPaths, Meeting, Stretch, ways_of
from .march import COLUMNS, SIGMA, convective_flux, cool, darcy, press
from .mass_flow import by_displacement, by_power
from .mixture import ZERO_C, Gas, burnt, exhaust, mixed, stoichiometric
from .road import road_kmh, tyre_rolling_mm
from .rows import Covered

__all__ = [
    "AS_DRAWN",
    "ATMOSPHERE_PA",
    "COLUMNS",
    "SIGMA",
    "STATES",
    "ZERO_C",
    "Capped",
    "Covered",
    "EngineGas",
    "FlowSolution",
    "Gas",
    "GasPath",
    "GasPaths",
    "Meeting",
    "Otherwise",
    "PressureDrop",
    "Profile",
    "Span",
    "State",
    "Stretch",
    "breath_of",
    "burnt",
    "by_displacement",
    "by_power",
    "convective_flux",
    "cool",
    "darcy",
    "exhaust",
    "gas_of",
    "mixed",
    "no_cover",
    "press",
    "road_kmh",
    "rpm_of",
    "skins_of",
    "stoichiometric",
    "tyre_rolling_mm",
    "warmed",
    "ways_of",
    "wind_ms",
]
