"""A first guess of how all photos and tags stand: two photos that agree, then one photo, one tag after the other.

Each sighting of a tag says in two ways where its body is before the lens; what the others of the photo say decides.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np

from ..space import Vector
from .lens import FIGURES, projected, seen_at, undistorted
from .pose_estimate import POSE, PoseEstimate, left_over, on_body
from .sightings import GUESSES_F, IndexArray, Table
from .square import both_ways, skew, turned
from .tags import CUFF_PITCH_MM, is_cuff

USUAL_RADIUS_MM = 31.75  # of a cuff until the adjustment has it: half of 63.5
EVENED_AT = (4, 7, 11, 16, 24, 36, 60, 100, 150)  # photos placed when all is adjusted before the next
ENOUGH = 0.7  # of what two photos share agrees: they are a start
BRIDGES, BRIDGE_OF = 6, 3  # pairs that are tried, and tags that such two must agree on
FIRST_PAIRS = 20  # pairs of photos that share most are tried to begin with
LOST_PX = 60.0  # a corner farther off than this, in a photo of 4000 pixels, speaks for nothing
AGREES_PX = 25.0
STILL_RAD, STILL_MM = 1e-4, 0.1
ROUNDS, SETTLED, PASSES = 8, 2, 3  # of a body's ways the likeliest few are made as good as they get


@dataclass
class _Start:
    """The placed photos so far."""

    at: PoseEstimate
    photos: IndexArray
    bodies: IndexArray
    tried: dict[int, int] = field(default_factory=dict)  # bodies that did not agree, by how many photos then saw them


@dataclass(frozen=True)
class _Try:
    """A body, the sightings of it that count, and one way it may stand."""

    body: int
    rows: IndexArray
    turn: Vector
    place: Vector


def started(table: Table, scale: float, radius: Vector) -> tuple[PoseEstimate, IndexArray, IndexArray]:
    """The first standing, and which photos (p,) and bodies (b,) have their place in it. The world is the first photo's
    view.
    """
    turn, place = _before_lens(table, scale, radius)
    start = _pair(table, turn, place, scale, radius)
    if start is None:
        return _nothing(table, scale, radius), np.zeros(len(table.photos), bool), np.zeros(len(table.bodies), bool)
    for _ in range(PASSES):
        grown = True
        while grown:
            grown = _next_bodies(table, start, turn, place) | _next_photo(table, start, turn, place)
            grown = grown or _bridged(table, start, turn, place)
        if not _let_go(table, start):
            break
    return start.at, start.photos, start.bodies


def best_started(table: Table, scale: float, radius: Vector) -> tuple[Table, PoseEstimate, IndexArray, IndexArray]:
    """The start that most sightings agree with, of several focal lengths where the photos do not say theirs; with the
    table that it was made from.
    """
    best: tuple[float, tuple[Table, PoseEstimate, IndexArray, IndexArray]] | None = None
    for guess in GUESSES_F[:1] if all(photo.focal_px for photo in table.photos) else GUESSES_F:
        guessed = replace(table, photos=tuple(replace(photo, guessed_f=guess) for photo in table.photos))
        at, photos, bodies = started(guessed, scale, radius)
        rows = np.flatnonzero(photos[table.photo] & bodies[table.body])
        agree = float(np.maximum(0.0, 1.0 - _errors(at, guessed, rows) / AGREES_PX).sum()) if len(rows) else 0.0
        if best is None or agree > best[0]:
            best = agree, (guessed, at, photos, bodies)
    assert best is not None  # there is a guess
    return best[1]


def evened(table: Table, start: _Start) -> PoseEstimate:
    """Adjust everything placed so far as a whole: errors of one after the other must not add up."""
    from .bundle_adjustment import roughly

    keep = start.photos[table.photo] & start.bodies[table.body]
    return roughly(table.only(keep), start.at)


def _let_go(table: Table, start: _Start) -> bool:
    """Photos that what came later speaks against are taken out, to be placed again by all that stands now."""
    lost = False
    for k in np.flatnonzero(start.photos):
        rows = np.flatnonzero(start.bodies[table.body] & (table.photo == k))
        if len(rows) and float((_errors(start.at, table, rows) < 2 * AGREES_PX).mean()) < 0.5:
            start.photos[k], lost = False, True
            start.tried.clear()
    return lost


def _nothing(table: Table, scale: float, radius: Vector) -> PoseEstimate:
    p, b = len(table.photos), len(table.bodies)
    lens = np.array([next(f.first_lens for f in table.photos if f.lens == name) for name in table.lenses])
    return PoseEstimate(
        np.tile(np.eye(3), (p, 1, 1)),
        np.zeros((p, 3)),
        np.tile(np.eye(3), (b, 1, 1)),
        np.zeros((b, 3)),
        lens.reshape(-1, FIGURES),
        scale,
        radius,
    )


def _before_lens(table: Table, scale: float, radius: Vector) -> tuple[Vector, Vector]:
    """Each sighting's body before its lens, in two ways: turns (n, 2, 3, 3) and places (n, 2, 3)."""
    lens = np.array([photo.first_lens for photo in table.photos])[table.photo]
    rays = undistorted(table.pixels, lens[:, None, :])
    middle = table.paper.mean(axis=1)
    turn, place, _ = both_ways(rays, scale * (table.paper - middle[:, None]))
    for k, number in enumerate(table.number):
        if is_cuff(int(number)):
            own, at = _on_cuff(round(middle[k, 0] / CUFF_PITCH_MM), scale, float(radius[table.body[k]]))
            for way in (0, 1):
                turned_back = turn[k, way] @ own.T
                place[k, way] -= turned_back @ at
                turn[k, way] = turned_back
    return turn, place


