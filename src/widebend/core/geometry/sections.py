"""The edge of a convex solid in a plane across the vehicle."""

from __future__ import annotations

import math

import numpy as np
from numba import njit

from .solids import signed_distance

RAYS, HALVINGS = 48, 13


@njit(cache=True, nogil=True)
def edge_round(row, station, inside, reach):
    """Places (RAYS, 2) [mm, Y and Z] on the edge of a solid in the plane X = station, along rays from a place (2,)
    inside it, by bisection to reach / 2^HALVINGS; `reach` away along a ray that has not left it by then.
    """
    y, z = inside[0], inside[1]
    out, grad = np.empty((RAYS, 2)), np.empty(3)
    for k in range(RAYS):
        across, up = math.cos(2.0 * math.pi * k / RAYS), math.sin(2.0 * math.pi * k / RAYS)
        low, high = 0.0, reach
        if signed_distance(row, station, y + high * across, z + high * up, grad) > 0.0:
            for _ in range(HALVINGS):
                middle = 0.5 * (low + high)
                if signed_distance(row, station, y + middle * across, z + middle * up, grad) > 0.0:
                    high = middle
                else:
                    low = middle
        out[k, 0], out[k, 1] = y + high * across, z + high * up
    return out
