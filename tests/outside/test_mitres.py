"""Mitres and slices against their true shape: worked by hand, and sampled by separate code."""

import math

import numpy as np
import pytest

from tests.outside import mitred
from tests.outside.scenes import random_prism, random_solid
from widebend.core.geometry import FAR, HALFSPACE, WIDTH, tube_gap
from widebend.core.laying import LaidRun, lay_pieces, tube_segments
from widebend.core.records import Bend, Design, Mitre, Piece, Run, SegmentedBend, Straight, Tube
from widebend.core.space import pose
from widebend.core.units import Length

TUBE = Tube(od_mm=Length(63.5), wall_mm=Length(1.5))


def _rows(*pieces: Piece, up: tuple[float, float, float] = (0, 0, 1)) -> np.ndarray:
    start = pose((0, 0, 0), (1, 0, 0), up)
    run = Run(id="r", start="s.out", tube=TUBE, pieces=pieces)
    return tube_segments(LaidRun(run, start, lay_pieces(start, pieces, Design(), TUBE), None)).rows


def _leg(name: str, length: float) -> Straight:
    return Straight(id=name, length_mm=Length(length))


def _floor(height: float) -> np.ndarray:
    row = np.zeros(WIDTH)
    row[0], row[3], row[4] = HALFSPACE, 1.0, height
    return row


@pytest.mark.parametrize("turn", [10.0, 30.0, 60.0, 90.0])
@pytest.mark.parametrize("roll", [90.0, 270.0])
def test_a_mitred_pipe_lying_over_a_floor(turn: float, roll: float) -> None:
    """Turning level, a pipe whose underside is 10 mm over a floor stays 10 mm over it, whatever the turn: the mitre's
    heel stands out sideways only.
    """
    rows = _rows(_leg("a", 200), Mitre(id="m", turn_deg=turn, roll_deg=roll), _leg("b", 200))
    assert tube_gap(rows, _floor(-31.75 - 10.0), FAR) == pytest.approx(10.0, abs=0.01)


@pytest.mark.parametrize("turn", [10.0, 30.0, 60.0, 90.0])
def test_the_heel_of_a_mitre(turn: float) -> None:
    """Turning up by t over a floor that touches neither leg: the heel stands r / cos(t / 2) from the corner, along the
    bisector; the floor square to the bisector is met there.
    """
    rows = _rows(_leg("a", 200), Mitre(id="m", turn_deg=turn, roll_deg=0.0), _leg("b", 200))
    half = math.radians(turn / 2)
    wall = np.zeros(WIDTH)
    wall[0], wall[1:4] = HALFSPACE, (-math.sin(half), 0.0, math.cos(half))
    wall[4] = wall[1] * 200.0 - 31.75 / math.cos(half) - 5.0
    assert tube_gap(rows, wall, FAR) == pytest.approx(5.0, abs=0.01)


def test_six_slices_end_where_whole_wedges_between_square_cuts_end() -> None:
    """Six whole 15 deg wedges at CLR 95.25 (reference A049): seen from the bend's centre both faces stand at
    CLR / cos(7.5 deg), so the bend is 96.072 mm wide each way: 1.2 mm more than a bent one; two 45s 11.1 mm.
    """
    for slices, turn, off in ((6, 15.0, 1.163), (2, 45.0, 11.099)):
        pie = SegmentedBend(id="p", slices=slices, turn_each_deg=turn, clr_mm=Length(95.25))
        end = lay_pieces(pose((0, 0, 0), (1, 0, 0)), (pie,), Design(), TUBE)[0].outlet
        wide = 95.25 / math.cos(math.radians(turn / 2))
        assert end.point == pytest.approx([wide, 0.0, wide], abs=1e-9)
        assert end.flow == pytest.approx([0, 0, 1], abs=1e-12)
        bent = lay_pieces(
            pose((0, 0, 0), (1, 0, 0)), (Bend(id="b", angle_deg=90, clr_mm=Length(95.25)),), Design(), TUBE
        )
        assert float(np.linalg.norm(end.point - bent[0].outlet.point)) == pytest.approx(off, abs=0.001)


