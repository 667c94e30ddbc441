"""Things drawn in by hand: where a stroke lands, what it snaps to, and sizes typed over. Plain arithmetic."""

import numpy as np
import pytest

from widebend.core.errors import EditError
from widebend.core.records import Box, Cylinder, Rails, Sphere, Survey, Thing
from widebend.core.survey import bounds, drawn, resized, sizes, snapped_place
from widebend.core.units import Length


def test_strokes_make_shapes() -> None:
    box = drawn("box", "below", np.array([1400.0, 120.0]), np.array([1000.0, -80.0]))
    assert isinstance(box, Box)
    assert [list(edge)[:2] for edge in bounds(box)] == [[1000.0, -80.0], [1400.0, 120.0]]
    side = drawn("box", "left", np.array([1000.0, 300.0]), np.array([1400.0, 420.0]))
    assert [edge[2] for edge in bounds(side)] == [300.0, 420.0]
    bar = drawn("cylinder", "below", np.array([500.0, 0.0]), np.array([2500.0, 0.0]))
    assert isinstance(bar, Cylinder)
    assert bar.b[0] - bar.a[0] == 2000.0
    ball = drawn("sphere", "left", np.array([500.0, 300.0]), np.array([530.0, 340.0]))
    assert isinstance(ball, Sphere)
    assert ball.radius == pytest.approx(50.0)


@pytest.mark.parametrize("kind", ["box", "cylinder", "sphere", "cloud"])
def test_a_tap_or_nonsense_is_refused(kind: str) -> None:
    with pytest.raises(EditError):
        drawn(kind, "below", np.zeros(2), np.full(2, 0.5))


def test_places_snap_to_what_is_near_else_to_the_tape() -> None:
    tank = Thing(id="t", name="tank", shape=Box(center=_at(2000, 300, 300), size=_at(400, 200, 200)))
    survey = Survey(things=(tank,), rails=Rails(left_y_mm=Length(-420), right_y_mm=Length(420)))
    place = snapped_place(survey, "below", np.array([1797.0, 417.2]), 8.0, 1.0)
    assert place.tolist() == [1800.0, 420.0]
    assert snapped_place(survey, "below", np.array([1000.4, 55.6]), 8.0, 1.0).tolist() == [1000.0, 56.0]
    inch = snapped_place(survey, "below", np.array([1000.4, 55.6]), 8.0, 25.4 / 16)
    assert np.allclose(inch / (25.4 / 16), np.round(inch / (25.4 / 16)))


@pytest.mark.parametrize("what", ["front", "left", "underside", "long", "wide", "tall"])
def test_a_size_typed_over_changes_that_and_nothing_else(what: str) -> None:
    box = drawn("box", "below", np.array([1000.0, -80.0]), np.array([1400.0, 120.0]))
    before, after = sizes(box), sizes(resized(box, what, 217.5))
    assert after == pytest.approx(before | {what: 217.5})


def test_a_size_that_leaves_nothing_is_refused() -> None:
    box = drawn("box", "below", np.array([1000.0, -80.0]), np.array([1400.0, 120.0]))
    with pytest.raises(EditError):
        resized(box, "tall", 0.5)


def _at(*values: float) -> tuple[Length, Length, Length]:
    x, y, z = (Length(v) for v in values)
    return x, y, z
