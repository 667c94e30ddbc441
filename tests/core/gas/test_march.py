"""The march against a fine integration by another method, against Fanno's closed form, and where it chokes."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.integrate import solve_ivp

from widebend.core.flow import friction_factor
from widebend.core.gas import COLUMNS, cool, darcy, exhaust, press
from widebend.core.gas.march import (
    BORE,
    EMISSIVITY,
    FILM_FACTOR,
    FRICTION_FACTOR,
    KELVIN,
    LENGTH,
    LOSS,
    MACH,
    OUTSIDE,
    ROUGH,
    STATIC,
    TOTAL,
    WALL_R,
    WRAP_K,
)

GAS = exhaust("petrol", 1.0)
AROUND_K, ATMOSPHERE = 298.0, 101_325.0


def _straight(n: int, long_m: float = 4.0, bore_m: float = 0.0602, k: float = 0.0) -> np.ndarray:
    rows = np.zeros((n, COLUMNS))
    rows[:, LENGTH], rows[:, BORE], rows[:, OUTSIDE], rows[:, LOSS] = long_m / n, bore_m, bore_m + 0.003, k / n
    rows[:, WALL_R], rows[:, ROUGH], rows[:, FRICTION_FACTOR], rows[:, FILM_FACTOR] = 0.0015 / 21, 4.5e-5, 1.0, 1.6
    rows[:, EMISSIVITY], rows[:, WRAP_K] = 0.5, 1.0
    return rows


def fanno(mach: float, gamma: float) -> float:
    """How long a pipe with friction may be before it chokes, f L / D with Darcy's f, from a Mach number on. Raises
    ValueError at no flow.
    """
    if not 0 < mach <= 1:
        raise ValueError("a flow that is slower than sound and not still")
    m2 = mach**2
    rest = (gamma + 1) / (2 * gamma) * math.log((gamma + 1) * m2 / (2 + (gamma - 1) * m2))
    return (1 - m2) / (gamma * m2) + rest


@pytest.mark.parametrize(
    ("mach", "long"), [(0.1, 66.9216), (0.2, 14.5333), (0.3, 5.2993), (0.4, 2.3085), (0.5, 1.0691), (0.6, 0.4908)]
)
def test_the_yardstick_is_fannos(mach: float, long: float) -> None:
    """C059 to C064: what the march is held against below."""
    assert fanno(mach, 1.4) == pytest.approx(long, abs=1e-4)


def test_friction_in_the_march_is_colebrooks() -> None:
    for reynolds in (5e3, 6e4, 1e6):
        assert darcy(reynolds, 7e-4) == pytest.approx(friction_factor(reynolds, 7e-4), rel=1e-6)
    assert darcy(1000.0, 0.0) == pytest.approx(0.064)


def _heat_loss(kelvin: float, outside: float) -> float:
    """Free air round a lying cylinder (Churchill and Chu) and radiation [W/m2]."""
    mean = (kelvin + AROUND_K) / 2
    mu = 1.716e-5 * (mean / 273.15) ** 1.5 * (273.15 + 110.4) / (mean + 110.4)
    nu, k = mu * 287.05 * mean / 101_325, 0.0241 * (mean / 273.15) ** 0.85
    rayleigh = 9.81 / mean * (kelvin - AROUND_K) * outside**3 / nu**2 * 0.70
    nusselt = (0.60 + 0.387 * rayleigh ** (1 / 6) / (1 + (0.559 / 0.70) ** (9 / 16)) ** (8 / 27)) ** 2
    return nusselt * k / outside * (kelvin - AROUND_K) + 0.5 * 5.670374419e-8 * (kelvin**4 - AROUND_K**4)


def _integrated(kg_s: float, enters: float, row: np.ndarray, long_m: float) -> tuple[float, float]:
    """Total temperature at the end and static pressure at the start, by a general integrator of the differential
    equations: energy forward, then dM2/dx of a pipe with friction and heat (Shapiro's influence coefficients) back.
    """
    bore, outside = row[BORE], row[OUTSIDE]
    area = math.pi / 4 * bore**2

    def watts(total: float) -> float:
        cp, mu, k = GAS.at(total)
        reynolds, prandtl = 4 * kg_s / (math.pi * bore * mu), cp * mu / k
        eighth = friction_factor(reynolds, row[ROUGH] / bore) / 8
        nusselt = eighth * (reynolds - 1000) * prandtl / (1 + 12.7 * math.sqrt(eighth) * (prandtl ** (2 / 3) - 1))
        resists = 1 / (1.6 * nusselt * k / bore * math.pi * bore) + row[WALL_R] / (math.pi * bore)
        low, high = AROUND_K, total
        for _ in range(60):
            skin = (low + high) / 2
            low, high = (
                (skin, high)
                if (total - skin) / resists > _heat_loss(skin, outside) * math.pi * outside
                else (low, skin)
            )
        return (total - skin) / resists

    hot = solve_ivp(
        lambda _x, t: [-watts(t[0]) / (kg_s * GAS.at(t[0])[0])], (0, long_m), [enters], rtol=1e-9, dense_output=True
    )
    total_at = hot.sol

    def back(x: float, y: np.ndarray) -> list[float]:
        pressure, total = y[0], float(total_at(x)[0])
        cp, mu, _ = GAS.at(total)
        kelvin = total
        for _ in range(30):
            kelvin = total - (kg_s / area * GAS.constant * kelvin / pressure) ** 2 / (2 * cp)
        gamma = GAS.heat_ratio(kelvin)
        speed = kg_s / area * GAS.constant * kelvin / pressure
        m2 = speed**2 / (gamma * GAS.constant * kelvin)
        factor = friction_factor(4 * kg_s / (math.pi * bore * mu), row[ROUGH] / bore)
        d_total = -watts(total) / (kg_s * cp)
        rise = (1 + (gamma - 1) * m2) / (2 * (1 - m2)) * factor / bore * gamma * m2
        heat = gamma * m2 * (1 + (gamma - 1) / 2 * m2) / (1 - m2) * d_total / total
        return [-pressure * (rise + heat)]

    found = solve_ivp(back, (long_m, 0), [ATMOSPHERE], rtol=1e-9)
    return float(hot.y[0, -1]), float(found.y[0, -1])


@pytest.mark.parametrize(("kg_s", "enters"), [(0.05, 800.0), (0.15, 1100.0), (0.22, 1000.0)])
def test_two_thousand_stretches_against_a_fine_integration(kg_s: float, enters: float) -> None:
    """Pressure over the air and temperature within 0.5 %; forty stretches as well."""
    for n in (40, 2000):
        rows = _straight(n)
        totals, _, _ = cool(kg_s, enters, rows, GAS.table, AROUND_K, 0.0)
        inlet, _, chokes = press(kg_s, ATMOSPHERE, True, rows, totals, GAS.table, GAS.constant)
        leaves, pressure = _integrated(kg_s, enters, rows[0], 4.0)
        assert chokes < 0
        assert totals[-1] == pytest.approx(leaves, rel=0.005)
        assert inlet[0, STATIC] - ATMOSPHERE == pytest.approx(pressure - ATMOSPHERE, rel=0.005)


def test_a_pipe_without_heat_is_fannos() -> None:
    """C059 to C064 by another way: f L / D between two Mach numbers is the difference of Fanno's lengths."""
    rows = _straight(400, 3.0)
    totals = np.full(401, 900.0)
    inlet, outlet, _ = press(0.2, ATMOSPHERE, True, rows, totals, GAS.table, GAS.constant)
    gamma = GAS.heat_ratio(float(inlet[200, KELVIN]))
    spent = fanno(float(inlet[0, MACH]), gamma) - fanno(float(outlet[-1, MACH]), gamma)
    mu = GAS.at(900.0)[1]
    assert spent == pytest.approx(
        friction_factor(4 * 0.2 / (math.pi * 0.0602 * mu), 4.5e-5 / 0.0602) * 3.0 / 0.0602, rel=0.01
    )


def test_worked_exhaust_runs() -> None:
    """C057 and C058: air of one density, four and five bends by Crane, the exit counted: a slow gas comes near it."""
    for kg_s, kelvin, bore, k, takes in (
        (0.1, 773.15, 0.0602, 4 * 0.25558, 4271.85),
        (0.2, 873.15, 0.073, 5 * 0.24456, 8731.68),
    ):
        rows = _straight(200, 3.0, bore, k)
        totals = np.full(201, kelvin)
        inlet, _, _ = press(kg_s, ATMOSPHERE, True, rows, totals, GAS.table, GAS.constant)
        assert inlet[0, TOTAL] - ATMOSPHERE == pytest.approx(takes, rel=0.05)


def test_a_pipe_that_cannot_pass_so_much_chokes_at_its_end() -> None:
    rows = _straight(50)
    totals, _, _ = cool(1.2, 1100.0, rows, GAS.table, AROUND_K, 0.0)
    _, outlet, chokes = press(1.2, ATMOSPHERE, True, rows, totals, GAS.table, GAS.constant)
    assert chokes == 49
    assert outlet[-1, MACH] == pytest.approx(1.0, abs=0.01)
    assert outlet[-1, STATIC] > 1.5 * ATMOSPHERE


def test_a_cone_keeps_total_pressure_and_a_throat_chokes() -> None:
    rows = _straight(4)
    rows[2:, BORE] = 0.08
    rows[:, FRICTION_FACTOR] = 0.0
    inlet, outlet, _ = press(0.1, ATMOSPHERE, True, rows, np.full(5, 900.0), GAS.table, GAS.constant)
    assert outlet[1, TOTAL] == pytest.approx(inlet[2, TOTAL], rel=1e-6)
    assert outlet[1, STATIC] < inlet[2, STATIC]
    rows[1, BORE] = 0.02
    _, _, chokes = press(0.1, ATMOSPHERE, True, rows, np.full(5, 900.0), GAS.table, GAS.constant)
    assert chokes == 1
