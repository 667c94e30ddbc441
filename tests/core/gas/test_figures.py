"""Gas by section C of the reference the project was given: friction, losses, flow, the honeycomb, cooling."""

from __future__ import annotations

import math

import numpy as np
import pytest

from widebend.core.flow import (
    SQUARE_F_RE,
    Monolith,
    bend_crane,
    bend_idelchik,
    bend_loss,
    contraction_gradual,
    contraction_sharp,
    expansion_gradual,
    expansion_sharp,
    friction_factor,
    mitre_blevins,
    mitre_crane,
)
from widebend.core.gas import COLUMNS, by_displacement, by_power, cool, mixed
from widebend.core.gas.march import (
    BORE,
    EMISSIVITY,
    FILM_FACTOR,
    FRICTION_FACTOR,
    LENGTH,
    OUTSIDE,
    ROUGH,
    WRAP_K,
    WRAP_M,
    _film,
)

HP_KW, LB_HPH_G_KWH, LB_H_KG_S = 0.7456998716, 608.277388, 0.45359237 / 3600


@pytest.mark.parametrize(
    ("reynolds", "roughness", "factor"),
    [
        (1e5, 1e-4, 0.01851386608),
        (4000, 0, 0.03990701),
        (1e4, 0, 0.03088295),
        (1e4, 1e-3, 0.03238181),
        (1e5, 1e-3, 0.02217454),
        (1e5, 1e-2, 0.03850354),
        (1e6, 0, 0.01164504),
        (1e6, 1e-3, 0.01994347),
        (1e7, 1e-5, 0.00899571),
        (1e8, 1e-2, 0.03790432),
        (5e4, 7e-4, 0.02316918),
        (2e5, 7e-4, 0.01977836),
        (1000, 0, 0.064),
    ],
)
def test_friction_is_colebrooks(reynolds: float, roughness: float, factor: float) -> None:
    """C001 to C016."""
    assert friction_factor(reynolds, roughness) == pytest.approx(factor, rel=1e-6)


def test_no_flow_has_no_friction() -> None:
    assert friction_factor(0.0, 1e-4) == 0.0


def test_bends_and_mitres_by_their_tables() -> None:
    """C022 to C025, C033: Crane, Blevins, Idelchik; C036, C037 for mitres between the rows."""
    for radius, n in ((1.0, 20), (1.5, 14), (3.0, 12), (20.0, 50)):
        friction = math.pi / 2 * radius * 0.019
        assert bend_crane(radius, 0.019) + friction == pytest.approx(max(n * 0.019, friction))
    assert [mitre_crane(deg, 1.0) for deg in (15, 45, 90)] == [4, 15, 60]
    assert mitre_blevins(60) == 0.5
    assert mitre_blevins(22.5) == pytest.approx(0.06625, abs=1e-4)
    assert mitre_blevins(15) == pytest.approx(0.04, abs=1e-4)
    for radius, k in ((1.0, 0.21), (1.5, 0.1715), (2.0, 0.1485), (3.0, 0.1212)):
        assert bend_idelchik(radius) == pytest.approx(k, abs=1e-4)


def test_area_changes_by_borda_and_crane() -> None:
    """C044 to C046, C049 (Crane), C051 to C053 (Crane, to their five figures)."""
    assert expansion_sharp(0.5, 1.0) == 0.5625
    assert expansion_sharp(57.2, 63.5) == pytest.approx(0.03556319, abs=1e-7)
    assert expansion_sharp(63.5, 101.6) == pytest.approx(0.37133789, abs=1e-7)
    assert contraction_sharp(3.0, 2.0) == pytest.approx(0.2777777, abs=1e-6)
    for bore, wider, angle, expands, narrows in (
        (50.8, 63.5, 20, 0.05851, 0.05001),
        (57.2, 63.5, 14, 0.01127, 0.01839),
        (63.5, 76.2, 30, 0.06283, 0.06327),
    ):
        assert expansion_gradual(bore, wider, angle) == pytest.approx(expands, abs=1e-5)
        assert contraction_gradual(wider, bore, angle) == pytest.approx(narrows, abs=1e-5)


def test_flow_by_power_and_by_displacement() -> None:
    """C067 to C069."""
    assert by_power(300 * HP_KW, 0.5 * LB_HPH_G_KWH, 12.5) == pytest.approx(0.25514571, rel=1e-6)
    assert by_power(300 * HP_KW, 0.5 * LB_HPH_G_KWH, 12.5) / LB_H_KG_S == pytest.approx(2025, rel=1e-6)
    assert by_power(150, 215, 22) == pytest.approx(0.20604167, rel=1e-6)
    assert by_displacement(2.0, 6500, 0.95, 1.184, 12.8) == pytest.approx(0.1313731, rel=1e-6)


