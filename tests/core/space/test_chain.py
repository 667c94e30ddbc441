"""Chains of pieces: rigid motion, reversal, and the same end by separate code."""

import math

import numpy as np
import pytest

from tests.chains import end_by_rotations, hidden_chain, random_direction, random_pose
from widebend.core.bending.rows import from_the_other_end, pieces_from_rows, rows_from_pieces
from widebend.core.geometry import rotation_about
from widebend.core.hardware.shelf import can, start_flange
from widebend.core.laying import NO_RIGID, angle_between, lay_pieces, lay_run
from widebend.core.records import Bend, Design, InLine, Part, Placed, Run, SegmentedBend, Straight, Tube
from widebend.core.space import Pose, chain, pose, pose_from_matrix
from widebend.core.units import Length

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


@pytest.mark.parametrize("seed", range(40))
def test_same_end_as_rotation_vectors(seed: int) -> None:
    rng = np.random.default_rng(seed)
    start, steps = random_pose(rng), hidden_chain(rng, int(rng.integers(1, 6)), (95.25, 63.5))
    end = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
    point, flow = end_by_rotations(start, steps)
    assert end.point == pytest.approx(point, abs=1e-8)
    assert end.flow == pytest.approx(flow, abs=1e-10)


@pytest.mark.parametrize("seed", range(20))
def test_a_rigid_motion_carries_the_whole_chain(seed: int) -> None:
    rng = np.random.default_rng(seed)
    start, steps = random_pose(rng), hidden_chain(rng, 3, (95.25,))
    turn, shift = rotation_about(random_direction(rng), rng.uniform(0, 360)), rng.uniform(-900, 900, 3)
    moved = Pose(turn @ start.point + shift, turn @ start.flow, turn @ start.reference)
    end = pose_from_matrix(chain.lay_frames(start.matrix(), steps, NO_RIGID)[-1])
    there = pose_from_matrix(chain.lay_frames(moved.matrix(), steps, NO_RIGID)[-1])
    assert there.point == pytest.approx(turn @ end.point + shift, abs=1e-8)
    assert there.reference == pytest.approx(turn @ end.reference, abs=1e-10)


@pytest.mark.parametrize("seed", range(20))
def test_the_pipe_from_its_other_end_is_the_same_pipe(seed: int) -> None:
    rng = np.random.default_rng(seed)
    pieces = pieces_from_rows(*_rows(rng))
    start = pose((0, 0, 0), (1, 0, 0))
    laid = lay_pieces(start, pieces, Design(), TUBE)
    back = pieces_from_rows(*from_the_other_end(*rows_from_pieces(pieces)))
    turned = lay_pieces(start, back, Design(), TUBE)
    span = np.linalg.norm(laid[-1].outlet.point - start.point)
    assert np.linalg.norm(turned[-1].outlet.point - start.point) == pytest.approx(span, abs=1e-7)
    assert sum(p.length_mm for p in turned) == pytest.approx(sum(p.length_mm for p in laid))


def _rows(rng):
    from widebend.core.bending.rows import Row

    rows = [Row(rng.uniform(5, 300), rng.uniform(-179, 179), rng.uniform(5, 120), 95.25) for _ in range(4)]
    return rows, float(rng.uniform(5, 300))


def test_a_round_part_in_line_carries_the_reference() -> None:
    part = Part(id="cat", item=can("cat", "cat", 63.5, (300, 110, 110), spigot_mm=40))
    pieces = (Bend(id="a", angle_deg=30, clr_mm=Length(95), roll_deg=40), InLine(id="b", part="cat", roll_deg=25))
    laid = lay_pieces(pose((0, 0, 0), (1, 0, 0)), pieces, Design(parts=(part,)), TUBE)
    assert laid[1].outlet.reference == pytest.approx(laid[0].outlet.reference, abs=1e-12)
    assert laid[1].outlet.point == pytest.approx(laid[0].outlet.point + 380 * laid[0].outlet.flow, abs=1e-9)


def test_pie_of_ten_nines_turns_ninety() -> None:
    """Ten whole 9 deg slices between square cuts make a 90 (reference A066), its ends CLR / cos(4.5 deg) from its
    centre.
    """
    pie = SegmentedBend(id="p", slices=10, turn_each_deg=9.0, clr_mm=Length(114.3))
    laid = lay_pieces(pose((0, 0, 0), (1, 0, 0)), (pie,), Design(), TUBE)[0]
    assert angle_between(laid.outlet.flow, np.array([0.0, 0, 1])) < 1e-9
    wide = 114.3 / math.cos(math.radians(4.5))
    assert laid.outlet.point == pytest.approx([wide, 0, wide], abs=1e-9)


def test_a_run_starts_at_its_port_and_knows_its_miss() -> None:
    start = Part(
        id="s", item=start_flange(63.5), placed=Placed(point=(Length(0), Length(0), Length(300)), axis=(1, 0, 0))
    )
    end = Part(
        id="m",
        item=can("muffler", "m", 63.5, (300, 200, 100)),
        placed=Placed(point=(Length(500), Length(3), Length(304)), axis=(1, 0, 0)),
    )
    run = Run(id="r", start="s.out", aim="m.in", tube=TUBE, pieces=(Straight(id="a", length_mm=Length(500)),))
    laid = lay_run(Design(parts=(start, end), runs=(run,)), run)
    assert laid is not None
    assert laid.miss_mm == pytest.approx(5.0)  # 3-4-5
    assert laid.miss_deg == pytest.approx(0.0)