def _on_cuff(number: int, scale: float, radius: float) -> tuple[Vector, Vector]:
    """How a strip's tag stands in its body's frame."""
    angle = scale * number * CUFF_PITCH_MM / radius
    out = np.array([np.cos(angle), np.sin(angle), 0.0])
    along = np.array([0.0, 0.0, 1.0])
    return np.column_stack([np.cross(along, out), along, out]), radius * out


def _pair(table: Table, turn: Vector, place: Vector, scale: float, radius: Vector) -> _Start | None:
    """The two photos that agree best on what both saw."""
    seen = [set(table.body[table.photo == k].tolist()) for k in range(len(table.photos))]
    pairs = sorted(combinations(range(len(seen)), 2), key=lambda pair: -len(seen[pair[0]] & seen[pair[1]]))
    best: tuple[float, _Start] | None = None
    for i, j in pairs[:FIRST_PAIRS]:
        shared = seen[i] & seen[j]
        if len(shared) < 2 and not (len(shared) == 1 and len(seen) == 2):
            continue
        start = _Start(_nothing(table, scale, radius), np.zeros(len(seen), bool), np.zeros(len(table.bodies), bool))
        start.photos[i] = True
        for body in sorted(shared):  # as the first photo sees them, either way, until the second says which
            rows = np.flatnonzero((table.photo == i) & (table.body == body))
            trial = _with_second(table, start, turn, place, i, j, int(rows[0]))
            if trial and (best is None or trial[0] > best[0]):
                best = trial
            if best and best[0] > ENOUGH * len(shared) > ENOUGH * 3:
                return best[1]
    return best[1] if best else None


def _with_second(
    table: Table, start: _Start, turn: Vector, place: Vector, i: int, j: int, row: int
) -> tuple[float, _Start] | None:
    """The second photo's place by one body that both saw, each of four ways: how much agrees, and what stands then."""
    body = table.body[row]
    theirs = np.flatnonzero((table.photo == j) & (table.body == body))
    best: tuple[float, _Start] | None = None
    for way in (0, 1):
        for other in (0, 1):
            k = int(theirs[0])
            shift_turn = turn[k, other] @ turn[row, way].T
            shift = place[k, other] - shift_turn @ place[row, way]
            turn_j, shift_j = shift_turn @ start.at.photo_turn[i], shift_turn @ start.at.photo_shift[i] + shift
            trial = _Start(_placed_photo(start.at, j, turn_j, shift_j), start.photos.copy(), start.bodies.copy())
            trial.photos[j] = True
            _next_bodies(table, trial, turn, place)
            angle = np.degrees(np.arccos(np.clip((np.trace(shift_turn) - 1) / 2, -1, 1)))
            score = float(trial.bodies.sum()) + min(angle, 30.0) / 60.0  # of two that agree alike, the wider apart
            if trial.bodies.sum() and (best is None or score > best[0]):
                best = score, trial
    return best


