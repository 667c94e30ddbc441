"""Twenty undersides photographed by the simulated phone and found again: how near, how sure, how long."""

from __future__ import annotations

import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from tests.photo_scenes import Vector, pictures, place, underside

from widebend.core.errors import InputError
from widebend.core.photos import Known, KnownBeside, Photo, Sighting, Taped, is_cuff, solve
from widebend.formats.tag_photos import read_tag_photo
from widebend.instruments.simulated_phone import Phone
from widebend.instruments.tag_finder import look

SCENES, AT_ONCE = 20, 2
SPOILED = 0.1


@dataclass(frozen=True)
class Found:
    """One scene: what each tag is off [mm], its face [degrees], whether its doubts hold, seconds for finding a photo
    and for solving, tags that were seen from wide enough apart and not placed.
    """

    off: Vector
    tilt: Vector
    inside: Vector
    finding_s: float
    solving_s: float
    missed: int
    spoiled_off: Vector


def _scene(seed: int) -> Found | str:
    rng = np.random.default_rng(seed)
    tags = underside(rng, int(rng.integers(24, 54)))
    count, phone = (
        int(rng.integers(14, 25)),
        Phone.of(float(rng.uniform(24, 35)), noise=float(rng.uniform(1, 5)), blur_px=float(rng.uniform(0.4, 1.0))),
    )
    photos, finding = [], []
    for k, jpeg in enumerate(pictures(rng, tags, count, phone, 3600.0)):
        begun = time.perf_counter()
        photo = read_tag_photo(jpeg)
        seen = look(photo.jpeg).seen
        finding.append(time.perf_counter() - begun)
        photos.append(Photo(str(k), photo.width, photo.height, photo.focal_px, photo.lens, seen))
    seen_by = {n: sum(n in {s.number for s in p.seen} for p in photos) for n in tags if not is_cuff(n)}
    often = [n for n, times in seen_by.items() if times > 2]
    a, b = min(often, key=lambda n: tags[n][1][0]), max(often, key=lambda n: tags[n][1][0])
    long = float(np.linalg.norm(place(tags, b) - place(tags, a)) + rng.normal(0, 0.5))
    known = Known({n: tuple(place(tags, n)) for n in (270, 271, 272, 273)})
    asked = KnownBeside(tapes=(Taped(a, b, long, 0.5),), known=known)
    begun = time.perf_counter()
    try:
        found = solve(photos, asked)
        took = time.perf_counter() - begun
        worse = solve([_spoiled(rng, photo) for photo in photos], asked)
    except (InputError, StopIteration) as exc:
        return f"scene {seed}: {exc}"
    if found.lacking or worse.lacking:
        return f"scene {seed}: {found.lacking or worse.lacking}"
    flat = [tag for tag in found.tags if not is_cuff(tag.number)]
    off = np.array([tag.place - place(tags, tag.number) for tag in flat])
    return Found(
        np.linalg.norm(off, axis=1),
        np.array([np.degrees(np.arccos(min(1.0, t.turn[:, 2] @ tags[t.number][0][:, 2]))) for t in flat]),
        np.array([np.abs(e) < 1.96 * np.sqrt(np.diag(t.place_spread)) for e, t in zip(off, flat, strict=True)]),
        float(np.mean(finding)),
        took,
        sum(seen_by[n] > 2 for n in seen_by if found.tag(n) is None),
        np.array([np.linalg.norm(t.place - place(tags, t.number)) for t in worse.tags if not is_cuff(t.number)]),
    )


def _spoiled(rng: np.random.Generator, photo: Photo) -> Photo:
    seen = tuple(
        Sighting(s.number, s.corners + rng.normal(0, rng.choice([4.0, 40.0]), (4, 2))) if rng.random() < SPOILED else s
        for s in photo.seen
    )
    return Photo(photo.name, photo.width, photo.height, photo.focal_px, photo.lens, seen)


def bench_photos() -> None:
    """Photos of the simulated phone, from pixels to places."""
    with ProcessPoolExecutor(AT_ONCE) as pool:
        all_found = list(pool.map(_scene, range(SCENES)))
    for words in (one for one in all_found if isinstance(one, str)):
        print(f"not placed: {words}")
    found = [one for one in all_found if isinstance(one, Found)]
    off, tilt, worse = (np.concatenate([getattr(one, key) for one in found]) for key in ("off", "tilt", "spoiled_off"))
    inside, missed = np.concatenate([one.inside for one in found]), sum(one.missed for one in found)
    print(
        f"{len(off)} tags of {len(found)} scenes: {_spread(off)}, faces 95 % {np.percentile(tilt, 95):.3f}°; "
        f"seen often and not placed {missed}; stated 95 % holds {100 * inside.mean():.1f} %"
    )
    print(f"a tenth of the sightings spoiled: {_spread(worse)}")
    solving = [one.solving_s for one in found]
    print(
        f"finding {np.mean([one.finding_s for one in found]):.2f} s a photo of 12 million pixels, "
        f"solving {np.median(solving):.2f} s, worst {max(solving):.2f} s"
    )


def _spread(off: Vector) -> str:
    return f"median {np.median(off):.2f} mm, 95 % {np.percentile(off, 95):.2f} mm"
