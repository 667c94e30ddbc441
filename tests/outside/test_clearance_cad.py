"""200 random tubes and things against the CAD kernel."""

import numpy as np
import pytest

from tests.outside import cad
from tests.outside.scenes import random_scene
from widebend.core.geometry import FAR, tube_gap


@pytest.mark.parametrize("block", range(10))
def test_distance_agrees_with_the_cad_kernel(block: int) -> None:
    rng = np.random.default_rng(block)
    apart = 0
    for _ in range(20):
        scene = random_scene(rng, spread=350.0)
        got, want = tube_gap(scene.seg[None], scene.row, FAR), cad.distance(scene.seg, scene.row)
        if want > 1e-6:
            apart += 1
            assert got == pytest.approx(want, abs=0.05)
        else:
            assert got < 0.05  # they meet: ours says so, with a depth the other does not know
    assert apart > 3


def test_a_bend_has_the_volume_pappus_gives() -> None:
    rng = np.random.default_rng(3)
    seg = next(s.seg for s in (random_scene(rng) for _ in range(50)) if s.seg[0] == 1)
    assert cad.volume(cad.tube(seg)) == pytest.approx(cad.torus_volume(seg), rel=1e-6)
