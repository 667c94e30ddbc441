"""Other sizes of tube for the whole system, and closed branches under the vehicle."""

from __future__ import annotations

import pytest

from widebend.core.errors import EditError
from widebend.core.gas import breath_of
from widebend.core.heat import covered
from widebend.core.quieting import fitted_branch
from widebend.core.records import Design, Tube
from widebend.core.review import review
from widebend.core.sizing import main_tube, radii_for, resized, stops_telling, with_bore
from widebend.core.sound import drones, heard, levels_by_speed, mends
from widebend.core.units import Length
from widebend.demo.examples import cat_back
from widebend.demo.systems import low_truck, twin_x


def _tube(od: float) -> Tube:
    return Tube(od_mm=Length(od), wall_mm=Length(1.5), material="304")


def test_wider_takes_less_weighs_more_and_hangs_lower() -> None:
    bores = [with_bore(twin_x(), _tube(od)) for od in (50.8, 63.5, 76.2)]
    assert [b.pa.usual for b in bores] == sorted((b.pa.usual for b in bores), reverse=True)
    assert [b.mass_kg for b in bores] == sorted(b.mass_kg for b in bores)
    lows = [b.low_line_mm or 0.0 for b in bores]
    assert lows[0] - lows[2] == pytest.approx(12.7, abs=0.1)
    assert bores[0].fastest > 1.8 * bores[2].fastest


def test_everything_that_meets_the_pipe_is_of_its_size() -> None:
    design = resized(twin_x(), _tube(76.2))
    assert main_tube(design).od_mm == 76.2
    assert not [f for f in review(design).findings if f.code == "step"]


def test_a_size_that_does_not_fit_as_it_lies_says_so_and_is_laid_anew() -> None:
    wide = with_bore(low_truck(), Tube(od_mm=Length(88.9), wall_mm=Length(1.5), material="409"))
    assert wide.touches or wide.tight
    relaid = with_bore(twin_x(), _tube(57.15), radii_mm=radii_for(_tube(57.15), {57.15: (85.7,)}), relaid=True)
    assert relaid.laid and relaid.misses == 0 and relaid.touches == 0


def test_where_bigger_stops_telling() -> None:
    bores = [with_bore(twin_x(), _tube(od)) for od in (63.5, 76.2, 88.9, 101.6)]
    wide = [with_bore(twin_x(), _tube(od)) for od in (88.9, 90.0)]  # a millimetre takes off next to nothing
    assert stops_telling(wide) == wide[0].tube
    assert stops_telling(bores[:2]) is None
    assert stops_telling(bores[:1]) is None


def test_no_pipe_has_no_main_tube() -> None:
    with pytest.raises(EditError, match="no pipe"):
        main_tube(Design())


def test_the_estates_drone_is_mended_by_a_branch_that_fits() -> None:
    design = cat_back()
    engine, found = design.settings.engine, review(design)
    assert engine is not None
    breath = breath_of(design, found.system, "cruise", covered(design))
    drone = drones(engine, breath, levels_by_speed(engine, breath, heard(breath)), design.settings.rules)[0]
    fits = [
        f
        for m in mends(engine, breath, drone)
        if m.kind == "quarter wave"
        if (f := fitted_branch(design, m, found)) is not None and f.fits
    ]
    assert fits
    mended = fits[0].design
    after = review(mended)
    assert {f.code for f in after.findings if f.run == fits[0].run} <= {"trapped", "long-section"}
    other = breath_of(mended, after.system, "cruise", covered(mended))
    assert len(other.ways.capped) == 1
    left = drones(engine, other, levels_by_speed(engine, other, heard(other)), design.settings.rules)
    assert not left or left[0].level_db < drone.level_db - 4
