"""The adjustment of photos and tags: its parts against OpenCV and a general optimiser, its answers against the
truth.
"""

from __future__ import annotations

import re

import cv2
import numpy as np
import pytest
from scipy.optimize import least_squares

from tests.photo_scenes import facing, place, sighted, underside
from widebend.core.errors import InputError
from widebend.core.photos import Known, KnownBeside, Photo, Sighting, Solved, Taped, is_cuff, solve, undistorted
from widebend.core.photos.first_guess import started
from widebend.core.photos.lens import projected
from widebend.core.photos.pose_estimate import Places, left_over, stepped
from widebend.core.photos.sightings import table_of
from widebend.core.photos.square import both_ways, turned

LENS = np.array([2900.0, 2010.0, 1480.0, -0.06, 0.03, 0.05, 0.002, -0.0015])
CAMERA = np.array([[2900.0, 0, 2010.0], [0, 2900.0, 1480.0], [0, 0, 1]])
BENT = np.array([-0.06, 0.03, 0.002, -0.0015, 0.05])  # OpenCV: k1, k2, p1, p2, k3


def test_the_lens_is_opencvs() -> None:
    points = np.random.default_rng(1).uniform((-500, -400, 700), (500, 400, 1500), (50, 3))
    theirs, _ = cv2.projectPoints(points, np.zeros(3), np.zeros(3), CAMERA, BENT)
    ours, _, _ = projected(points, LENS)
    assert ours == pytest.approx(theirs[:, 0], abs=1e-6)
    back = undistorted(ours, LENS)
    assert back == pytest.approx(points[:, :2] / points[:, 2:], abs=1e-9)


def test_a_square_stands_as_opencv_says() -> None:
    """Against solvePnPGeneric with its square method: one of both answers each time, the better one the truth."""
    rng = np.random.default_rng(2)
    corners = np.array([(-30.0, 30), (30, 30), (30, -30), (-30, -30)])
    for _ in range(30):
        turn = turned(rng.normal(0, 0.5, 3)) @ np.diag([1.0, -1.0, -1.0])
        at = np.array([*rng.uniform(-200, 200, 2), rng.uniform(600, 1200)])
        seen = np.column_stack([corners, np.zeros(4)]) @ turn.T + at
        rays = seen[:, :2] / seen[:, 2:]
        turns, places, errors = both_ways(rays[None], corners[None])
        assert places[0, 0] == pytest.approx(at, abs=0.01)
        assert turns[0, 0] == pytest.approx(turn, abs=1e-4)
        flat = np.column_stack([corners, np.zeros(4)])
        _, vectors, shifts, _ = cv2.solvePnPGeneric(
            flat, rays[:, None], np.eye(3), None, flags=cv2.SOLVEPNP_IPPE_SQUARE
        )
        assert min(np.abs(s.ravel() - places[0, 1]).max() for s in shifts) < 30.0
        assert errors[0, 0] <= errors[0, 1]
        assert len(vectors) == 2


def test_derivatives_are_those_of_small_steps() -> None:
    rng = np.random.default_rng(3)
    table = table_of(sighted(rng, underside(rng, 12), 8))
    at, photos, bodies = started(table, 1.0, np.full(len(table.bodies), 30.0))
    placed = np.flatnonzero(photos[table.photo] & bodies[table.body])
    some, places = table.only(placed), Places.of(table)
    _, by = left_over(at, some)
    rows = places.rows(some)
    for k in {int(c) for row in rows[::7] for c in row[[0, 4, 8, 10, 12, 15, 17, 18]]}:
        step = np.zeros(places.count)
        step[k] = 1e-6
        there, back = (left_over(stepped(at, sign * step, places, table), some)[0] for sign in (1, -1))
        ours = np.where(rows[:, None, :] == k, by, 0.0).sum(axis=2)
        assert ours == pytest.approx((there - back) / 2e-6, rel=1e-4, abs=2e-3)


def _solved(
    seed: int, spoiled: float = 0.0, scale: float = 0.99, bent: tuple[float, ...] = (-0.05, 0.02)
) -> tuple[Solved, np.ndarray, np.ndarray, list[float]]:
    """One survey: errors (n,) of the flat tags' places [mm], whether each coordinate holds its doubt, tilts
    [degrees].
    """
    rng = np.random.default_rng(seed)
    tags = underside(rng)
    photos = sighted(rng, tags, 20, spoiled=spoiled, scale=scale, bent=bent)
    flat = [n for n in tags if not is_cuff(n) and sum(n in {s.number for s in p.seen} for p in photos) > 3]
    a, b = min(flat, key=lambda n: tags[n][1][0]), max(flat, key=lambda n: tags[n][1][0])
    long = float(np.linalg.norm(place(tags, b, scale) - place(tags, a, scale)) + rng.normal(0, 0.5))
    known = Known({n: tuple(place(tags, n, scale)) for n in (270, 271, 272, 273)})
    found = solve(photos, KnownBeside(tapes=(Taped(a, b, long, 0.5),), known=known))
    off = [(tag.place - place(tags, tag.number, scale), tag) for tag in found.tags if not is_cuff(tag.number)]
    inside = [np.abs(e) < 1.96 * np.sqrt(np.diag(tag.place_spread)) for e, tag in off]
    tilt = [float(np.degrees(np.arccos(min(1.0, tag.turn[:, 2] @ tags[tag.number][0][:, 2])))) for _, tag in off]
    return found, np.array([np.linalg.norm(e) for e, _ in off]), np.array(inside), tilt