def _bridged(table: Table, start: _Start, turn: Vector, place: Vector) -> bool:
    """Place a photo that shares with one placed photo only what that alone has seen: as the first two were."""
    seen = [set(table.body[table.photo == k].tolist()) for k in range(len(table.photos))]
    waiting = set(np.flatnonzero(~start.bodies).tolist())
    there, lacking = (np.flatnonzero(some).tolist() for some in (start.photos, ~start.photos))
    pairs = [(len(seen[i] & seen[j] & waiting), i, j) for i in there for j in lacking]
    for shared, i, j in sorted(pairs, reverse=True)[:BRIDGES]:
        if shared < BRIDGE_OF:
            return False
        best: tuple[float, _Start] | None = None
        for body in sorted(seen[i] & seen[j] & waiting):
            row = int(np.flatnonzero((table.photo == i) & (table.body == body))[0])
            trial = _with_second(table, start, turn, place, i, j, row)
            best = trial if trial and (best is None or trial[0] > best[0]) else best
        if best and best[1].bodies.sum() - start.bodies.sum() >= max(BRIDGE_OF, ENOUGH * shared):
            start.at, start.photos, start.bodies = best[1].at, best[1].photos, best[1].bodies
            start.at = evened(table, start)
            return True
    return False


def _placed_photo(at: PoseEstimate, k: int, turn: Vector, shift: Vector) -> PoseEstimate:
    turns, shifts = at.photo_turn.copy(), at.photo_shift.copy()
    turns[k], shifts[k] = turn, shift
    return replace(at, photo_turn=turns, photo_shift=shifts)


def _placed_body(at: PoseEstimate, k: int, turn: Vector, place: Vector) -> PoseEstimate:
    turns, places = at.body_turn.copy(), at.body_place.copy()
    turns[k], places[k] = turn, place
    return replace(at, body_turn=turns, body_place=places)


def _errors(at: PoseEstimate, table: Table, rows: IndexArray) -> Vector:
    """How far off each sighting's corners are (n,) [pixels of a photo of 4000]."""
    some = table.only(rows)
    left, _ = left_over(at, some)
    wide = np.array([max(photo.width, photo.height) for photo in table.photos])[some.photo]
    return np.asarray(np.sqrt((left.reshape(-1, 4, 2) ** 2).sum(axis=2).mean(axis=1)) * 4000.0 / wide)


def _next_bodies(table: Table, start: _Start, turn: Vector, place: Vector) -> bool:
    """Place every body that two placed photos agree on."""
    tries: list[_Try] = []
    for body in np.flatnonzero(~start.bodies).tolist():
        rows = np.flatnonzero((table.body == body) & start.photos[table.photo])
        sights = len(set(table.photo[rows].tolist()))
        if sights < 2 or start.tried.get(body) == sights:
            continue
        start.tried[body] = sights
        turns, places = _ways(table, start, turn, place, rows)
        tries += [
            _Try(body, rows, turns[way], places[way])
            for way in _likeliest(_tried_bodies(table, start.at, rows, turns, places))
        ]
    best: dict[int, tuple[float, _Try]] = {}
    for one, errors in _settled_bodies(table, start.at, tries) if tries else ():
        agree = {int(table.photo[r]) for r, e in zip(one.rows, errors, strict=True) if e < AGREES_PX}
        score = float(np.minimum(errors, LOST_PX).sum())
        if len(agree) > 1 and (one.body not in best or score < best[one.body][0]):
            best[one.body] = score, one
    for body, (_, one) in best.items():
        start.at = _placed_body(start.at, body, one.turn, one.place)
        start.bodies[body] = True
    return bool(best)


