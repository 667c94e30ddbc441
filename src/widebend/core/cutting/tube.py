"""Tube: sizes, mass. Sources in docs/sources.md, "Tube and materials"."""

from __future__ import annotations

import math

from scipy.special import ellipe

# what shops keep; common practice, no source
USUAL_OD_MM = (38.1, 44.5, 50.8, 57.15, 63.5, 76.2, 88.9, 101.6, 114.3, 127.0)


def mass_per_metre(od_mm: float, wall_mm: float, density_kg_m3: float) -> float:
    """Mass of a round tube [kg/m], pi (D - t) t rho: the formula of EN 10220.

    Raises ValueError when the wall does not fit the tube.

    >>> round(mass_per_metre(60.3, 2.0, 7850), 2)
    2.88
    """
    if not 0 < wall_mm <= od_mm / 2:
        raise ValueError(f"a wall of {wall_mm:g} mm does not fit a tube of {od_mm:g} mm")
    return math.pi * (od_mm - wall_mm) * wall_mm * density_kg_m3 * 1e-6


def circumference(od_mm: float) -> float:
    """Length round the outside of a tube [mm]: also the weld length of one butt joint."""
    return math.pi * od_mm


def slanted_circumference(od_mm: float, cut_deg: float) -> float:
    """The way round a tube along a cut off square [mm]: an ellipse of half axes r and r / cos(cut), by the complete
    elliptic integral.

    >>> round(slanted_circumference(63.5, 0.0), 5), round(slanted_circumference(63.5, 22.5), 2)
    (199.49113, 207.79)
    """
    return 2.0 * od_mm / math.cos(math.radians(cut_deg)) * float(ellipe(math.sin(math.radians(cut_deg)) ** 2))


def round_the_tube(od_mm: float, angle_deg: float) -> float:
    """Tape length round the outside [mm] for a roll: pi D angle / 360.

    >>> round(round_the_tube(63.5, 1), 3)
    0.554
    """
    return math.pi * od_mm * angle_deg / 360.0
