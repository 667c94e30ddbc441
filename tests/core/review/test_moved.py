"""What moves, in all its positions at once, beside the same asked position by position."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from widebend.core.laying import REST, Position, obstacles
from widebend.core.review import packed, point_gaps, worst_margins
from widebend.demo.systems import twin_x


def _positions(rng: np.random.Generator) -> tuple[Position, ...]:
    turns = [Rotation.from_rotvec(rng.normal(scale=0.02, size=3)).as_matrix() for _ in range(6)]
    return tuple(Position("", turn, rng.uniform(-20, 20, 3), rng.uniform(1.0, 1.01)) for turn in turns)


def test_the_ribbon_is_the_worst_of_all_positions() -> None:
    design, rng = twin_x(), np.random.default_rng(6)
    around = packed(obstacles(design.survey, design.settings.rules))
    points, radius = rng.uniform((800, -300, 150), (3500, 300, 350), (40, 3)), np.full(40, 31.75)
    positions = (REST, *_positions(rng))
    margins = worst_margins(points, radius, around, positions, 60.0)
    each = [
        (point_gaps(p.points(points), around) - radius[:, None] * p.scale - around.needed).min(axis=1)
        for p in positions
    ]
    assert np.minimum(margins, 60.0) == pytest.approx(np.minimum(np.min(each, axis=0), 60.0), abs=1e-9)
