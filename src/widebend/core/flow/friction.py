"""Friction of gas in a pipe: Darcy's factor, and the pressure it takes."""

from __future__ import annotations

import math

LAMINAR_RE = 2300.0
ROUNDS = 30


def friction_factor(reynolds: float, roughness: float) -> float:
    """Darcy's friction factor by Colebrook (1939), laminar 64 / Re below 2300; `roughness` by the bore. 0 for no flow.

    >>> round(friction_factor(1e5, 1e-4), 10)
    0.0185138661
    """
    if reynolds <= 0:
        return 0.0
    if reynolds < LAMINAR_RE:
        return 64.0 / reynolds
    x = -2.0 * math.log10(roughness / 3.7 + 5.74 / reynolds**0.9)  # Swamee and Jain, to start from
    for _ in range(ROUNDS):
        inner = roughness / 3.7 + 2.51 * x / reynolds
        step = (x + 2.0 * math.log10(inner)) / (1.0 + 2.0 * 2.51 / (reynolds * inner * math.log(10.0)))
        x -= step
        if abs(step) < 1e-12:
            break
    return 1.0 / x**2


def reynolds_of(kg_s: float, bore_mm: float, viscosity: float) -> float:
    """Reynolds number of a flow in a round pipe: 4 m / (pi d mu)."""
    return 4.0 * kg_s / (math.pi * bore_mm / 1000.0 * viscosity)


def speed_of(kg_s: float, bore_mm: float, density: float) -> float:
    """Mean speed of the gas [m/s]."""
    return kg_s / (density * math.pi / 4 * (bore_mm / 1000.0) ** 2)


def loss_pa(k: float, density: float, speed: float) -> float:
    """Pressure that a loss coefficient takes [Pa]: K rho v^2 / 2."""
    return k * density * speed**2 / 2


def fanno(mach: float, gamma: float) -> float:
    """How long a pipe with friction may be before it chokes, f L / D with Darcy's f, from a Mach number on. Raises
    ValueError at no flow.
    """
    if not 0 < mach <= 1:
        raise ValueError("a flow that is slower than sound and not still")
    m2 = mach**2
    rest = (gamma + 1) / (2 * gamma) * math.log((gamma + 1) * m2 / (2 + (gamma - 1) * m2))
    return (1 - m2) / (gamma * m2) + rest
