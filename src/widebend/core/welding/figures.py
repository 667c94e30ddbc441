"""Current, tungsten, filler, shade, heat input, noise, torque: tables and rules with their sources."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...facts import PROCESSES, Process
from ..errors import InputError

AMPS_A_MM = 1.0 / 0.0254  # an ampere a thousandth of an inch of wall: workshop rule of thumb
THICKEST_MM = 3.2  # that the rule holds to
# 2 % lanthanated or thoriated on direct current: AWS A5.12 and C5.5, from memory
TUNGSTENS = ((1.0, 15.0, 80.0), (1.6, 70.0, 150.0), (2.4, 150.0, 250.0))
# to amperes, least and comfortable: AWS and ANSI Z49.1, 29 CFR 1910.133, from memory
SHADES: dict[Process, tuple[tuple[float, int, int | None], ...]] = {
    "TIG": ((50, 8, 10), (150, 8, 12), (500, 10, 14)),
    "MIG": ((60, 7, None), (160, 10, 11), (250, 10, 12), (500, 10, 14)),
    "stick": ((60, 7, None), (160, 8, 10), (250, 10, 12), (550, 11, 14)),
    "gas": ((math.inf, 4, 5),),
}
OXYGEN, LOW_OXYGEN = 20.95, 19.5  # of air by volume, and where it is deficient: 29 CFR 1910.146
# class 8.8 by friction 0.10, 0.12, 0.14 [N m]: VDI 2230, from memory; not for hot studs, which gall or run greased
TORQUES_NM = {6: (9.0, 10.1, 11.3), 8: (21.6, 24.6, 27.3), 10: (43.0, 48.0, 54.0), 12: (73.0, 84.0, 93.0)}
FRICTIONS = (0.10, 0.12, 0.14)
FRICTION = 0.12  # of a dry, clean thread
THREADS = tuple(TORQUES_NM)


@dataclass(frozen=True)
class Shade:
    """A filter lens: the least by the standard, and a comfortable one where the standard names it."""

    least: int
    comfort: int | None


def current_a(wall_mm: float) -> float:
    """The current for the thinner wall of a joint [A], about; stainless often a tenth to a fifth less."""
    return min(wall_mm, THICKEST_MM) * AMPS_A_MM


def tungsten_mm(amps: float) -> float:
    """The thinnest tungsten that carries a current [mm]. Raises InputError beyond all of them."""
    for size, _, most in TUNGSTENS:
        if amps <= most:
            return size
    raise InputError(f"{amps:.0f} A is more than a tungsten of {TUNGSTENS[-1][0]:g} mm carries")


def shade(process: Process, amps: float) -> Shade:
    """The filter lens for a process at a current. Raises InputError beyond the table."""
    for most, least, comfort in SHADES[process]:
        if amps < most or most == SHADES[process][-1][0] >= amps:
            return Shade(least, comfort)
    raise InputError(f"{amps:.0f} A is beyond the table of shades")


def heat_input_kj_mm(process: Process, volts: float, amps: float, mm_a_minute: float) -> tuple[float, float]:
    """Heat a length of weld [kJ/mm]: 60 V I / (1000 v), and that by the process's efficiency."""
    raw = 60.0 * volts * amps / (1000.0 * mm_a_minute)
    return raw, raw * PROCESSES[process].efficiency


def hours_at(dba: float) -> tuple[float, float]:
    """How long a day at a sound level without hearing protection [h]: by OSHA's rule (29 CFR 1910.95), by NIOSH's."""
    return 8.0 / 2.0 ** ((dba - 90.0) / 5.0), 8.0 / 2.0 ** ((dba - 85.0) / 3.0)


def argon_that_lowers(room_m3: float) -> float:
    """How much argon in a closed room, well mixed, lowers its oxygen to where it is deficient [m3]."""
    return room_m3 * math.log(OXYGEN / LOW_OXYGEN)


def torque_nm(thread_mm: int, friction: float) -> float:
    """The tightening torque of a class 8.8 bolt, cold and as its friction is [N m]. Raises InputError for a size that
    is not in the table.
    """
    if thread_mm not in TORQUES_NM:
        raise InputError(f"no torque is known for M{thread_mm}: see its maker")
    row = TORQUES_NM[thread_mm]
    nearest = min(range(len(FRICTIONS)), key=lambda k: abs(FRICTIONS[k] - friction))
    return row[nearest]
