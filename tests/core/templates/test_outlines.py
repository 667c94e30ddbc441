"""Outlines on plate and sheet: what a rule laid on them reads."""

import math

import numpy as np
import pytest
from shapely import Polygon

from widebend.core.errors import InputError
from widebend.core.templates import end_plate, flange, gasket, hole, oval, shell


def test_a_round_tube_pressed_keeps_its_way_round() -> None:
    """76.2 mm (3 in) pressed to 2 in: the perimeter stays pi D, so it is 90.7 mm wide."""
    outline = oval(76.2, 50.8).strokes[0].points
    assert Polygon(outline).length == pytest.approx(math.pi * 76.2, rel=1e-4)
    assert np.ptp(outline[:, 1]) == pytest.approx(50.8, abs=0.01)
    assert np.ptp(outline[:, 0]) == pytest.approx(90.70, abs=0.01)


def test_a_shell_goes_round_the_middle_of_its_sheet() -> None:
    """A round can of 100 mm outside in 1 mm sheet: pi (100 - 1) and the lap."""
    drawn = shell(100.0, 100.0, 300.0, 1.0, 10.0, 6.0)
    assert (drawn.high - drawn.low).tolist() == pytest.approx([math.pi * 99.0 + 10.0, 312.0])


def test_a_flange_has_its_land_and_its_bolts_on_their_circle() -> None:
    drawn = flange(63.5, 3, 100.0, 10.5, 8.0, 7.0)
    outer, bore, *bolts = [Polygon(s.points) for s in drawn.strokes if s.closed]
    assert [b.centroid.distance(bore.centroid) for b in bolts] == pytest.approx([50.0] * 3)
    assert outer.exterior.distance(bore) == pytest.approx(8.0, abs=0.02)
    assert min(outer.exterior.distance(b) for b in bolts) == pytest.approx(7.0, abs=0.02)
    ring = [Polygon(s.points) for s in gasket(63.5, 3, 100.0, 10.5, 8.0, 7.0, 1.0).strokes if s.closed]
    assert ring[0].equals(outer)
    assert ring[1].exterior.distance(outer.exterior) == pytest.approx(7.0, abs=0.02)


def test_an_end_plate_holds_its_hole() -> None:
    drawn = end_plate(220.0, 120.0, 63.5, 40.0, 10.0, 8.0)
    rim, _, port = [Polygon(s.points) for s in drawn.strokes if s.closed]
    assert rim.contains(port)
    assert (port.centroid.x, port.centroid.y) == pytest.approx((40.0, 10.0), abs=1e-6)


def test_a_hole_leaves_its_gap() -> None:
    edge = hole(88.9, 12.0, "the tip").strokes[0].points
    assert np.linalg.norm(edge, axis=1) == pytest.approx(88.9 / 2 + 12.0)


def test_what_cannot_be_is_refused_at_its_field() -> None:
    refused = (
        (lambda: flange(63.5, 2, 70.0, 10.0, 8.0, 6.0), "circle"),
        (lambda: gasket(63.5, 3, 100.0, 10.0, 8.0, 6.0, 9.0), "clear"),
        (lambda: oval(50.0, 60.0), "high"),
        (lambda: shell(80.0, 120.0, 300.0, 1.0, 10.0, 0.0), "width"),
        (lambda: end_plate(220.0, 120.0, 63.5, 90.0, 0.0, 8.0), "right"),
        (lambda: shell(2000.0, 500.0, 300.0, 1.0, 0.0, 0.0), ""),
    )
    for draw, field in refused:
        with pytest.raises(InputError) as said:
            draw()
        assert said.value.field == field
