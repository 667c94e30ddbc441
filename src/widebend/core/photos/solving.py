"""From photos to where every tag is under the vehicle, each with its own doubt; what was left out, and why."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.special import chdtri

from ..errors import InputError
from ..space import Vector
from .bundle_adjustment import SCALE_DOUBT, Adjusted, OnProgress, Taped, adjusted, covariance
from .datum import Datum, Known, gauged, holds_of
from .first_guess import USUAL_RADIUS_MM, best_started
from .pose_estimate import POSE, Places, PoseEstimate
from .rays import meeting, ways_of
from .sightings import IndexArray, Photo, Table, table_of, twice
from .square import skew
from .tags import BAR_MM, is_cuff, job_of, size_mm

SURE = 1.96  # deviations that hold 95 of 100
ABSURD, MOST_OFF_MM = 3.0, 10.0  # deviations, and how much holds may be off, before it is said
BAR_DOUBT_MM = 0.2  # of the printed bar as a person measures it, one deviation
MEETS_MM, BENT_MM = 2.0, 0.8  # corners seen by several photos meet so near, and lie so flat
WRONG_SIZE = 0.012  # a tag that is this much off its printed size is of another sheet


@dataclass(frozen=True)
class KnownBeside:
    """Known figures beside the photos: the printed bar as measured [mm], none where nobody did;
    tapes; what fixes the whole; what pipes and shafts measure outside where cuffs are round them (strip -> mm).
    """

    bar_mm: float | None = None
    tapes: tuple[Taped, ...] = ()
    known: Known = field(default_factory=lambda: Known({}))
    round_mm: Mapping[int, float] = field(default_factory=dict)


@dataclass(frozen=True)
class FoundTag:
    """A tag, or a cuff by its strip's first number: its turn (3, 3), middle (3,) and place (3,) in the vehicle's frame
    [mm]; the covariance of a small turn, the middle (6, 6) and of its place (3, 3); of a cuff its diameter and doubt.
    """

    number: int
    turn: Vector
    middle: Vector
    place: Vector
    spread: Vector
    place_spread: Vector
    photos: int
    base_deg: float
    diameter_mm: tuple[float, float] | None = None

    @property
    def plus_minus_mm(self) -> float:
        """How far its place may be off in the worst direction, 95 of 100 [mm]."""
        return SURE * float(np.sqrt(np.linalg.eigvalsh(self.place_spread)[-1]))

    @property
    def tilt_deg(self) -> float:
        """How far its face may be tilted, whichever way, 95 of 100 [degrees]."""
        own = self.turn.T @ self.spread[:3, :3] @ self.turn
        return float(np.degrees(holds_95(own[:2, :2])))


def holds_95(spread: Vector) -> float:
    """The radius about the mean that holds 95 of 100 of what has a covariance (n, n), by the scaled chi-square of the
    same mean and variance (Satterthwaite 1946).

    >>> round(holds_95(np.eye(2)), 3), round(holds_95(np.diag([1.0, 0.0])), 2)
    (2.448, 1.96)
    """
    total, squares = float(np.trace(spread)), float((spread * spread).sum())
    if squares == 0.0:
        return 0.0
    return math.sqrt(squares / total * float(chdtri(total * total / squares, 0.05)))


@dataclass(frozen=True)
class LeftOut:
    """Something that is not believed or not placed: which tag, in which photo (empty for all), and why."""

    number: int
    photo: str
    why: str


@dataclass(frozen=True)
class PlacedPhoto:
    """A photo that has its place: world to lens, turn (3, 3) and shift (3,), its lens's figures (8,), its sharpness."""

    name: str
    turn: Vector
    shift: Vector
    lens: Vector
    sharp_px: float

    @property
    def eye(self) -> Vector:
        """Where it was taken from (3,)."""
        return -self.turn.T @ self.shift


@dataclass(frozen=True)
class Solved:
    """All that the photos gave. `disagree` is what was measured and does not go together, in words; `lacking` says why
    nothing has its place under the vehicle, where that is so: the tags then stand as the first photo sees them. The
    whole together may be off by `whole_mm`, 95 of 100, by the doubts of what it hangs on; each tag's own doubt is
    besides.
    """

    tags: tuple[FoundTag, ...]
    photos: tuple[PlacedPhoto, ...]
    left_out: tuple[LeftOut, ...]
    scale: tuple[float, float]
    hangs_on: tuple[str, ...]
    off: tuple[tuple[str, float], ...]
    tape_off: tuple[float, ...]
    lacking: str = ""
    disagree: tuple[str, ...] = ()
    whole_mm: float = 0.0

    def tag(self, number: int) -> FoundTag | None:
        return next((tag for tag in self.tags if tag.number == number), None)


def _silent(_words: str, _share: float) -> None:
    return None


