"""Lines against closed forms, levels and the stationary test, by section D of the reference the project was given."""

from __future__ import annotations

import math

import numpy as np
import pytest

from widebend.core.sound import (
    PISTON,
    STATIONARY,
    Medium,
    a_weighting,
    added_db,
    branch_impedance,
    c_weighting,
    cut_on_hz,
    helmholtz_hz,
    in_line,
    overall_db,
    pipe,
    quarter_wave_mm,
    side_branch,
    speed_of_sound,
    stationary_rpm,
    transmission_loss_db,
)

BANDS = 1000.0 * 10 ** (0.3 * np.arange(-6, 5))  # exact octave bands, 16 Hz to 16 kHz


def _loss(line: np.ndarray, across_mm: float, gas: Medium) -> float:
    z = gas.impedance(across_mm)
    return float(transmission_loss_db(line, z, z)[0])


@pytest.mark.parametrize(
    ("celsius", "speed"), [(0, 331.32), (20, 343.235), (100, 387.2472), (300, 479.9331), (500, 557.4148)]
)
def test_speed_of_sound_of_ideal_air(celsius: float, speed: float) -> None:
    """D002 to D007."""
    assert speed_of_sound(celsius) == pytest.approx(speed, abs=0.02)


@pytest.mark.parametrize(
    ("ratio", "peak"), [(6, 9.78041), (9, 13.17083), (10, 14.06583), (25, 21.95209), (36, 25.11215)]
)
def test_a_chamber_holds_back_most_where_it_is_a_quarter_wave_long(ratio: float, peak: float) -> None:
    """D027 to D032: 10 lg(1 + (m - 1/m)^2 / 4)."""
    gas, long = Medium.air(20.0), 500.0
    hz = np.array([gas.speed / (4 * long / 1000)])
    assert _loss(pipe(hz, long, 60.0 * math.sqrt(ratio), gas), 60.0, gas) == pytest.approx(peak, abs=1e-4)


@pytest.mark.parametrize(
    ("ratio", "long", "hz", "celsius", "loss"),
    [(4, 300, 200, 20, 5.78362), (9, 500, 171.5, 20, 13.17082), (16, 400, 125, 500, 12.81568)],
)
def test_a_chamber_off_its_peak(ratio: float, long: float, hz: float, celsius: float, loss: float) -> None:
    """D034, D036, D037."""
    gas = Medium.air(celsius)
    line = pipe(np.array([float(hz)]), long, 60.0 * math.sqrt(ratio), gas)
    assert _loss(line, 60.0, gas) == pytest.approx(loss, abs=2e-3)


def test_a_chamber_of_half_waves_holds_back_nothing_and_a_narrow_one_as_a_wide_one() -> None:
    """D039."""
    gas = Medium.air(20.0)
    half = np.array([gas.speed / (2 * 0.5)])
    assert _loss(pipe(half, 500.0, 180.0, gas), 60.0, gas) == pytest.approx(0.0, abs=1e-9)
    hz = np.array([137.0])
    wide, narrow = (_loss(pipe(hz, 500.0, across, gas), 60.0, gas) for across in (180.0, 20.0))
    assert wide == pytest.approx(narrow)


@pytest.mark.parametrize(("long", "hz", "celsius", "loss"), [(400, 250, 20, 4.32432), (1200, 100, 400, 9.60586)])
def test_a_side_branch_off_its_notch(long: float, hz: float, celsius: float, loss: float) -> None:
    """D044, D045: 10 lg(1 + (Sb / 2 S tan kL)^2), main 60 mm, branch 50."""
    gas = Medium.air(celsius)
    line = side_branch(branch_impedance(np.array([float(hz)]), long, 50.0, gas))
    assert _loss(line, 60.0, gas) == pytest.approx(loss, abs=2e-3)


