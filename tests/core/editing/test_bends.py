"""Bends on another radius: the corners stay, the straights give what the bends need."""

import math

import numpy as np
import pytest

from widebend.core.editing import otherwise, set_locked, with_radius
from widebend.core.errors import EditError
from widebend.core.laying import lay_run
from widebend.core.records import Bend, SegmentedBend, Straight
from widebend.demo.systems import twin_x


def test_corners_and_the_end_stay_and_straights_give_their_tangents() -> None:
    design = twin_x()
    run = next(r for r in design.runs if r.name == "left rear")
    after = with_radius(design, run.id, 76.2)
    before, now = (lay_run(d, d.run(run.id)) for d in (design, after))
    assert np.linalg.norm(before.end.point - now.end.point) < 1e-6
    bends = [(p.inlet.point, p.inlet.flow, p.piece) for p in before.pieces if isinstance(p.piece, Bend)]
    for (at, flow, bend), moved in zip(bends, [p for p in now.pieces if isinstance(p.piece, Bend)], strict=True):
        tangent = [float(b.clr_mm) * math.tan(math.radians(b.angle_deg) / 2) for b in (bend, moved.piece)]
        corner = at + tangent[0] * flow
        assert np.linalg.norm(corner - (moved.inlet.point + tangent[1] * moved.inlet.flow)) < 1e-6
    legs = [sum(float(p.length_mm) for p in d.run(run.id).pieces if isinstance(p, Straight)) for d in (design, after)]
    saved = sum(2 * (95.25 - 76.2) * math.tan(math.radians(b.angle_deg) / 2) for *_, b in bends)
    assert legs[1] - legs[0] == pytest.approx(saved)


def test_what_does_not_go_in_is_said_with_what_is_lacking() -> None:
    design = twin_x()
    run = next(r for r in design.runs if r.name == "left rear")
    with pytest.raises(EditError, match="too short for it"):
        with_radius(design, run.id, 900.0)
    with pytest.raises(EditError, match="less than half the tube"):
        with_radius(design, run.id, 20.0)
    with pytest.raises(EditError, match="no bend"):
        with_radius(design, "none", 76.2)


def test_a_bend_of_slices_ends_where_the_bend_does_and_is_made_one_again() -> None:
    """n slices of equal turn on a circle of CLR cos(turn / 2): their tangents add up to the bend's (plain geometry)."""
    design = twin_x()
    run = next(r for r in design.runs if r.name == "left rear")
    bend = next(p for p in run.pieces if isinstance(p, Bend))
    made, words = otherwise(design, run.id, bend.id)
    pie = next(p for p in made.run(run.id).pieces if p.id == bend.id)
    assert isinstance(pie, SegmentedBend)
    assert pie.slices == math.ceil(bend.angle_deg / 15.0 - 1e-9)  # the shop's rule: none turns more than 15 deg
    assert words == f"made of {pie.slices} slices"
    before, now = (lay_run(d, d.run(run.id)) for d in (design, made))
    assert np.linalg.norm(before.end.point - now.end.point) < 1e-6
    back, _ = otherwise(made, run.id, bend.id)
    again = next(p for p in back.run(run.id).pieces if p.id == bend.id)
    assert (again.angle_deg, float(again.clr_mm)) == pytest.approx((bend.angle_deg, float(bend.clr_mm)))
    with pytest.raises(EditError, match="only a bend"):
        otherwise(design, run.id, next(p.id for p in run.pieces if isinstance(p, Straight)))
    with pytest.raises(EditError, match="unlock it first"):
        otherwise(set_locked(design, run.id, bend.id, True), run.id, bend.id)
