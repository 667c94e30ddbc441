"""Invented undersides with tags stuck on, photographed: as corners with noise, or as pictures by the simulated
phone.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from widebend.core.photos import (
    CUFF_PITCH_MM,
    Known,
    KnownBeside,
    Photo,
    Sighting,
    flat_corners,
    is_cuff,
    job_of,
    lens_of,
    seen_at,
)
from widebend.core.photos.pose_estimate import on_body
from widebend.core.tagged import Stuck, Surface, Tagged, long_tape, view
from widebend.instruments.simulated_phone import Phone, shoot

Vector = NDArray[np.float64]
Tags = dict[int, tuple[Vector, Vector]]
RADIUS_MM, CUFF_SEEN = 31.75, 6


def facing(out: tuple[float, float, float], up: tuple[float, float, float] = (0.0, 1.0, 0.0)) -> Vector:
    """A tag's turn that looks `out` with its top toward `up`."""
    z = np.array(out) / np.linalg.norm(out)
    x = np.cross(up, z)
    x /= np.linalg.norm(x)
    return np.column_stack([x, np.cross(z, x), z])


def underside(rng: np.random.Generator, count: int = 30) -> Tags:
    """Tags over 3.6 m: hubs, rails, a cuff's pipe along the vehicle, faces that look down this way and that."""
    tags: Tags = {}
    for number, (x, y) in zip((310, 311), ((0, -700), (0, 700)), strict=True):
        tags[number] = facing((0, 0, -1), (1, 0, 0)), np.array([x, y, 310.0])
    for k, (x, y) in enumerate(((400, -420), (400, 420), (3000, -420), (3000, 420))):
        tags[270 + k] = facing((0, 0, -1), (0, -np.sign(y), 0)), np.array([x, y, 340.0])
    tags[340] = np.column_stack([(0, 0, -1.0), (0, -1.0, 0), (-1.0, 0, 0)]), np.array([1500.0, 100.0, 330.0])
    for k in range(count):
        tilt = rng.normal(0, 0.25, 2)
        x = 3600 * (k + 0.5) / count + rng.normal(0, 60)
        tags[k] = facing((tilt[0], tilt[1], -1.0)), np.array([x, rng.uniform(-550, 550), rng.uniform(310, 500)])
    return tags


def place(tags: Tags, number: int, scale: float = 1.0) -> Vector:
    """Where a flat tag's place is."""
    turn, middle = tags[number]
    return middle + turn @ np.array(job_of(number).place) * scale


