"""What a card says of the next vehicle is what a review of it finds."""

from __future__ import annotations

import numpy as np
import pytest

from widebend.core.cards import chosen_readings, fitted_to, likeness, misfits, shape_of_system
from widebend.core.laying import system_of
from widebend.core.review import review
from widebend.demo.systems import low_truck, quad_rear, twin_x


def test_it_asks_for_few_readings_each_of_another_thing() -> None:
    design = twin_x()
    readings = chosen_readings(design, review(design))
    assert 5 <= len(readings) <= 8
    assert len({r.thing or r.key for r in readings}) == len(readings)
    assert {r.axis for r in readings if not r.thing} == {"back", "up"}


def test_within_its_play_it_fits_and_beyond_the_review_says_so() -> None:
    """Every thing's reading, moved toward the pipe to inside its play and to well beyond: the review is the judge."""
    design = twin_x()
    found = review(design)
    known = {(f.thing, f.code) for f in found.findings if f.code in ("touches", "tight")}
    for one in [r for r in chosen_readings(design, found) if r.thing and r.play_mm > 3.0]:
        inside = {one.key: one.value_mm + one.sense * 0.9 * one.play_mm}
        beyond = {one.key: one.value_mm + one.sense * (one.play_mm + 12.0)}
        assert misfits([one], inside) == []
        ((_, off),) = misfits([one], beyond)
        assert off == pytest.approx(one.sense * (one.play_mm + 12.0))
        now = {(f.thing, f.code) for f in review(fitted_to(design, [one], beyond)).findings}
        assert any(thing == one.thing and code in ("touches", "tight", "inside") for thing, code in now - known), one


def test_a_start_elsewhere_moves_the_start() -> None:
    design = twin_x()
    start = next(r for r in chosen_readings(design, review(design)) if r.key == "start-up")
    other = fitted_to(design, [start], {start.key: start.value_mm + 9.0})
    before, after = (np.array(d.part(start.part).placed.point, dtype=float) for d in (design, other))
    assert after - before == pytest.approx([0.0, 0.0, 9.0])
    assert misfits([start], {start.key: start.value_mm + 9.0})
    assert review(other).findings != review(design).findings


def test_likeness_orders_systems() -> None:
    twin, truck, quad = (shape_of_system(system_of(d)) for d in (twin_x(), low_truck(), quad_rear()))
    assert likeness(twin, twin) == 1.0
    assert likeness(twin, truck) < 1.0
    nudged = twin + 15.0
    assert likeness(twin, nudged) > max(likeness(twin, truck), likeness(twin, quad))
