"""How hot a thing gets behind a heat shield: pipe, gap, sheet, gap, thing, all in balance.

In each gap heat goes by radiation and through the air. Air that is trapped conducts: k / gap, and turns over in wide
gaps (Hollands, Unny, Raithby and Konicek 1976, a level gap heated from below, from memory:
Nu = 1 + 1.44 [1 - 1708/Ra]+ + [(Ra/5830)^(1/3) - 1]+). What carries heat away is air that passes through the gap from
edge to edge (Bar-Cohen and Rohsenow 1984, from memory:
Nu = [576/Ra'^2 + 2.87/Ra'^(1/2)]^(-1/2), Ra' = Ra gap / length):
through a narrow one hardly any does, and then the thing gets nearly as hot as the sheet. The thing's back is taken as
insulated, the vehicle as stopped with the pipe still hot, and the sheet as used: 0.3 black on both sides.
"""

from __future__ import annotations

from collections.abc import Callable

from ..gas import ATMOSPHERE_PA, SIGMA, ZERO_C

SHIELD_EMISSIVITY = 0.3  # aluminised or bright sheet after some road: handbooks give 0.2 to 0.33 oxidised, from memory
SHIELD_MM = 200.0  # from edge to edge of the sheet, as far as air must go through the gap: common practice, no source
# a gap under a floor lies nearly level: a tenth of the pull drives air through it. Common practice, no source
SLOPE = 0.1
GRAVITY, GAS_J_KG_K, PRANDTL = 9.81, 287.05, 0.70


def air_w_m_k(kelvin: float) -> float:
    """How well still air conducts [W/m K].

    >>> round(air_w_m_k(300.0), 4), round(air_w_m_k(600.0), 4)  # handbook: 0.0263, 0.0469
    (0.0261, 0.047)
    """
    return float(0.0241 * (kelvin / 273.15) ** 0.85)


def rayleigh(hot_c: float, cold_c: float, gap_m: float) -> float:
    """The Rayleigh number of air in a gap [-]."""
    kelvin = (hot_c + cold_c) / 2 + ZERO_C
    viscosity = 1.716e-5 * (kelvin / 273.15) ** 1.5 * (273.15 + 110.4) / (kelvin + 110.4)
    kinematic = viscosity * GAS_J_KG_K * kelvin / ATMOSPHERE_PA
    return float(GRAVITY / kelvin * abs(hot_c - cold_c) * gap_m**3 / kinematic**2 * PRANDTL)


def trapped_w_m2_k(hot_c: float, cold_c: float, gap_mm: float) -> float:
    """Return the heat transfer by trapped air across a gap [W/m2 K]: never less than it conducts."""
    ra, gap = rayleigh(hot_c, cold_c, gap_mm / 1000.0), gap_mm / 1000.0
    nusselt = 1.0 + 1.44 * max(0.0, 1.0 - 1708.0 / max(ra, 1e-9)) + max(0.0, (ra / 5830.0) ** (1 / 3) - 1.0)
    return float(nusselt) * air_w_m_k((hot_c + cold_c) / 2 + ZERO_C) / gap


def passing_w_m2_k(
    wall_c: float, air_c: float, gap_mm: float, long_mm: float = SHIELD_MM, slope: float = SLOPE
) -> float:
    """Return the heat transfer from a wall to air passing through a gap, by its length from edge to edge [W/m2 K];
    hardly any where the gap is narrow. `slope` is the share of the full pull that drives it: 1 upright.
    """
    gap = gap_mm / 1000.0
    ra = max(slope * rayleigh(wall_c, air_c, gap) * gap / (long_mm / 1000.0), 1e-9)
    nusselt = (576.0 / ra**2 + 2.87 / ra**0.5) ** -0.5
    return float(nusselt * air_w_m_k((wall_c + air_c) / 2 + ZERO_C) / gap)


def behind_shield_c(hot_c: float, takes: float, sees: float, gap_mm: float, air_c: float, thing_black: float) -> float:
    """How hot a thing gets behind a sheet half way between it and a pipe of `hot_c` [C].

    `takes` is how much of the pipe's radiation the sheet takes up (view and both emissivities), `sees` how much of its
    view is the pipe. `gap_mm` is from pipe to thing.
    """
    half = max(gap_mm, 1e-3) / 2
    between = 1.0 / (1.0 / SHIELD_EMISSIVITY + 1.0 / thing_black - 1.0)

    def thing_by(sheet_c: float) -> float:
        """The thing in balance behind a sheet so hot."""
        return _where_even(
            air_c, sheet_c, lambda c: _across(sheet_c, c, half, between) - passing_w_m2_k(c, air_c, half) * (c - air_c)
        )

    def left(sheet_c: float) -> float:
        """Return the net flux into a sheet at a temperature [W/m2]."""
        takes_up = takes * SIGMA * (_fourth(hot_c) - _fourth(sheet_c))
        takes_up += air_w_m_k((hot_c + sheet_c) / 2 + ZERO_C) / (half / 1000.0) * (hot_c - sheet_c)
        gives = (1.0 - sees) * SHIELD_EMISSIVITY * SIGMA * (_fourth(sheet_c) - _fourth(air_c))
        # one wall of the gap on this side is the pipe: half of what passes is heated by that
        gives += 0.5 * passing_w_m2_k(sheet_c, air_c, half) * (sheet_c - air_c)
        gives += passing_w_m2_k(sheet_c, air_c, half) * (sheet_c - air_c)
        return takes_up - gives - _across(sheet_c, thing_by(sheet_c), half, between)

    return thing_by(_where_even(air_c, hot_c, left))


def _across(hot_c: float, cold_c: float, gap_mm: float, between: float) -> float:
    """Return the flux from wall to wall of a gap, by radiation and through trapped air [W/m2]."""
    convective_flux = trapped_w_m2_k(hot_c, cold_c, gap_mm) * (hot_c - cold_c)
    return convective_flux + between * SIGMA * (_fourth(hot_c) - _fourth(cold_c))


def _fourth(c: float) -> float:
    return float((c + ZERO_C) ** 4)


def _where_even(low_c: float, high_c: float, left: Callable[[float], float]) -> float:
    """Where what is left over, which falls as it gets hotter, comes to nothing [C]."""
    low, high = min(low_c, high_c), max(low_c, high_c)
    for _ in range(40):
        mid = (low + high) / 2
        low, high = (mid, high) if left(mid) > 0 else (low, mid)
    return (low + high) / 2
