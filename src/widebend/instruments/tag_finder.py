"""Finding printed tags in a photo, by OpenCV's detector of AprilTag's family 36h11 (Olson 2011)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from threading import Lock
from typing import Any

import numpy as np

from ..core.errors import InputError
from ..core.photos import Sighting, is_cuff, job_of
from .tag_edges import sharpened

DARK, SOFT = 45.0, 0.26  # mean brightness of 255; how steep a tag's edges are, of their height a pixel
LEAST_SIDE_PX = 24.0
_one_at_a_time = Lock()  # a photo unfolds to a hundred megabytes


@dataclass(frozen=True)
class Looked:
    """The tags found in a photo, and what is wrong with the photo in words, empty where nothing is."""

    seen: tuple[Sighting, ...]
    trouble: str


@cache
def _detector() -> Any:
    import cv2

    asked = cv2.aruco.DetectorParameters()
    asked.cornerRefinementMethod = cv2.aruco.CORNER_REFINE_SUBPIX
    asked.adaptiveThreshWinSizeMin, asked.adaptiveThreshWinSizeMax, asked.adaptiveThreshWinSizeStep = 15, 45, 30
    asked.minMarkerPerimeterRate = 0.015
    return cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(cv2.aruco.DICT_APRILTAG_36h11), asked)


def look(jpeg: bytes) -> Looked:
    """The tags of a photo, as the sensor has it. Raises InputError where it cannot be unfolded."""
    import cv2

    with _one_at_a_time:
        picture = cv2.imdecode(np.frombuffer(jpeg, np.uint8), cv2.IMREAD_GRAYSCALE | cv2.IMREAD_IGNORE_ORIENTATION)
        if picture is None:
            raise InputError("the photo is damaged or cut off")
        corners, numbers, _ = _detector().detectMarkers(picture)
        found = [] if numbers is None else list(zip(numbers.ravel().tolist(), corners, strict=True))
        rough = [
            Sighting(int(number), np.asarray(at, dtype=float).reshape(4, 2))
            for number, at in found
            if job_of(int(number)) and _side(at) >= LEAST_SIDE_PX
        ]
        seen = tuple(one for one in (_sharpened(picture, one) for one in rough) if one)
        vague = {one.number for one in rough if not is_cuff(one.number)} - {one.number for one in seen}
        return Looked(seen, _trouble(picture, rough) or _covered(vague))


def _sharpened(picture: Any, one: Sighting) -> Sighting | None:
    """A tag with its corners by its edges, traced twice: the second time from nearly where they are."""
    corners: Any = one.corners
    for _ in range(2):
        corners = sharpened(picture, corners, bent=is_cuff(one.number))
        if corners is None:
            return None
    return Sighting(one.number, corners)


def _covered(numbers: set[int]) -> str:
    if not numbers:
        return ""
    tags = f"tag {min(numbers)}" if len(numbers) == 1 else f"tags {', '.join(map(str, sorted(numbers)))}"
    return f"{tags} left out: an edge is covered, or out of the picture"


def _side(corners: Any) -> float:
    at = np.asarray(corners, dtype=float).reshape(4, 2)
    return float(np.linalg.norm(at - np.roll(at, 1, axis=0), axis=1).min())


def _trouble(picture: Any, seen: Sequence[Sighting]) -> str:
    if float(picture[::8, ::8].mean()) < DARK:
        return "too dark: put a lamp beside the phone, not behind it"
    if not seen:
        return "no tag is seen in it"
    if float(np.median([_steepness(picture, one) for one in seen])) < SOFT:
        return "blurred: hold the phone still, or rest it on the floor"
    return ""


def _steepness(picture: Any, one: Sighting) -> float:
    """How steep a tag's borders are: the largest step between neighbouring pixels across each, of its whole height."""
    middle, steps = one.corners.mean(axis=0), []
    for a, b in zip(one.corners, np.roll(one.corners, -1, axis=0), strict=True):
        at = (a + b) / 2
        out = (at - middle) / np.linalg.norm(at - middle)
        line = at + np.outer(np.arange(-6.0, 7.0), out)
        x, y = np.clip(line.T, 0, np.array([[picture.shape[1] - 1], [picture.shape[0] - 1]])).round().astype(int)
        values = picture[y, x].astype(float)
        height = values.max() - values.min()
        if height > 20:
            steps.append(np.abs(np.diff(values)).max() / height)
    return float(np.median(steps)) if steps else 0.0
