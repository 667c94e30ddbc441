"""A piece as it lies on the bench: what a tape laid on the picture reads is what the marks say."""

import math

import numpy as np
import pytest

from widebend.core.cutting import cut_lists, hand_of, on_bench, witness_marks
from widebend.core.cutting.bench_picture import Picture, Stroke
from widebend.core.editing import mirror_run
from widebend.core.hardware import start_flange
from widebend.core.laying import system_of
from widebend.core.records import Bend, Design, Part, Placed, Run, SegmentedBend, StockBend, Straight, Tube
from widebend.core.units import Length

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


def _picture(*pieces: object, stock: float = 90.0) -> list[Picture]:
    design = _design(*pieces, stock=stock)
    return [p for cuts in cut_lists(design, system_of(design).runs) for c in cuts.pieces if (p := on_bench(c, 2.0))]


def _design(*pieces: object, stock: float) -> Design:
    at = Placed(point=(Length(0), Length(0), Length(300)), axis=(1.0, 0.0, 0.0))
    part = Part(id="f", item=start_flange(63.5), placed=at)
    run = Run(id="r", start=f"f.{part.item.ports[-1].id}", tube=TUBE, pieces=pieces)
    bends = (StockBend(angle_deg=stock, clr_mm=Length(95.25), leg_mm=Length(100.0)),)
    design = Design(parts=(part,), runs=(run,))
    return design.replace(settings=design.settings.replace(stock=bends))


def _along(points: np.ndarray) -> float:
    return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


def _one(picture: Picture, kind: str) -> Stroke:
    return next(s for s in picture.strokes if s.kind == kind)


def test_the_outline_of_a_bend_is_as_long_as_its_tapes_say() -> None:
    """Heel and throat of 45 deg at 1.5 x OD: reference A005's outside and inside arcs, 99.746 and 49.873 mm."""
    picture = _picture(Bend(id="b", angle_deg=45.0, clr_mm=Length(95.25), roll_deg=30.0))[0]
    tapes = {t.where: t.mm for t in picture.tapes}
    assert (tapes["heel"], tapes["throat"], tapes["sides"]) == pytest.approx((99.74557, 49.87278, 74.80918), abs=1e-5)
    corners = _one(picture, "kept").points
    assert _along(corners[1:26]) == pytest.approx(tapes["heel"], rel=2e-4)
    # cut through the bend's centre: the cut's line points at it
    cut = _one(picture, "cut").points
    centre = np.array([0.0, 95.25])
    a, b = cut - centre
    assert a[0] * b[1] - a[1] * b[0] == pytest.approx(0.0, abs=1e-6)
    # the saw runs the facing outside the mark, on the middle line
    saw = np.linalg.norm(_one(picture, "saw").points.mean(axis=0) - cut.mean(axis=0))
    assert saw == pytest.approx(2.0, rel=1e-3)


def test_the_reference_line_lies_where_the_roll_says() -> None:
    """A bend that turns toward its line has it along its throat; at 180 deg along its heel; at 90 in the middle."""
    for roll, radius in ((0.0, 95.25 - 31.75), (180.0, 95.25 + 31.75), (90.0, 95.25)):
        picture = _picture(Bend(id="b", angle_deg=90.0, clr_mm=Length(95.25), roll_deg=roll), stock=90.0)[0]
        line = next(s for s in picture.strokes if s.kind in ("line", "far line"))
        arc = line.points[1:26]
        assert np.linalg.norm(arc - [0.0, 95.25], axis=1) == pytest.approx(radius, abs=1e-9)


def test_slices_and_straights_are_drawn_with_their_figures() -> None:
    """Slices of 15 deg: reference A049's heel and throat, 33.43973 and 16.71987 mm."""
    fan, bar = _picture(
        SegmentedBend(id="p", slices=6, turn_each_deg=15.0, clr_mm=Length(95.25)),
        Straight(id="l", length_mm=Length(600.0)),
    )
    assert {t.where: round(t.mm, 5) for t in fan.tapes} == {"heel": 33.43973, "throat": 16.71987, "middle": 25.0798}
    assert sum(s.kind == "kept" for s in fan.strokes) == 6
    assert bar.broken
    assert bar.tapes[0].mm == 600.0


def test_witness_marks_fit_one_way_only() -> None:
    marks = witness_marks(TUBE)
    round_it = math.pi * 63.5
    gaps = [(b - a) % round_it for a, b in zip(marks, (*marks[1:], marks[0]), strict=True)]
    assert len({round(g, 3) for g in gaps}) == 3
    turned = [sorted((m + k) % round_it for m in marks) for k in np.linspace(1.0, round_it - 1.0, 200)]
    assert all(max(abs(a - b) for a, b in zip(t, sorted(marks), strict=True)) > 0.4 for t in turned)
    mirrored = sorted(round_it - m for m in marks)
    assert (
        min(
            max(abs((m + k) % round_it - n) for m, n in zip(mirrored, sorted(marks), strict=True))
            for k in np.linspace(0.0, round_it, 400)
        )
        > 1.0
    )


def test_left_and_right_are_told_apart() -> None:
    """A run 200 mm left of the middle and its image: left and right; one without a twin has no hand."""
    design = _design(Straight(id="l", length_mm=Length(300.0)), stock=90.0)
    assert hand_of(design, system_of(design).runs[0]) == ""
    flange = design.parts[0]
    moved = flange.placed.replace(point=(Length(0), Length(-200), Length(300)))
    design = design.replace(parts=(flange.replace(placed=moved),))
    twins = mirror_run(design, "r")
    assert [hand_of(twins, laid) for laid in system_of(twins).runs] == ["left", "right"]
