"""The look of a tag: AprilTag's family 36h11 (Olson 2011), as OpenCV has it."""

from __future__ import annotations

from functools import cache

import numpy as np

from .sightings import IndexArray

CELLS = 8  # across, its black border's two among them


@cache
def cells_of(number: int) -> IndexArray:
    """Which cells of a tag are black (8, 8), the first row its top."""
    import cv2

    family = cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11)
    return np.asarray(cv2.aruco.generateImageMarker(family, number, CELLS, borderBits=1)) < 128
