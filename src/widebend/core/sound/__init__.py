"""How an exhaust sounds: plane waves through pipes, chambers and branches; levels as a meter shows them.

Glossary: a *line* is what lies one behind the other, as a transfer matrix of pressure and volume velocity; its
*transmission loss* is what it holds back with no echo from either end; a *branch* hangs on its side and is closed.
"""

from .levels import a_weighting, added_db, c_weighting, overall_db
from .lines import Medium, branch_impedance, in_line, pipe, side_branch, speed_of_sound, transmission_loss_db
from .resonators import (
    FLANGED,
    PISTON,
    UNFLANGED,
    cut_on_hz,
    helmholtz_hz,
    quarter_wave_mm,
)
from .stationary import STATIONARY, Stationary, stationary_rpm

__all__ = [
    "FLANGED",
    "PISTON",
    "STATIONARY",
    "UNFLANGED",
    "Medium",
    "Stationary",
    "a_weighting",
    "added_db",
    "branch_impedance",
    "c_weighting",
    "cut_on_hz",
    "helmholtz_hz",
    "in_line",
    "overall_db",
    "pipe",
    "quarter_wave_mm",
    "side_branch",
    "speed_of_sound",
    "stationary_rpm",
    "transmission_loss_db",
]