def _settled_bodies(table: Table, at: PoseEstimate, tries: Sequence[_Try]) -> Iterator[tuple[_Try, Vector]]:
    """Each try moved until the photos agree best, and how far off each of its sightings then is; all at once."""
    rows, of = (
        np.concatenate([one.rows for one in tries]),
        np.repeat(np.arange(len(tries)), [len(t.rows) for t in tries]),
    )
    body, photo = table.body[rows], table.photo[rows]
    lens, to_lens = at.lens[table.lens[rows]][:, None, :], at.photo_turn[photo]
    own, *_ = on_body(table.paper[rows], at.scale, table.cuff[body], at.radius[body])
    turn, place = np.array([one.turn for one in tries]), np.array([one.place for one in tries])
    for _ in range(ROUNDS):
        carried = own @ turn[of].transpose(0, 2, 1)
        before = (carried + place[of][:, None]) @ to_lens.transpose(0, 2, 1) + at.photo_shift[photo][:, None]
        pixels, by_point, _ = projected(before, lens)
        by = by_point @ to_lens[:, None]
        j, left = np.concatenate([by @ -skew(carried), by], axis=-1), pixels - table.pixels[rows]
        weighted = j * _weight(left)[:, None, None, None]
        normal, slope = np.zeros((len(tries), POSE, POSE)), np.zeros((len(tries), POSE))
        np.add.at(normal, of, np.einsum("nkci,nkcj->nij", weighted, j))
        np.add.at(slope, of, np.einsum("nkci,nkc->ni", weighted, left))
        normal += 1e-9 * np.eye(POSE) * np.trace(normal, axis1=1, axis2=2)[:, None, None]
        step = -np.linalg.solve(normal, slope[..., None])[..., 0]
        turn, place = turned(np.clip(step[:, :3], -0.3, 0.3)) @ turn, place + step[:, 3:]
    world = own @ turn[of].transpose(0, 2, 1) + place[of][:, None]
    before = world @ to_lens.transpose(0, 2, 1) + at.photo_shift[photo][:, None]
    errors = _off_by(table, rows, seen_at(before, lens))
    for k, one in enumerate(tries):
        yield _Try(one.body, one.rows, turn[k], place[k]), errors[of == k]


def _weight(left: Vector) -> Vector:
    """How much sightings (n, 4, 2) count: one that is far off counts little."""
    off = (left**2).mean(axis=(1, 2)) / AGREES_PX**2
    return np.asarray(1.0 / (1.0 + off) ** 2)


def _ways(table: Table, start: _Start, turn: Vector, place: Vector, rows: IndexArray) -> tuple[Vector, Vector]:
    """A body in the world as each of its sightings says, each in two ways: turns (w, 3, 3), places (w, 3)."""
    back = start.at.photo_turn[table.photo[rows]].transpose(0, 2, 1)[:, None]
    shift = start.at.photo_shift[table.photo[rows]][:, None]
    places = (back @ (place[rows] - shift)[..., None])[..., 0]
    return (back @ turn[rows]).reshape(-1, 3, 3), places.reshape(-1, 3)


def _likeliest(errors: Vector) -> list[int]:
    """The few ways (w, n) that are least off, the best first."""
    score = np.minimum(errors, LOST_PX).sum(axis=1)
    return [int(k) for k in np.argsort(score, kind="stable")[:SETTLED]]


def _tried_bodies(table: Table, at: PoseEstimate, rows: IndexArray, turns: Vector, places: Vector) -> Vector:
    """How far off each sighting is where its body stands each way (w, n) [pixels of a photo of 4000]."""
    cuff, radius = table.cuff[table.body[rows]], at.radius[table.body[rows]]
    own, *_ = on_body(table.paper[rows], at.scale, cuff, radius)
    world = np.einsum("wij,nkj->wnki", turns, own) + places[:, None, None]
    photo = table.photo[rows]
    before = np.einsum("nij,wnkj->wnki", at.photo_turn[photo], world) + at.photo_shift[photo][:, None]
    return _off_by(table, rows, seen_at(before, at.lens[table.lens[rows]][:, None]))


