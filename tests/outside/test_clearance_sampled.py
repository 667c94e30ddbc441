"""2,000 random tubes and things against fine sampling, which shares no code with the kernel."""

import numpy as np
import pytest

from tests.outside.scenes import random_prism, random_scene, sampled_gap
from widebend.core.geometry import swept_gap, tube_gap
from widebend.core.geometry.clearance import FAR


@pytest.mark.parametrize("block", range(20))
def test_gap_of_random_tubes(block: int) -> None:
    rng = np.random.default_rng(500 + block)
    clashing = 0
    for _ in range(100):
        scene = random_scene(rng)
        want = sampled_gap(scene)
        assert tube_gap(scene.seg[None], scene.row, FAR) == pytest.approx(want, abs=0.05 if want > 0 else 0.2)
        clashing += want < 0
    assert clashing > 5  # centre lines inside and ends poking in are among them


def test_a_chain_ending_near_counts_its_flat_end() -> None:
    """Tube r 31.75 pointing at a wall 10 mm ahead: gap 10, not 10 - 31.75, though a bend follows the first leg."""
    wall = np.r_[3, 1.0, 0, 0, -10.0, np.zeros(11)]  # solid where x < -10
    leg = np.r_[0, 20.0, 31.75, 0, 0, 0, 1.0, 0, 0, 0, 0, 0, 0, 1]
    bend = np.r_[1, 95.25 * 0.5, 31.75, 20.0, 0, 0, 1.0, 0, 0, 0, 0, 1.0, 95.25, 2]
    assert tube_gap(np.array([leg, bend]), wall, FAR) == pytest.approx(10.0, abs=0.01)


def test_centre_line_through_a_bar() -> None:
    """A tube across a bar of radius 45, centre lines 12 apart: minus (45 + 31.75 - 12)."""
    bar = np.r_[2, 0, -600.0, 0, 0, 600.0, 0, 45.0, np.zeros(8)]
    tube = np.r_[0, 400.0, 31.75, -200.0, 0, 12.0, 1.0, 0, 0, 0, 0, 1, 0, 3]
    assert tube_gap(tube[None], bar, FAR) == pytest.approx(-64.75, abs=0.01)


@pytest.mark.parametrize("seed", range(30))
def test_wide_bodies_against_points_of_their_surface(seed: int) -> None:
    """Box, oval and round bodies that stand clear: the gap is the least signed distance of their sampled points."""
    from tests.outside.scenes import direction, random_solid, signed

    rng = np.random.default_rng(seed)
    row = random_solid(rng, 300.0)
    f = direction(rng)
    u = np.cross(f, direction(rng))
    u /= np.linalg.norm(u)
    v = np.cross(f, u)
    r, hu, hv, length = rng.uniform(0, 30), rng.uniform(0, 90), rng.choice([0.0, 40.0]), rng.uniform(50, 300)
    seg = np.r_[0, length, r, rng.uniform(-300, 300, 3), f, u, 0, 3]
    a, b, c = np.meshgrid(np.linspace(0, length, 25), np.linspace(-hu, hu, 25), np.linspace(-hv, hv, 9))
    core = seg[3:6] + a.reshape(-1, 1) * f + b.reshape(-1, 1) * u + c.reshape(-1, 1) * v
    ring = np.linspace(0, 2 * np.pi, 25)
    points = np.concatenate([core + r * (np.cos(t) * u + np.sin(t) * v) for t in ring])
    want = signed(row, points).min()
    got = swept_gap(seg, hu, hv, u, v, row, FAR)
    if want > 1.0:
        assert want - 12.0 < got <= want + 0.01  # the samples are up to a dozen mm apart: never nearer than the answer
    elif want < -1.0:
        assert got < 0.0


def test_random_tubes_and_outlines_against_a_fine_sampling() -> None:
    """300 straights and bends near, through and inside convex outlines with a depth."""
    rng, inside = np.random.default_rng(44), 0
    for _ in range(300):
        scene = random_scene(rng)
        scene.row = random_prism(rng, 150.0)
        want = sampled_gap(scene)
        inside += want < -scene.seg[2]
        assert tube_gap(scene.seg[None], scene.row, FAR) == pytest.approx(want, abs=0.05 if want > 0 else 0.2)
    assert inside > 15
