"""The stationary test: where the meter stands and how fast the engine runs. ISO 5130 and UN R51, from memory; local
rules go before it.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Stationary:
    """Where a meter stands: from the outlet [mm] and its tolerance, the angle to the flow's upright plane [deg] and its
    tolerance, how high at least [mm]; how near to each other outlets of one silencer count as one [mm]; how many
    readings within how much [dB], and by how much all else must be quieter [dB].
    """

    away_mm: float = 500.0
    away_within_mm: float = 10.0
    angle_deg: float = 45.0
    angle_within_deg: float = 5.0
    least_high_mm: float = 200.0
    one_outlet_mm: float = 300.0
    readings: int = 3
    within_db: float = 2.0
    quieter_db: float = 10.0


STATIONARY = Stationary()
SLOW_RPM, FAST_RPM, BETWEEN_RPM = 5000.0, 7500.0, 3750.0


def stationary_rpm(rated_rpm: float) -> float:
    """The speed that a car's engine is held at, by its rated speed [1/min]: three quarters up to 5000, 3750 up to 7500,
    half above.
    """
    if rated_rpm <= SLOW_RPM:
        return 0.75 * rated_rpm
    return BETWEEN_RPM if rated_rpm < FAST_RPM else 0.5 * rated_rpm