def _tried_photos(table: Table, at: PoseEstimate, rows: IndexArray, turns: Vector, shifts: Vector) -> Vector:
    """How far off each sighting of one photo is where that stands each way (w, n) [pixels of a photo of 4000]."""
    body = table.body[rows]
    own, *_ = on_body(table.paper[rows], at.scale, table.cuff[body], at.radius[body])
    world = own @ at.body_turn[body].transpose(0, 2, 1) + at.body_place[body][:, None]
    before = np.einsum("wij,nkj->wnki", turns, world) + shifts[:, None, None]
    return _off_by(table, rows, seen_at(before, at.lens[table.lens[rows]][:, None]))


def _off_by(table: Table, rows: IndexArray, pixels: Vector) -> Vector:
    wide = np.array([max(photo.width, photo.height) for photo in table.photos])[table.photo[rows]]
    square = ((pixels - table.pixels[rows]) ** 2).sum(axis=-1).mean(axis=-1)
    return np.asarray(np.sqrt(square) * 4000.0 / wide)


def _next_photo(table: Table, start: _Start, turn: Vector, place: Vector) -> bool:
    """Place the photo that sees most of what is placed, where what it sees agrees."""
    known = start.bodies[table.body]
    waiting = [(int((known & (table.photo == k)).sum()), k) for k in np.flatnonzero(~start.photos)]
    for count, k in sorted(waiting, reverse=True):
        if count < 1:
            return False
        rows = np.flatnonzero(known & (table.photo == k))
        body = table.body[rows]
        turns = (turn[rows] @ start.at.body_turn[body].transpose(0, 2, 1)[:, None]).reshape(-1, 3, 3)
        there = np.repeat(start.at.body_place[body], 2, axis=0)
        shifts = place[rows].reshape(-1, 3) - (turns @ there[..., None])[..., 0]
        way = _likeliest(_tried_photos(table, start.at, rows, turns, shifts))[0]
        at = _placed_photo(start.at, int(k), turns[way], shifts[way])
        at = _settled_photo(at, table, rows, int(k))
        good = int((_errors(at, table, rows) < AGREES_PX).sum())
        if good >= min(3, count) and good > 0.6 * count:
            start.at = at
            start.photos[k] = True
            if start.photos.sum() in EVENED_AT:
                start.at = evened(table, start)
            return True
    return False


def _settled_photo(at: PoseEstimate, table: Table, rows: IndexArray, k: int) -> PoseEstimate:
    """One photo moved until what it sees agrees best."""
    body = table.body[rows]
    lens = at.lens[table.lens[rows]][:, None, :]
    own, *_ = on_body(table.paper[rows], at.scale, table.cuff[body], at.radius[body])
    world = own @ at.body_turn[body].transpose(0, 2, 1) + at.body_place[body][:, None]
    turn, shift = at.photo_turn[k], at.photo_shift[k]
    for _ in range(ROUNDS):
        before = world @ turn.T + shift
        pixels, by_point, _ = projected(before, lens)
        j, left = np.concatenate([by_point @ -skew(before), by_point], axis=-1), pixels - table.pixels[rows]
        weighted = (j * _weight(left)[:, None, None, None]).reshape(-1, POSE)
        normal = weighted.T @ j.reshape(-1, POSE)
        normal += 1e-9 * np.eye(POSE) * np.trace(normal)
        step = -np.linalg.solve(normal, weighted.T @ left.reshape(-1))
        spin = turned(np.clip(step[:3], -0.3, 0.3))
        turn, shift = spin @ turn, spin @ shift + step[3:]
        if np.abs(step[:3]).max() < STILL_RAD and np.abs(step[3:]).max() < STILL_MM:
            break
    return _placed_photo(at, k, turn, shift)