@pytest.mark.parametrize(
    ("cells", "wall", "wanted", "speed", "pressure"),
    [
        (100, 0.432, (2.54, 2.108, 0.68877, 1.30696), 44.3124, 1123.54),
        (200, 0.305, (1.79605, 1.49105, 0.6892, 1.84891), 44.2845, 2244.26),
        (400, 0.165, (1.27, 1.105, 0.75704, 2.74041), 40.3164, 3720.18),
        (600, 0.109, (1.03695, 0.92795, 0.80082, 3.45198), 38.1123, 4986.8),
    ],
)
def test_a_honeycomb(cells: float, wall: float, wanted: tuple[float, ...], speed: float, pressure: float) -> None:
    """C100 to C103: 101.6 mm across, 100 long, 0.1 kg/s of air at 600 C."""
    one = Monolith.of(cells, wall)
    assert (one.pitch_mm, one.bore_mm, one.open_share, one.surface_m2_l) == pytest.approx(wanted, rel=1e-3)
    found = one.speed(0.1, 0.404132, 101.6)
    assert found == pytest.approx(speed, rel=1e-3)
    wall_pa = SQUARE_F_RE / 2 * 3.9596e-05 * 0.1 * found / (one.bore_mm / 1000.0) ** 2
    assert wall_pa == pytest.approx(pressure, rel=2e-3)


@pytest.mark.parametrize(
    ("kg_s", "cp", "od", "long", "u", "enters", "around", "wanted"),
    [
        (0.1, 1150, 63.5, 3000, 30, 700, 25, (0.1561235, 602.43114, 11220.419)),
        (0.05, 1120, 50.8, 4000, 25, 600, 20, (0.2849873, 456.17379, 8054.268)),
        (0.2, 1160, 76.2, 2500, 40, 850, 30, (0.1031851, 769.60723, 18651.123)),
    ],
)
def test_gas_cools_along_a_pipe(
    kg_s: float, cp: float, od: float, long: float, u: float, enters: float, around: float, wanted: tuple[float, ...]
) -> None:
    """C105 to C107, by the march: film and skin made as good as no resistance, a wrap so that it passes U."""
    thick, across, n = 0.05, od / 1000, 200
    rows = np.zeros((n, COLUMNS))
    rows[:, LENGTH], rows[:, BORE], rows[:, OUTSIDE] = long / 1000 / n, across, across
    rows[:, FILM_FACTOR], rows[:, EMISSIVITY], rows[:, ROUGH], rows[:, FRICTION_FACTOR] = 1e7, 1e7, 1e-6, 1.0
    rows[:, WRAP_M], rows[:, WRAP_K] = thick, u * across * math.log((across + 2 * thick) / across) / 2
    table = np.array([np.full(40, v) for v in (cp, 4e-5, 0.06)])
    totals, _, _ = cool(kg_s, enters + 273.15, rows, table, around + 273.15, 0.0)
    units, leaves, heat = wanted
    assert totals[-1] - 273.15 == pytest.approx(leaves, rel=1e-4)
    assert kg_s * cp * (totals[0] - totals[-1]) == pytest.approx(heat, rel=1e-3)
    assert math.log((totals[0] - around - 273.15) / (totals[-1] - around - 273.15)) == pytest.approx(units, rel=1e-3)


def test_the_film_inside() -> None:
    """C108: air of 600 C, 0.1 kg/s in a smooth pipe of 60.2 mm gives 113.15 W/m2 K (Gnielinski)."""
    row = np.zeros(COLUMNS)
    row[BORE], row[ROUGH], row[FILM_FACTOR] = 0.0602, 1e-9, 1.0
    air = mixed({"Nitrogen": 0.7812, "Oxygen": 0.2188})
    assert _film(0.1, row, air.table, 873.15) == pytest.approx(113.1492, rel=0.01)


# K less its own friction at Re 2e5, 45 um in 60.5 mm: the library fluids 1.3.1, Rennels, Miller and Crane
PUBLISHED = {
    (30, 1.0): (0.139, 0.054, 0.223),
    (30, 1.5): (0.116, 0.066, 0.141),
    (30, 2.0): (0.102, 0.071, 0.104),
    (45, 1.0): (0.189, 0.095, 0.251),
    (45, 1.5): (0.145, 0.095, 0.158),
    (45, 2.0): (0.123, 0.097, 0.117),
    (60, 1.0): (0.233, 0.153, 0.278),
    (60, 1.5): (0.167, 0.134, 0.175),
    (60, 2.0): (0.137, 0.122, 0.129),
    (90, 1.0): (0.309, 0.289, 0.333),
    (90, 1.5): (0.195, 0.227, 0.209),
    (90, 2.0): (0.156, 0.186, 0.154),
}


@pytest.mark.parametrize(("turn", "radius"), PUBLISHED)
def test_a_bends_range_holds_what_is_published_and_its_median_is_near(turn: float, radius: float) -> None:
    published = PUBLISHED[turn, radius]
    least, usual, most = bend_loss(radius * 60.5, turn, 60.5, 0.045).k
    assert least <= min(published) + 0.006
    assert most >= max(published) - 0.012
    assert usual == pytest.approx(sorted(published)[1], rel=0.25)