@pytest.mark.parametrize(("hz", "celsius", "long"), [(100, 500, 1393.537), (120, 600, 1234.098), (80, 450, 1684.654)])
def test_a_quarter_wave_is_as_long_as_the_gas_is_hot(hz: float, celsius: float, long: float) -> None:
    """D017 to D019; and at its notch nothing passes."""
    gas = Medium.air(celsius)
    assert quarter_wave_mm(hz, gas.speed) == pytest.approx(long, rel=2e-5)
    line = side_branch(branch_impedance(np.array([hz * 1.0001]), quarter_wave_mm(hz, gas.speed), 50.0, gas))
    assert _loss(line, 60.0, gas) > 60.0


@pytest.mark.parametrize(
    ("volume", "neck", "across", "celsius", "bare", "corrected"),
    [(3, 60, 40, 400, 218.72143, 174.7443), (2, 30, 30, 500, 304.50132, 223.87382)],
)
def test_a_volume_behind_a_neck(
    volume: float, neck: float, across: float, celsius: float, bare: float, corrected: float
) -> None:
    """D023, D024, without and with 0.85 radii at both ends."""
    speed = speed_of_sound(celsius)
    assert helmholtz_hz(volume, neck, across, speed) == pytest.approx(bare, rel=1e-4)
    assert helmholtz_hz(volume, neck, across, speed, 0.85) == pytest.approx(corrected, rel=1e-4)
    assert pytest.approx(0.848826, abs=1e-6) == PISTON


def test_waves_are_plane_up_to_the_first_other_mode() -> None:
    """D042."""
    assert cut_on_hz(200.0, speed_of_sound(500.0)) == pytest.approx(1633.409, abs=0.1)


def test_two_lengths_of_pipe_are_one() -> None:
    gas, hz = Medium.air(300.0), np.linspace(20.0, 2000.0, 50)
    whole, parts = pipe(hz, 900.0, 60.0, gas), in_line([pipe(hz, 300.0, 60.0, gas), pipe(hz, 600.0, 60.0, gas)])
    assert parts == pytest.approx(whole, rel=1e-9, abs=1e-3)
    assert np.linalg.det(parts) == pytest.approx(np.ones(50))


@pytest.mark.parametrize(
    ("levels", "sum_db"),
    [
        ([90, 90, 90], 94.77121),
        ([85, 80], 86.19331),
        ([90, 87, 84], 92.43627),
        ([60] * 4, 66.0206),
        ([70, 64], 70.97323),
    ],
)
def test_levels_add_by_their_energy(levels: list[float], sum_db: float) -> None:
    """D049 to D055."""
    assert added_db(levels) == pytest.approx(sum_db, abs=1e-4)


def test_weightings_are_the_standards() -> None:
    """D058 to D068, IEC 61672-1 table 3; D069 with the table's weights."""
    a = [-56.7, -39.4, -26.2, -16.1, -8.6, -3.2, 0, 1.2, 1.0, -1.1, -6.6]
    c = [-8.5, -3.0, -0.8, -0.2, 0, 0, 0, -0.2, -0.8, -3.0, -8.5]
    assert a_weighting(BANDS) == pytest.approx(a, abs=0.06)
    assert c_weighting(BANDS) == pytest.approx(c, abs=0.06)
    levels = [90, 88, 85, 82, 80, 76, 70, 64]
    assert overall_db(levels, a[2:10]) == pytest.approx(84.83468, abs=1e-3)
    assert overall_db(levels, [0.0] * 8) == pytest.approx(93.53723, abs=1e-3)


@pytest.mark.parametrize(
    ("rated", "held"), [(4000, 3000), (5000, 3750), (6000, 3750), (7400, 3750), (7500, 3750), (8500, 4250)]
)
def test_the_stationary_test_holds_the_engine_by_its_rated_speed(rated: float, held: float) -> None:
    """D077 to D084; D071 to D073 for where the meter stands."""
    assert stationary_rpm(rated) == held
    assert (STATIONARY.away_mm, STATIONARY.angle_deg, STATIONARY.least_high_mm) == (500.0, 45.0, 200.0)