def solve(photos: Sequence[Photo], asked: KnownBeside, tell: OnProgress = _silent) -> Solved:
    """Adjust all photos at once and put the whole under the vehicle. Raises InputError where no two photos share
    tags.
    """
    table = table_of(photos)
    scale = (asked.bar_mm / BAR_MM, BAR_DOUBT_MM / BAR_MM) if asked.bar_mm else (1.0, SCALE_DOUBT)
    radius = np.array([asked.round_mm.get(body, 2 * USUAL_RADIUS_MM) / 2 for body in table.bodies])
    tell("which photos see the same", 0.1)
    table, start, with_photo, with_body = best_started(table, scale[0], radius)
    if with_photo.sum() < 2:
        raise InputError(
            "no two photos show the same tags from different sides: take more, each with four tags of the last"
        )
    placed, at = _placed(table, start, with_photo, with_body)
    found = adjusted(placed, at, scale, asked.tapes, tell)
    tell("where it lies under the vehicle", 0.9)
    flat = [n for n in placed.bodies if not is_cuff(n)]
    holds, lacking = holds_of(flat, asked.known)
    gauge = Datum(found.at, _first_photo(found.places), (), ())
    if not lacking:
        try:
            gauge = gauged(found.at, placed, found.places, holds)
        except InputError as exc:
            lacking = str(exc)
    spread = covariance(_turned_normal(found, gauge), gauge.held)
    left_out = [*_why_not(table, photos, with_photo, with_body, placed), *_not_believed(placed, found)]
    scale_doubt = SURE * float(np.sqrt(spread[found.places.scale, found.places.scale]))
    return Solved(
        tuple(_tags(placed, found, gauge.at, spread)),
        tuple(_photos(placed, found, gauge.at)),
        tuple(left_out),
        (found.at.scale, scale_doubt),
        gauge.words,
        gauge.off,
        found.tape_off,
        lacking,
        tuple(_disagree(placed.bodies, found, scale, asked.tapes, gauge)),
        SURE * gauge.whole_mm(gauge.at.body_place),
    )


def _disagree(
    placed: Sequence[int], found: Adjusted, scale: tuple[float, float], tapes: Sequence[Taped], gauge: Datum
) -> Iterator[str]:
    off = found.at.scale / scale[0] - 1.0
    if abs(off) * scale[0] > ABSURD * scale[1]:
        yield (
            f"by the tapes the tags are {abs(100 * off):.1f} % {'larger' if off > 0 else 'smaller'} than they were "
            "printed: a tape or the bar is misread, or the sheet was scaled"
        )
    for tape, miss in zip(tapes, found.tape_off, strict=True):
        for number in (tape.first, tape.second):
            if number not in placed:
                yield f"the tape from tag {tape.first} to tag {tape.second} says nothing: tag {number} has no place"
        if abs(miss) > ABSURD * tape.doubt_mm:
            yield f"the tape from tag {tape.first} to tag {tape.second} is {abs(miss):.1f} mm off what the photos say"
    for what, miss in gauge.off:
        if miss > MOST_OFF_MM:
            yield f"{what} do not go together: {miss:.0f} mm off"


def _placed(table: Table, start: PoseEstimate, photos: IndexArray, bodies: IndexArray) -> tuple[Table, PoseEstimate]:
    """The table and standing of what has its place only."""
    keep = photos[table.photo] & bodies[table.body]
    some = table.only(keep)
    photo_at, body_at = np.cumsum(photos) - 1, np.cumsum(bodies) - 1
    chosen = tuple(photo for photo, there in zip(table.photos, photos, strict=True) if there)
    lenses = tuple(dict.fromkeys(photo.lens for photo in chosen))
    lens_at = np.array([lenses.index(name) if name in lenses else -1 for name in table.lenses])
    cut = replace(
        some,
        photos=chosen,
        bodies=tuple(n for n, there in zip(table.bodies, bodies, strict=True) if there),
        lenses=lenses,
        photo=photo_at[some.photo],
        body=body_at[some.body],
        lens=lens_at[some.lens],
        cuff=table.cuff[bodies],
    )
    lens = np.array([start.lens[table.lenses.index(name)] for name in lenses])
    return cut, PoseEstimate(
        start.photo_turn[photos],
        start.photo_shift[photos],
        start.body_turn[bodies],
        start.body_place[bodies],
        lens,
        start.scale,
        start.radius[bodies],
    )


def _first_photo(places: Places) -> Vector:
    """Held by the first photo where nothing else holds."""
    held = np.zeros((POSE, places.count))
    held[:, places.of_photo(0)] = np.eye(POSE)
    return held


def _turned_normal(found: Adjusted, gauge: Datum) -> Vector:
    """The normal matrix in the vehicle's frame: bodies turn and shift with it, photos turn about their own lenses."""
    turn = gauge.at.body_turn[0] @ found.at.body_turn[0].T
    places, whole = found.places, np.eye(found.places.count)
    for k in range(len(found.at.body_turn)):
        at = places.body + POSE * k
        whole[at : at + 3, at : at + 3] = whole[at + 3 : at + 6, at + 3 : at + 6] = turn
    return np.asarray(whole @ found.normal @ whole.T)


