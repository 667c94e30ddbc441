"""Random chains for property tests: poses, steps, and the end they reach by separate code."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from widebend.core.space import Pose, pose
from widebend.core.space.chain import BEND, LEG


def random_direction(rng: np.random.Generator) -> np.ndarray:
    v = rng.normal(size=3)
    return v / np.linalg.norm(v)


def random_pose(rng: np.random.Generator) -> Pose:
    return pose(rng.uniform(-500, 500, 3), random_direction(rng), random_direction(rng))


def end_by_rotations(start: Pose, steps: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Point and flow at a chain's end, by rotation vectors: shares no code with the kernel."""
    p, f, r = start.point.copy(), start.flow.copy(), start.reference.copy()
    for kind, a, clr, roll in steps:
        if kind == LEG:
            p = p + a * f
            continue
        # clockwise seen against the flow is left-handed about it
        side = Rotation.from_rotvec(-np.radians(roll) * f).apply(r)
        turn = Rotation.from_rotvec(np.radians(a) * np.cross(f, side))
        centre = p + clr * side  # a mitre turns on the spot: its radius is none
        p = centre + turn.apply(p - centre)
        f, r = turn.apply(f), turn.apply(r)
    return p, f


def hidden_chain(rng: np.random.Generator, n: int, clrs: tuple[float, ...]) -> np.ndarray:
    """A chain of n bends with now and then no leg, a 180, planar rolls or a bend undone by the next."""
    sort = rng.integers(5)

    def leg() -> list[float]:
        return [LEG, 0.0 if rng.random() < 0.15 else rng.uniform(0, 400), 0.0, 0.0]

    steps = [leg()]
    for _ in range(n):
        angle = 180.0 if rng.random() < 0.12 else rng.uniform(5, 178)
        roll = float(rng.choice([0, 90, 180, 270])) if sort == 0 else rng.uniform(0, 360)
        steps += [[BEND, angle, float(rng.choice(clrs)), roll], leg()]
    if sort == 1 and n >= 2:  # parallel or opposed ends: the second bend undoes the first
        steps[3][1], steps[3][3] = steps[1][1], steps[1][3] + 180.0
    return np.array(steps, dtype=float)
