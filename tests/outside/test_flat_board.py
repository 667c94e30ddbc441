"""The adjustment against OpenCV's own calibration of a flat board (`calibrateCamera`, after Zhang 2000).

OpenCV is told where every corner of the board is; ours is told nothing but how large a tag was printed.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from widebend.core.photos import Known, KnownBeside, Photo, Sighting, flat_corners, lens_of, seen_at, solve

LENS = lens_of(2870.0, 2008.0, 1493.0, -0.045, 0.015)
NOISE_PX = 0.1


def _views(rng: np.random.Generator, count: int) -> list[tuple[np.ndarray, np.ndarray]]:
    """Turns and eyes of photos that look at the board's middle from all sides, rolled by quarters."""
    found = []
    for k in range(count):
        away, up = np.radians(360 * k / count), np.radians(rng.uniform(25, 60))
        eye = 900.0 * np.array([np.cos(away) * np.cos(up), np.sin(away) * np.cos(up), np.sin(up)])
        z = (rng.normal(0, 30, 3) * [1, 1, 0] - eye) / np.linalg.norm(eye)
        z /= np.linalg.norm(z)
        roll = np.pi / 2 * (k % 4)
        across = np.cross(z, [np.cos(roll), np.sin(roll), 0.1])
        across /= np.linalg.norm(across)
        found.append((np.array([across, np.cross(z, across), z]), eye))
    return found


def test_the_lens_is_the_one_that_opencv_finds() -> None:
    rng = np.random.default_rng(4)
    board = {k: np.array([110.0 * (k % 5) - 220.0, 110.0 * (k // 5) - 165.0, 0.0]) for k in range(20)}
    photos, there, seen = [], [], []
    for k, (turn, eye) in enumerate(_views(rng, 16)):
        rows = []
        for number, middle in board.items():
            corners = np.column_stack([flat_corners(number), np.zeros(4)]) + middle
            pixels = seen_at((corners - eye) @ turn.T, LENS)
            if (pixels > 5).all() and (pixels < (3995, 2995)).all():
                rows.append((number, corners, pixels + rng.normal(0, NOISE_PX, (4, 2))))
        photos.append(Photo(str(k), 4000, 3000, 2900.0, "one", tuple(Sighting(n, px) for n, _, px in rows)))
        there.append(np.concatenate([at for _, at, _ in rows]).astype(np.float32))
        seen.append(np.concatenate([px for *_, px in rows]).astype(np.float32))
    flags = cv2.CALIB_FIX_ASPECT_RATIO
    guess = np.array([[2900.0, 0, 2000], [0, 2900.0, 1500], [0, 0, 1]])
    rms, matrix, bent, turns, shifts = cv2.calibrateCamera(
        there, seen, (4000, 3000), guess, np.zeros(5), flags=flags | cv2.CALIB_USE_INTRINSIC_GUESS
    )
    ours = solve(photos, KnownBeside(known=Known({n: tuple(board[n]) for n in (0, 4, 15, 19)})))
    lens = ours.photos[0].lens
    assert lens[0] == pytest.approx(matrix[0, 0], rel=5e-4)
    assert lens[1:3] == pytest.approx([matrix[0, 2], matrix[1, 2]], abs=1.5)
    k1, k2, p1, p2, k3 = bent.ravel()[:5]
    # the terms share what they say: the same is where all of them together put a direction, from middle to corner
    rays = np.array([(x, y, 1.0) for x in (-0.4, -0.2, 0.1, 0.4) for y in (-0.4, -0.1, 0.3)])
    theirs = np.array([matrix[0, 0], matrix[0, 2], matrix[1, 2], k1, k2, k3, p1, p2])
    assert seen_at(rays * 1000, lens) == pytest.approx(seen_at(rays * 1000, theirs), abs=1.5)
    for photo, turn, shift in zip(ours.photos, turns, shifts, strict=True):
        eye = -cv2.Rodrigues(turn)[0].T @ shift
        assert photo.eye == pytest.approx(eye.ravel(), abs=1.0)
    assert np.median([photo.sharp_px for photo in ours.photos]) == pytest.approx(rms / np.sqrt(2), rel=0.1)
