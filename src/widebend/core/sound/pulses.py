"""The source of each bank's pipe: pulses at their crank angles, as orders of the engine's speed.

A pulse rises at once and dies away over the crank: one figure. How strong the real ones are hangs on cams, manifold and
load: levels from it are good to several decibels at best, differences between two systems far better.
"""

from __future__ import annotations

import math

import numpy as np

from ..records import Engine
from ..space import Vector

DIES_DEG = 60.0  # common practice, no source: blowdown over about so much of the crank
# where the cylinders of each bank of a cross-plane V8 fire in the cycle's 720 degrees: 270, 180, 90, 180 apart
CROSS_PLANE = ((0.0, 270.0, 450.0, 540.0), (90.0, 180.0, 360.0, 630.0))


def fires_at(engine: Engine, banks: int) -> list[list[float]]:
    """The crank angles [deg in a cycle] at which each of this many inlets gets its pulses."""
    cycle = 360.0 * engine.strokes / 2
    if banks == 2 and engine.firing == "each bank uneven" and engine.cylinders == 8:
        return [list(angles) for angles in CROSS_PLANE]
    every = [i * cycle / engine.cylinders for i in range(engine.cylinders)]
    return [every[b::banks] for b in range(banks)]


def strengths(engine: Engine, banks: int, orders: Vector, mean_m3_s: float) -> Vector:
    """The volume velocity that each bank sends, (banks, orders) complex amplitudes [m3/s]; `mean_m3_s` is all gas.

    Orders count by the engine's turns: half orders belong to a four-stroke's cycle.
    """
    cycle = 360.0 * engine.strokes / 2
    harmonics = np.asarray(orders) * cycle / 360.0
    each = 2.0 * mean_m3_s / engine.cylinders / (1 + 1j * harmonics * 2 * math.pi * DIES_DEG / cycle)
    out = []
    for angles in fires_at(engine, banks):
        turns = np.exp(-2j * math.pi * np.outer(harmonics, np.asarray(angles) / cycle))
        out.append(each * turns.sum(axis=1))
    return np.array(out)


def orders_of(engine: Engine) -> Vector:
    """The orders that are looked at: halves where banks fire unevenly, else the firing order's whole multiples and the
    whole orders between.
    """
    firing = engine.cylinders / (engine.strokes / 2)
    step = 0.5 if engine.strokes == 4 else 1.0
    return np.arange(step, 4 * firing + step / 2, step)