def _line(pieces: tuple[Piece, ...]) -> np.ndarray:
    """The corners of a line of straights, by rotation matrices of this file's own."""
    at, way, up = np.zeros(3), np.array([1.0, 0, 0]), np.array([0, 0, 1.0])
    corners = [at]

    def turn(deg: float, roll: float) -> None:
        nonlocal way, up
        across = np.cross(up, way)
        side = math.cos(math.radians(roll)) * up + math.sin(math.radians(roll)) * across
        c, s = math.cos(math.radians(deg)), math.sin(math.radians(deg))

        def turned(v: np.ndarray) -> np.ndarray:
            flat = v - (v @ way) * way - (v @ side) * side
            return flat + (v @ way) * (c * way + s * side) + (v @ side) * (c * side - s * way)

        way, up = turned(way), turned(up)

    for piece in pieces:
        if isinstance(piece, Straight):
            at = at + piece.length_mm * way
            corners.append(at)
        elif isinstance(piece, Mitre):
            turn(piece.turn_deg, piece.roll_deg)
        elif isinstance(piece, SegmentedBend):
            for i in range(piece.slices):
                roll = piece.roll_deg + i * piece.roll_each_deg
                turn(piece.turn_each_deg / 2, roll)
                at = at + 2 * piece.clr_mm * math.tan(math.radians(piece.turn_each_deg / 2)) * way
                corners.append(at)
                turn(piece.turn_each_deg / 2, roll)
    return np.array(corners)


def test_random_mitres_and_slices_against_their_sampled_shape() -> None:
    """Legs, mitres and slices near things of every kind: within 0.05 mm where they stand clear."""
    rng, clear, heels = np.random.default_rng(12), 0, 0
    for k in range(120):
        turning: Piece = Mitre(id="m", turn_deg=rng.uniform(5, 90), roll_deg=rng.uniform(0, 360))
        if k % 2:
            n = int(rng.integers(2, 9))
            turning = SegmentedBend(
                id="m",
                slices=n,
                turn_each_deg=min(170 / n, rng.uniform(5, 30)),
                clr_mm=Length(rng.uniform(60, 130)),
                roll_deg=rng.uniform(0, 360),
            )
        pieces = (_leg("a", 180.0), turning, _leg("b", 160.0))
        rows, line = _rows(*pieces), _line(pieces)
        if k % 2:  # square-cut pipe against the slanted face of a slice
            faces = _square_faces(line)
        points = np.concatenate(faces) if k % 2 else mitred.skin(line, 31.75, (_way(line, 0), _way(line, -1)))
        middle = line[1 + (len(line) - 3) // 2]
        row = random_solid(rng, 60.0) if k % 3 else random_prism(rng, 60.0)
        if row[0] != HALFSPACE:
            off = rng.normal(size=3)
            off *= rng.uniform(60, 220) / np.linalg.norm(off)
            row[1:4] += middle + off
            row[4:7] += (middle + off) if int(row[0]) in (1, 2) else 0.0
        want = mitred.gap(points, row)
        if want <= 0.5:
            continue
        clear += 1
        got = tube_gap(rows, row, FAR)
        heels += got < tube_gap(rows[rows[:, 0] != 2], row, FAR) - 0.1
        assert got == pytest.approx(want, abs=0.05), k
    assert clear > 40
    assert heels > 4


def _way(line: np.ndarray, k: int) -> np.ndarray:
    way = np.diff(line, axis=0)[k]
    return way / np.linalg.norm(way)


def _square_faces(line: np.ndarray) -> list[np.ndarray]:
    """The three bodies of a leg, slices, a leg: the legs cut square, the slices by the legs' faces."""
    first, last = _way(line, 0), _way(line, -1)
    return [
        mitred.skin(line[:2], 31.75, (first, first)),
        mitred.skin(line[1:-1], 31.75, (first, last)),
        mitred.skin(line[-2:], 31.75, (last, last)),
    ]