def test_twenty_photos_place_tags_to_a_millimetre_with_honest_doubts() -> None:
    solved = [_solved(seed) for seed in range(4)]
    errors, inside = (np.concatenate([one[k] for one in solved]) for k in (1, 2))
    assert np.median(errors) < 0.8
    assert np.percentile(errors, 95) < 2.0
    assert np.percentile([t for one in solved for t in one[3]], 95) < 0.3
    assert inside.mean() > 0.9
    for found, *_ in solved:
        assert not found.lacking
        cuff = found.tag(340)
        assert cuff
        assert cuff.diameter_mm
        assert abs(cuff.diameter_mm[0] - 63.5) < 2 * cuff.diameter_mm[1] + 0.05
        assert abs(found.scale[0] - 0.99) < 2 * found.scale[1]


def test_doubts_hold_for_a_lens_with_every_term_of_distortion() -> None:
    """The third radial and both tangential terms, as a wide lens has them: without them the doubts would hold half."""
    solved = [_solved(seed, bent=(-0.08, 0.05, -0.03, 0.002, -0.0015)) for seed in range(4)]
    assert np.concatenate([one[2] for one in solved]).mean() > 0.9
    tilts = [
        (off, tag.tilt_deg)
        for found, _, _, tilt in solved
        for off, tag in zip(tilt, (t for t in found.tags if not is_cuff(t.number)), strict=True)
    ]
    assert 0.9 < np.mean([off < bound for off, bound in tilts]) <= 1.0


def test_a_tenth_of_the_sightings_spoiled_hardly_moves_anything() -> None:
    clean, spoiled = _solved(1)[1], _solved(1, spoiled=0.1)
    assert np.median(spoiled[1]) < 1.5 * np.median(clean) + 0.1
    assert any("its corners do not fit" in one.why for one in spoiled[0].left_out)


def test_two_photos_come_out_as_a_general_optimiser_has_them() -> None:
    """SciPy's least squares with numeric derivatives on the same residuals, from another start."""
    rng = np.random.default_rng(9)
    tags = {k: (facing((0.2 * k - 0.3, 0.1, -1)), np.array([150.0 * k, 80.0 * (-1) ** k, 400.0])) for k in range(5)}
    table = table_of(sighted(rng, tags, 3))
    at, photos, bodies = started(table, 1.0, np.full(len(table.bodies), 30.0))
    assert photos.sum() >= 2
    rows, places = np.flatnonzero(photos[table.photo] & bodies[table.body]), Places.of(table)
    some = table.only(rows)
    free = np.array([*range(places.photo + 6, places.body), *range(places.body, places.count)])  # the first photo held

    def left(step: np.ndarray) -> np.ndarray:
        whole = np.zeros(places.count)
        whole[free] = step
        return left_over(stepped(at, whole, places, table), some)[0].ravel()

    theirs = least_squares(left, np.zeros(len(free)), x_scale="jac", method="trf").cost
    damp, now = 1e-3, at
    for _ in range(30):
        residual, by = left_over(now, some)
        normal, slope = np.zeros((places.count, places.count)), np.zeros(places.count)
        for row, j, r in zip(places.rows(some), by, residual, strict=True):
            normal[np.ix_(row, row)] += j.T @ j
            slope[row] += j.T @ r
        step = np.zeros(places.count)
        part = normal[np.ix_(free, free)]
        step[free] = -np.linalg.lstsq(part + damp * np.diag(np.diag(part)), slope[free], rcond=None)[0]
        now, damp = stepped(now, step, places, table), damp * 0.3
    assert 0.5 * (left_over(now, some)[0] ** 2).sum() == pytest.approx(theirs, rel=1e-3)


def test_what_cannot_be_placed_is_said() -> None:
    rng = np.random.default_rng(4)
    tags = underside(rng, 20)
    photos = sighted(rng, tags, 12)
    with pytest.raises(InputError, match="no two photos show the same tags"):
        solve([photos[0], Photo("x", 4000, 3000, None, "one", ())], KnownBeside())
    bare = solve(photos, KnownBeside())
    assert "how high" in bare.lacking
    double = photos[3].seen[0]
    copied = Sighting(double.number, double.corners + 300.0)
    twice = Photo("p3", 4000, 3000, 3000.0, "one", (*photos[3].seen, copied))
    assert any("twice" in one.why for one in solve([*photos[:3], twice, *photos[4:]], KnownBeside()).left_out)


def test_a_tag_of_another_sheet_is_left_out_and_measured() -> None:
    """One tag printed at nine tenths: never believed, and the words say what it measures."""
    rng = np.random.default_rng(1)
    tags = underside(rng)
    photos = []
    for photo in sighted(rng, tags, 20):
        seen = tuple(
            Sighting(s.number, s.corners.mean(axis=0) + 0.9 * (s.corners - s.corners.mean(axis=0)))
            if s.number == 7
            else s
            for s in photo.seen
        )
        photos.append(Photo(photo.name, photo.width, photo.height, photo.focal_px, photo.lens, seen))
    found = solve(photos, KnownBeside(known=Known({n: tuple(place(tags, n)) for n in (270, 271, 272, 273)})))
    assert found.tag(7) is None
    (why,) = (one.why for one in found.left_out if one.number == 7)
    assert re.search(r"it measures 5[345]\.\d mm, not (59|60)\.\d", why)
