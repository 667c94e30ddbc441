"""How an exhaust sounds: plane waves through pipes, cans and branches; orders over speed; levels as a meter shows them.

Glossary: a *line* is what lies one behind the other, as a transfer matrix of pressure and volume velocity; its
*transmission loss* is what it holds back with no echo from either end; a *branch* hangs on its side and is closed; an
*order* is a tone by the engine's turns; a *drone* is an order that stands out where cabins boom, a *mend* what helps.
"""

from .by_speed import BySpeed, Change, Drone, Rings, change, drones, levels_by_speed, rings_at, roads
from .cans import Can, chambers, holes, honeycomb, packing, straight_through
from .character import Character, character_of
from .levels import a_weighting, added_db, c_weighting, overall_db
from .lines import (
    Medium,
    branch_impedance,
    in_line,
    pipe,
    side_branch,
    speed_of_sound,
    transmission_loss_db,
    wave_number,
)
from .log import AS_BUILT, Forecast, Judged, forecast, free_id, judged, noted, off_by, over, struck
from .network import (
    AS_DRAWN,
    HZ,
    Ends,
    Heard,
    SideBranch,
    Tried,
    can_losses_db,
    heard,
    insertion_loss_db,
    mean_volume_m3_s,
    medium_of,
    mouth_impedance,
    plane_waves_to_hz,
)
from .pulses import fires_at, orders_of, strengths
from .radiation import end_impedance, level_db
from .resonators import (
    FLANGED,
    PISTON,
    UNFLANGED,
    cut_on_hz,
    helmholtz_hz,
    quarter_wave_mm,
)
from .stationary import STATIONARY, Stationary, stationary_rpm
from .trying import Remedy, branch_for, mends, volume_for

__all__ = [
    "AS_BUILT",
    "AS_DRAWN",
    "FLANGED",
    "HZ",
    "PISTON",
    "STATIONARY",
    "UNFLANGED",
    "BySpeed",
    "Can",
    "Change",
    "Character",
    "Drone",
    "Ends",
    "Forecast",
    "Heard",
    "Judged",
    "Medium",
    "Remedy",
    "Rings",
    "SideBranch",
    "Stationary",
    "Tried",
    "a_weighting",
    "added_db",
    "branch_for",
    "branch_impedance",
    "c_weighting",
    "can_losses_db",
    "chambers",
    "change",
    "character_of",
    "cut_on_hz",
    "drones",
    "end_impedance",
    "fires_at",
    "forecast",
    "free_id",
    "heard",
    "helmholtz_hz",
    "holes",
    "honeycomb",
    "in_line",
    "insertion_loss_db",
    "judged",
    "level_db",
    "levels_by_speed",
    "mean_volume_m3_s",
    "medium_of",
    "mends",
    "mouth_impedance",
    "noted",
    "off_by",
    "orders_of",
    "over",
    "overall_db",
    "packing",
    "pipe",
    "plane_waves_to_hz",
    "quarter_wave_mm",
    "rings_at",
    "roads",
    "side_branch",
    "speed_of_sound",
    "stationary_rpm",
    "straight_through",
    "strengths",
    "struck",
    "transmission_loss_db",
    "volume_for",
    "wave_number",
]
