"""What moves, in all its positions at once, beside the same asked position by position."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from widebend.core.geometry import moved
from widebend.core.laying import REST, Position, Stacked, obstacles, system_of
from widebend.core.review import packed, point_gaps, tube_gaps, worst_margins
from widebend.core.review.gaps import part_gap
from widebend.demo.systems import twin_x


def _positions(rng: np.random.Generator) -> tuple[Position, ...]:
    turns = [Rotation.from_rotvec(rng.normal(scale=0.02, size=3)).as_matrix() for _ in range(6)]
    return tuple(Position("", turn, rng.uniform(-20, 20, 3), rng.uniform(1.0, 1.01)) for turn in turns)


def test_all_positions_at_once_find_what_each_finds_by_itself() -> None:
    design, rng = twin_x(), np.random.default_rng(5)
    segments = system_of(design).tubes[0].rows
    around = packed([o for o in obstacles(design.survey, design.settings.rules) if o.mesh is None])
    least = tube_gaps(segments, around, 80.0)[0].min(axis=1) - around.needed
    worst, others = max(0.0, float(least.min())), _positions(rng)
    arrays = (*Stacked.of(others).arrays, around.rows, around.owner, around.needed, least, worst, 80.0)
    gaps, along = moved.chain_gaps_moved(segments, *arrays)
    found = 0
    for k, position in enumerate(others):
        theirs, where = tube_gaps(position.rows(segments), around, worst)
        assert np.array_equal(where >= 0, along[k] >= 0)
        assert gaps[k][where >= 0] == pytest.approx(theirs[where >= 0], abs=1e-9)
        found += int((where >= 0).sum())
    assert found > 10


def test_a_part_in_all_positions_is_as_near_as_in_each() -> None:
    design, rng = twin_x(), np.random.default_rng(7)
    around = packed([o for o in obstacles(design.survey, design.settings.rules) if o.mesh is None])
    positions, near = _positions(rng), np.ones((6, len(around.obstacles)), dtype=bool)
    wide = replace(around, needed=around.needed + 300.0)  # exact to where something is always near
    for body in system_of(design).bodies:
        gaps = moved.body_gaps_moved(body.segment, body.half_u, body.half_v, body.u, body.v,
                                     *Stacked.of(positions).arrays[:3], wide.rows, wide.owner, wide.needed,
                                     near)  # fmt: skip
        for k, position in enumerate(positions):
            each = [part_gap(position.body(body), o, n) for o, n in zip(wide.obstacles, wide.needed, strict=True)]
            assert np.minimum(gaps[k], wide.needed) == pytest.approx(np.minimum(each, wide.needed), abs=1e-9)


def test_the_ribbon_is_the_worst_of_all_positions() -> None:
    design, rng = twin_x(), np.random.default_rng(6)
    around = packed(obstacles(design.survey, design.settings.rules))
    points, radius = rng.uniform((800, -300, 150), (3500, 300, 350), (40, 3)), np.full(40, 31.75)
    positions = (REST, *_positions(rng))
    margins = worst_margins(points, radius, around, positions, 60.0)
    each = [(point_gaps(p.points(points), around) - radius[:, None] * p.scale - around.needed).min(axis=1)
            for p in positions]  # fmt: skip
    assert np.minimum(margins, 60.0) == pytest.approx(np.minimum(np.min(each, axis=0), 60.0), abs=1e-9)
