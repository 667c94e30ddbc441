"""Ribbons of the gas along the strips."""

from __future__ import annotations

import numpy as np

from ...core.gas import FlowSolution, Profile
from ...core.units import format_pressure, format_speed, format_temperature
from .lines_ribbon import Lines


def pressure_lines(breath: FlowSolution, unit: str, other: FlowSolution | None = None) -> Lines:
    """The pressure that is still to be lost along the gas, beside that of bare straight pipe; another system's too."""
    most = max((float(p.total_pa.max()) for b in (breath, other) if b for p in b.profiles), default=1.0)
    lines = [(_line(p, p.bare_pa), "bare-limit") for p in breath.profiles]
    lines += [(_line(p, p.total_pa), "gas-line") for p in breath.profiles]
    lines += [(_line(p, p.total_pa), "over-line") for p in other.profiles] if other else []
    return Lines(
        "pressure over the air; thin: bare straight pipe",
        tuple(lines),
        max(most, 1.0),
        0.0,
        format_pressure(most, unit),
        "0",
    )


def heat_lines(breath: FlowSolution, unit: str) -> Lines:
    """Gas and skin temperature along the way."""
    high = max(float(p.gas_c.max()) for p in breath.profiles)
    lines = [(_line(p, p.skin_c), "skin-line") for p in breath.profiles]
    lines += [(_line(p, p.gas_c), "gas-line") for p in breath.profiles]
    return Lines(
        "gas temperature; thin: skin",
        tuple(lines),
        high,
        0.0,
        format_temperature(high, unit),
        format_temperature(0.0, unit),
    )


def speed_lines(breath: FlowSolution, unit: str, other: FlowSolution | None = None) -> Lines:
    """How fast the gas goes; in another system over it."""
    high = max(float(p.speed.max()) for b in (breath, other) if b for p in b.profiles)
    lines = [(_line(p, p.speed), "gas-line") for p in breath.profiles]
    lines += [(_line(p, p.speed), "over-line") for p in other.profiles] if other else []
    return Lines("speed of the gas", tuple(lines), high, 0.0, format_speed(high, unit), format_speed(0.0, unit))


def _line(profile: Profile, values: np.ndarray) -> np.ndarray:
    return np.column_stack([profile.middles[:, 0], values])