def views(rng: np.random.Generator, count: int, long_mm: float = 3600.0) -> list[tuple[Vector, Vector]]:
    """Turns and eyes of photos taken walking along, from either side in turn."""
    found = []
    for k in range(count):
        x = long_mm * (k // 2 + 0.3) / max(1, (count - 1) // 2 + 0.6)
        eye = np.array([x + rng.normal(0, 60), (-1) ** k * rng.uniform(250, 600), rng.uniform(-650, -480)])
        to = np.array([np.clip(x + rng.normal(0, 120), 100, long_mm - 100), rng.normal(0, 60), 400.0])
        z = (to - eye) / np.linalg.norm(to - eye)
        roll = rng.uniform(0, 6.3)
        across = np.cross(z, [np.cos(roll), np.sin(roll), 0.0])
        across /= np.linalg.norm(across)
        found.append((np.array([across, np.cross(z, across), z]), eye))
    return found


def sighted(
    rng: np.random.Generator,
    tags: Tags,
    count: int,
    *,
    noise_px: float = 0.2,
    spoiled: float = 0.0,
    scale: float = 1.0,
    bent: tuple[float, ...] = (-0.05, 0.02),
) -> list[Photo]:
    """Photos as corners with noise; a share of the sightings spoiled by some pixels or by many. `bent`: the lens's
    terms of distortion.
    """
    lens, photos = lens_of(3000.0, 2014.0, 1490.0, *bent), []
    for k, (turn, eye) in enumerate(views(rng, count)):
        seen = []
        for number, corners, out in _corners(tags, scale):
            before = (corners - eye) @ turn.T
            if (before[:, 2] < 200).any() or (eye - corners.mean(axis=0)) @ out < 0.3 * np.linalg.norm(
                eye - corners.mean(axis=0)
            ):
                continue
            pixels = seen_at(before, lens)
            if (pixels < 10).any() or (pixels > (3990, 2990)).any():
                continue
            pixels = pixels + rng.normal(0, noise_px, (4, 2))
            if rng.random() < spoiled:
                pixels = pixels + rng.normal(0, rng.choice([4.0, 40.0]), (4, 2))
            seen.append(Sighting(number, pixels))
        photos.append(Photo(f"p{k}", 4000, 3000, 3000 * (1 + rng.normal(0, 0.02)), "one", tuple(seen)))
    return photos


def _corners(tags: Tags, scale: float) -> list[tuple[int, Vector, Vector]]:
    found = []
    for body, (turn, middle) in tags.items():
        for number in range(body, body + (CUFF_SEEN if is_cuff(body) else 1)):
            own, *_ = on_body(flat_corners(number)[None], scale, np.array([is_cuff(body)]), np.array([RADIUS_MM]))
            at = own[0].mean(axis=0)
            out = np.array([at[0], at[1], 0.0]) / np.hypot(at[0], at[1]) if is_cuff(body) else np.array([0, 0, 1.0])
            found.append((number, own[0] @ turn.T + middle, turn @ out))
    return found


def pictures(rng: np.random.Generator, tags: Tags, count: int, phone: Phone, long_mm: float) -> list[bytes]:
    """The same photographed: JPEGs of the simulated phone."""
    stuck = [
        Stuck(number, turn, middle, 1.0, RADIUS_MM, k * CUFF_PITCH_MM / RADIUS_MM)
        for body, (turn, middle) in tags.items()
        for k, number in enumerate(range(body, body + (CUFF_SEEN if is_cuff(body) else 1)))
    ]
    floor = np.array([(-300, -700, 520), (long_mm + 300, -700, 520), (long_mm + 300, 700, 520), (-300, 700, 520.0)])
    return [shoot(phone, turn, eye, stuck, [Surface(floor, 105.0)], rng) for turn, eye in views(rng, count, long_mm)]


def walked(
    rng: np.random.Generator, tagged: Tagged, count: int, *, noise_px: float = 0.2, focal_px: float = 3000.0
) -> list[Photo]:
    """Photos of a walk past what carries tags, as corners with noise: what faces the lens and lies in the picture."""
    lens, photos = lens_of(focal_px, 2014.0, 1490.0, -0.05, 0.02), []
    for k in range(count):
        turn, eye = view(tagged, k, count)
        seen = []
        for tag in tagged.stuck:
            own, *_ = on_body(
                flat_corners(tag.number)[None],
                1.0,
                np.array([is_cuff(tag.number)]),
                np.array([max(tag.radius_mm, 1.0)]),
            )
            corners = own[0] @ tag.turn.T + tag.middle
            if is_cuff(tag.number):
                out = tag.turn @ np.array([np.cos(tag.angle), np.sin(tag.angle), 0.0])
            else:
                out = tag.turn[:, 2]
            way = eye - corners.mean(axis=0)
            before = (corners - eye) @ turn.T
            if (before[:, 2] < 200).any() or way @ out < 0.35 * np.linalg.norm(way):
                continue
            pixels = seen_at(before, lens)
            if (pixels < 10).any() or (pixels > (3990, 2990)).any():
                continue
            seen.append(Sighting(tag.number, pixels + rng.normal(0, noise_px, (4, 2))))
        photos.append(Photo(f"p{k}", 4000, 3000, focal_px * (1 + rng.normal(0, 0.02)), "one", tuple(seen)))
    return photos


def asked_along(tagged: Tagged, photos: list[Photo], doubt_mm: float = 1.0) -> KnownBeside:
    """One tape between the two tags farthest apart that were seen often, and the rails' heights."""
    tape = long_tape(tagged, photos)
    heights = tuple(float(tag.place[2]) for tag in tagged.stuck if tag.number in (270, 272))
    return KnownBeside(100.0, (replace(tape, doubt_mm=doubt_mm),), Known({}, heights))
