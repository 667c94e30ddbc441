"""Loss coefficients of bends, mitres, slices, area changes and ends, each by the methods that practice knows: their
spread is the range that is shown.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

# K of a 90 degree bend over the fully rough friction factor, by radius over bore: Crane TP-410M (2009)
CRANE_BEND = (
    (1, 20),
    (1.5, 14),
    (2, 12),
    (3, 12),
    (4, 14),
    (6, 17),
    (8, 24),
    (10, 30),
    (12, 34),
    (14, 38),
    (16, 42),
    (20, 50),
)
# K of a mitre over the same, by its turn [deg]: Crane TP-410M (2009)
CRANE_MITRE = ((0, 2), (15, 4), (30, 8), (45, 15), (60, 25), (75, 40), (90, 60))
# K of a mitre by its turn [deg]: Blevins, Applied Fluid Dynamics Handbook (1984)
BLEVINS_MITRE = (
    (0, 0.0),
    (10, 0.025),
    (20, 0.055),
    (30, 0.1),
    (40, 0.2),
    (50, 0.35),
    (60, 0.5),
    (70, 0.7),
    (80, 0.9),
    (90, 1.1),
    (120, 1.5),
)
# K of a smooth bend by radius over bore and turn, less its friction: Miller, Internal Flow Systems (1990), as the
# library fluids 1.3.1 has his charts, at Re 2e5 and a roughness of 45 um in 60 mm
MILLER_DEG = (0.0, 20.0, 30.0, 45.0, 60.0, 90.0, 120.0, 150.0, 180.0)
MILLER_BEND = (
    (0.75, (0.0, 0.036, 0.066, 0.144, 0.272, 0.475, 0.676, 0.792, 0.811)),
    (1.0, (0.0, 0.031, 0.053, 0.094, 0.152, 0.287, 0.303, 0.299, 0.306)),
    (1.5, (0.0, 0.042, 0.065, 0.093, 0.132, 0.224, 0.246, 0.236, 0.208)),
    (2.0, (0.0, 0.049, 0.070, 0.095, 0.120, 0.182, 0.195, 0.180, 0.186)),
    (3.0, (0.0, 0.052, 0.068, 0.084, 0.103, 0.140, 0.169, 0.174, 0.160)),
)
ENTRANCE_SHARP = 0.5  # Crane, Idelchik


def _between(table: Sequence[tuple[float, float]], at: float) -> float:
    return float(np.interp(at, [x for x, _ in table], [y for _, y in table]))


def bend_crane(radius_by_bore: float, rough_factor: float, angle_deg: float = 90.0) -> float:
    """A mandrel bend by Crane, less its own friction: what its turn costs. Of n quarter turns, with the K of one:
    (n - 1) (0.25 pi f R/D + 0.5 K) + K.
    """
    quarter, n = _between(CRANE_BEND, radius_by_bore), angle_deg / 90.0
    whole = (n - 1.0) * (math.pi / 4 * radius_by_bore + 0.5 * quarter) + quarter
    return max(0.0, whole - n * math.pi / 2 * radius_by_bore) * rough_factor


def bend_rennels(radius_by_bore: float, angle_deg: float, factor: float) -> float:
    """A mandrel bend less its own friction: Rennels and Hudson, Pipe Flow, eq. 15.1; `factor` is Darcy's."""
    half, beyond = math.sin(math.radians(angle_deg) / 2), 4.0 * math.radians(angle_deg) / math.pi
    turn = 6.6 * factor * (math.sqrt(half) + half) / float(radius_by_bore**beyond)
    return (0.10 + 2.4 * factor) * half + turn


def bend_miller(radius_by_bore: float, angle_deg: float) -> float:
    """The same by Miller's charts at the roughness and flow of exhaust pipe."""
    rows = [float(np.interp(angle_deg, MILLER_DEG, row)) for _, row in MILLER_BEND]
    return float(np.interp(radius_by_bore, [r for r, _ in MILLER_BEND], rows))


def bend_idelchik(radius_by_bore: float) -> float:
    """The same by Idelchik's diagram 6-1, from memory: 0.21 / sqrt(R/D), tighter than the bore 0.21 / (R/D)^2.5."""
    return 0.21 / (math.sqrt(radius_by_bore) if radius_by_bore >= 1 else radius_by_bore**2.5)


def mitre_crane(turn_deg: float, rough_factor: float) -> float:
    """A single mitre by Crane."""
    return _between(CRANE_MITRE, turn_deg) * rough_factor


def mitre_blevins(turn_deg: float) -> float:
    """A single mitre by Blevins."""
    return _between(BLEVINS_MITRE, turn_deg)


def expansion_sharp(bore_mm: float, wider_mm: float) -> float:
    """A sudden widening, on the smaller pipe's speed: Borda and Carnot's (1 - (d/D)^2)^2."""
    return float((1.0 - (bore_mm / wider_mm) ** 2) ** 2)


def expansion_gradual(bore_mm: float, wider_mm: float, angle_deg: float) -> float:
    """A cone that widens by a whole angle up to 45 degrees, on the smaller pipe's speed: Crane, 2.6 sin(angle / 2)."""
    return float(min(1.0, 2.6 * math.sin(math.radians(angle_deg) / 2)) * expansion_sharp(bore_mm, wider_mm))


def contraction_sharp(wider_mm: float, bore_mm: float) -> float:
    """A sudden narrowing, on the smaller pipe's speed: Crane, (1 - (d/D)^2) / 2."""
    return float(0.5 * (1.0 - (bore_mm / wider_mm) ** 2))


def contraction_gradual(wider_mm: float, bore_mm: float, angle_deg: float) -> float:
    """A cone that narrows by a whole angle up to 45 degrees, on the smaller pipe's speed: Crane, 0.8 sin(angle / 2)."""
    return float(0.8 * math.sin(math.radians(angle_deg) / 2) * (1.0 - (bore_mm / wider_mm) ** 2))