def _tags(table: Table, found: Adjusted, at: PoseEstimate, spread: Vector) -> list[FoundTag]:
    eyes = -np.einsum("pji,pj->pi", at.photo_turn, at.photo_shift)
    out = []
    for k, number in enumerate(table.bodies):
        seen = sorted(set(table.photo[(table.body == k) & found.inliers].tolist()))
        if len(seen) < 2:
            continue
        rows = np.r_[found.places.of_body(k), found.places.scale]
        mine = spread[np.ix_(rows, rows)]
        job = job_of(number)
        own = at.body_turn[k] @ np.array(job.place if job else (0.0, 0.0, 0.0))
        by = np.hstack([-skew(own * at.scale), np.eye(3), own[:, None]])
        diameter = None
        if table.cuff[k]:
            r = found.places.radius[k]
            diameter = 2.0 * float(at.radius[k]), 2.0 * SURE * float(np.sqrt(spread[r, r]))
        out.append(
            FoundTag(
                number,
                at.body_turn[k],
                at.body_place[k],
                at.body_place[k] + own * at.scale,
                mine[:POSE, :POSE],
                by @ mine @ by.T,
                len(seen),
                _base(eyes[seen] - at.body_place[k]),
                diameter,
            )
        )
    return out


def _base(sights: Vector) -> float:
    """How far apart the two farthest sights of a place are [degrees]."""
    ways = sights / np.linalg.norm(sights, axis=1, keepdims=True)
    return float(np.degrees(np.arccos(np.clip((ways @ ways.T).min(), -1.0, 1.0))))


def _photos(table: Table, found: Adjusted, at: PoseEstimate) -> list[PlacedPhoto]:
    lens = {name: k for k, name in enumerate(table.lenses)}
    held = set(table.photo[found.inliers].tolist())
    return [
        PlacedPhoto(
            photo.name, at.photo_turn[k], at.photo_shift[k], at.lens[lens[photo.lens]], float(found.corner_sigma_px[k])
        )
        for k, photo in enumerate(table.photos)
        if k in held
    ]


def _why_not(
    table: Table, photos: Sequence[Photo], with_photo: IndexArray, with_body: IndexArray, placed: Table
) -> list[LeftOut]:
    out = [
        LeftOut(number, photo.name, "it is there twice: one of them is on the wrong thing, or is a copy")
        for photo in photos
        for number in sorted(twice(photo))
    ]
    for photo, there in zip(table.photos, with_photo, strict=True):
        if not there:
            out.append(LeftOut(-1, photo.name, "it shares too few tags with the other photos"))
    for number, there in zip(table.bodies, with_body, strict=True):
        if not there:
            count = len(set(table.photo[table.body == table.bodies.index(number)].tolist()))
            why = "seen in one photo only" if count < 2 else "its photos do not agree: is it on something that moved?"
            out.append(LeftOut(number, "", why))
    return out


def _not_believed(table: Table, found: Adjusted) -> list[LeftOut]:
    out = []
    for number in sorted({int(n) for n in table.number}):
        mine = table.number == number
        doubted = mine & ~found.inliers
        if doubted.sum() > 0.4 * mine.sum() and mine.sum() > 2:
            out.append(LeftOut(number, "", _bad_tag(table, found, number)))
        else:
            out += [
                LeftOut(number, table.photos[k].name, "its corners do not fit: half covered, bent or blurred")
                for k in table.photo[doubted]
            ]
    return out


def _bad_tag(table: Table, found: Adjusted, number: int) -> str:
    """Why most sightings of a tag disagree, by where its corners' own rays meet, its printed size aside."""
    mine, at = np.flatnonzero(table.number == number), found.at
    turns = at.photo_turn[table.photo[mine]]
    eyes = -(turns.transpose(0, 2, 1) @ at.photo_shift[table.photo[mine]][..., None])[..., 0]
    seen = zip(table.pixels[mine], table.lens[mine], turns, strict=True)
    ways = np.array([ways_of(pixels, at.lens[lens], turn) for pixels, lens, turn in seen])
    met = [meeting(eyes, ways[:, k]) for k in range(4)]
    corners = np.array([place for place, _ in met])
    if max(off for _, off in met) > MEETS_MM:
        return "its sightings do not agree: stuck twice, or on something that moved"
    size, meant = (
        float(np.linalg.norm(corners - np.roll(corners, 1, axis=0), axis=1).mean()),
        size_mm(number) * at.scale,
    )
    if abs(size / meant - 1.0) > WRONG_SIZE and not is_cuff(number):
        return f"it measures {size:.1f} mm, not {meant:.1f}: from a sheet that was printed at another scale"
    if is_cuff(number):
        return "half covered, or at the pipe's edge as it is seen"
    normal = np.cross(corners[2] - corners[0], corners[3] - corners[1])
    bent = abs(float((corners[1] - corners[0]) @ normal)) / float(np.linalg.norm(normal))
    return f"it does not lie flat: bent by {bent:.1f} mm" if bent > BENT_MM else "half covered or blurred"
