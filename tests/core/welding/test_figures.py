"""Figures of welding against published tables and worked values: each row says its source and how sure it is.

Kinds: "from memory" are facts of a standard as remembered, "derived by hand" a formula worked out beside.
"""

from __future__ import annotations

from typing import get_args

import pytest

from widebend.core.errors import InputError
from widebend.core.welding import (
    Shade,
    argon_that_lowers,
    consumables,
    current_a,
    heat_input_kj_mm,
    hours_at,
    inside_l,
    process_refusal,
    purge_for,
    shade,
    torque_nm,
    tungsten_mm,
    volumes_to,
)
from widebend.facts import Material, Process


@pytest.mark.parametrize(
    ("dba", "osha", "niosh"),
    [
        (90, 8.0, 2.519842),
        (95, 4.0, 0.793701),
        (100, 2.0, 0.25),
        (105, 1.0, 0.078745),
        (115, 0.25, 0.007812),
    ],
)
def test_hours_at_a_sound_level(dba: float, osha: float, niosh: float) -> None:
    """29 CFR 1910.95 table G-16 and NIOSH 98-126: derived by hand from their formulas."""
    assert hours_at(dba) == pytest.approx((osha, niosh), abs=1e-5)


@pytest.mark.parametrize(
    ("process", "amps", "least", "comfort"),
    [
        ("TIG", 40, 8, 10),
        ("TIG", 100, 8, 12),
        ("TIG", 200, 10, 14),
        ("MIG", 50, 7, None),
        ("MIG", 120, 10, 11),
        ("MIG", 200, 10, 12),
        ("MIG", 300, 10, 14),
        ("stick", 50, 7, None),
        ("stick", 120, 8, 10),
        ("stick", 200, 10, 12),
        ("stick", 300, 11, 14),
        ("gas", 0, 4, 5),
    ],
)
def test_shades(process: str, amps: float, least: int, comfort: int | None) -> None:
    """AWS/ANSI Z49.1 and 29 CFR 1910.133, from memory."""
    assert shade(process, amps) == Shade(least, comfort)  # type: ignore[arg-type]


def test_beyond_the_tables_is_refused() -> None:
    for wrong in (
        lambda: shade("TIG", 900),
        lambda: tungsten_mm(400),
        lambda: torque_nm(7, 0.12),
        lambda: volumes_to(0),
    ):
        with pytest.raises(InputError):
            wrong()


@pytest.mark.parametrize(("inch", "amps"), [(0.049, 49), (0.065, 65), (0.083, 83), (0.120, 120)])
def test_current_by_the_wall(inch: float, amps: float) -> None:
    """An ampere a thousandth of an inch: workshop rule of thumb, from memory."""
    assert current_a(inch * 25.4) == pytest.approx(amps)


def test_tungstens() -> None:
    """AWS A5.12 and C5.5, from memory: 1.0 mm 15 to 80 A, 1.6 mm 70 to 150, 2.4 mm 150 to 250."""
    assert [tungsten_mm(amps) for amps in (40, 65, 120, 200)] == [1.0, 1.0, 1.6, 2.4]


@pytest.mark.parametrize(
    ("first", "second", "rod"),
    [
        ("304", "304", "ER308L"),
        ("304", "mild", "ER309L"),
        ("409", "304", "ER309L"),
        ("mild", "mild", "ER70S-6"),
        ("titanium", "titanium", "ERTi-2"),
        ("titanium", "304", None),
    ],
)
def test_fillers(first: str, second: str, rod: str | None) -> None:
    """AWS A5.9, A5.16, A5.18 practice, from memory."""
    found = consumables("TIG", frozenset({first, second}))  # type: ignore[arg-type]
    assert (found.filler if found else None) == rod


def test_heat_input() -> None:
    """10 V, 65 A, 100 mm/min: derived by hand, 60 V I / (1000 v); EN 1011-1 takes 0.6 of it for TIG."""
    assert heat_input_kj_mm("TIG", 10, 65, 100) == pytest.approx((0.39, 0.234))


@pytest.mark.parametrize(
    ("inside", "long", "litres", "minutes"),
    [
        (60.2, 1000, 2.846314, 2.277051),
        (73.0, 2500, 10.463467, 8.370774),
        (47.5, 600, 1.063233, 0.850586),
    ],
)
def test_purge(inside: float, long: float, litres: float, minutes: float) -> None:
    """Eight volumes at 10 l/min: derived by hand, pi / 4 D^2 L."""
    assert inside_l(inside, long) == pytest.approx(litres, abs=1e-4)
    found = purge_for(inside, long, 10.0)
    assert found.flush_min == pytest.approx(minutes, abs=1e-4)
    assert found.gas_l == pytest.approx(8 * litres + 40.0, abs=1e-3)


@pytest.mark.parametrize(("ppm", "volumes"), [(10000, 3.042139), (1000, 5.344724), (100, 7.647309), (50, 8.340456)])
def test_volumes_by_dilution(ppm: float, volumes: float) -> None:
    """ln(C0 / C), perfectly mixed: derived by hand."""
    assert volumes_to(ppm) == pytest.approx(volumes, abs=1e-5)


def test_argon_in_a_closed_room() -> None:
    """60 m3, well mixed, to 19.5 % oxygen (29 CFR 1910.146): derived by hand, V ln(20.95 / 19.5)."""
    assert argon_that_lowers(60.0) == pytest.approx(4.303451, abs=1e-4)


@pytest.mark.parametrize(
    ("thread", "row"), [(6, (9, 10.1, 11.3)), (8, (21.6, 24.6, 27.3)), (10, (43, 48, 54)), (12, (73, 84, 93))]
)
def test_torques(thread: int, row: tuple[float, ...]) -> None:
    """VDI 2230, class 8.8, friction 0.10, 0.12, 0.14, from memory, within 5 %."""
    assert [torque_nm(thread, friction) for friction in (0.10, 0.12, 0.14)] == pytest.approx(row, rel=0.05)


@pytest.mark.parametrize("process", get_args(Process))
@pytest.mark.parametrize("metal", get_args(Material))
@pytest.mark.parametrize("wall", [1.2, 2.0])
def test_every_process_on_every_metal_has_its_filler_or_its_way_round(process: str, metal: str, wall: float) -> None:
    """By hand from AWS A5.1, A5.2, A5.4, A5.9, A5.16 and A5.18 (from memory): what each is, and what is never done."""
    refused = process_refusal(process, frozenset({metal}), wall)  # type: ignore[arg-type]
    uses = consumables(process, frozenset({metal}))  # type: ignore[arg-type]
    never = (metal == "titanium" and process != "TIG") or (process == "gas" and metal in ("304", "409"))
    thin = process == "stick" and wall < 1.5
    assert bool(refused) is (never or thin)
    if refused:
        assert "TIG" in refused
    if never:
        assert uses is None
        return
    assert uses is not None
    starts = {"TIG": "ER", "MIG": "ER", "stick": "E", "gas": "R"}[process]
    assert uses.filler.startswith(starts) and (process != "stick" or not uses.filler.startswith("ER"))
    assert bool(uses.gas) is (process != "stick")
    if process == "TIG":
        assert uses.gas.startswith("argon (")
