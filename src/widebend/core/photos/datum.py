"""Where the whole lies under the vehicle: hubs, rails, the floor or typed places say it, and what they hold is told.

What is known is a list of *holds*: so much of a tag's place along an axis is such a value. The whole is turned and
shifted until all hold as well as they can; where they hold more than they must, what they disagree by is said.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from scipy.spatial.transform import Rotation

from ..errors import InputError
from ..space import Vector, unit
from .bundle_adjustment import place_of
from .pose_estimate import Places, PoseEstimate
from .sightings import Table
from .square import skew
from .tags import TagJob, is_left, job_of

FLOOR_MM, HUB_MM, RAIL_MM, TYPED_MM = 2.0, 1.0, 3.0, 1.0  # how well each is held: common practice, no source
ROUNDS = 30
LEVER_MM, WEAKEST = 1000.0, 0.02  # holds weaker than this in some way are none


@dataclass(frozen=True)
class Hold:
    """Shares of tags' places along the vehicle's axes that are together `value` [mm], held to `doubt` [mm]."""

    what: str
    shares: tuple[tuple[int, int, float], ...]  # number, axis, share
    value: float
    doubt: float
    typed: bool = False  # one axis of a place that the person typed


@dataclass(frozen=True)
class Known:
    """The person's figures beside the tags: places of tags (number -> X, Y, Z), the rails' underside over the ground at
    ride at the front and the rear tag, whether the floor's tags lie on the ground that the wheels stand on, and whether
    hubs and rails say where they are by themselves.
    """

    places: Mapping[int, tuple[float, float, float]]
    rail_heights_mm: tuple[float, float] | None = None
    on_wheels: bool = True
    by_tags: bool = True


@dataclass(frozen=True)
class Datum:
    """The whole in the vehicle's frame; which rows hold it there (6, unknowns); in words what it hangs on; what its
    holds are off [mm], by their words; the covariance of a turn and a shift of the whole by its holds' doubts (6, 6).
    """

    at: PoseEstimate
    held: Vector
    words: tuple[str, ...]
    off: tuple[tuple[str, float], ...]
    whole: Vector = field(default_factory=lambda: np.zeros((6, 6)))

    def whole_mm(self, places: Vector) -> float:
        """How far the whole may be off by its holds' own doubts, one deviation at the worst of some places (n, 3)."""
        rows = [np.hstack([-skew(place), np.eye(3)]) for place in places]
        return float(np.sqrt(max(np.linalg.eigvalsh(row @ self.whole @ row.T)[-1] for row in rows)))


def holds_of(numbers: Sequence[int], known: Known) -> tuple[list[Hold], str]:
    """Return the known places of some tags, and what is lacking where that does not hold the whole."""
    there = set(numbers)
    holds = list(_typed(there, known)) + list(_heights(there, known)) + (list(_ways(there)) if known.by_tags else [])
    return holds, _lacking(holds, there)


def _typed(there: set[int], known: Known) -> Iterator[Hold]:
    for number, place in known.places.items():
        if number in there:
            for axis in range(3):
                yield Hold(f"tag {number} as typed", ((number, axis, 1.0),), place[axis], TYPED_MM, typed=True)


def _heights(there: set[int], known: Known) -> Iterator[Hold]:
    floor = _of("floor", there)
    if known.on_wheels:
        for number in floor:
            yield Hold("the floor", ((number, 2, 1.0),), 0.0, FLOOR_MM)
    if known.rail_heights_mm:
        for number, height in _rail_heights(there, known.rail_heights_mm):
            yield Hold("the rails' heights", ((number, 2, 1.0),), height, RAIL_MM)


def _rail_heights(there: set[int], heights: tuple[float, float]) -> Iterator[tuple[int, float]]:
    """The lowest number of each rail is its front tag, the next its rear one."""
    for side in (True, False):
        mine = _rail(there, left=side)
        yield from zip(mine[:2], heights, strict=False)


def _ways(there: set[int]) -> Iterator[Hold]:
    """Along and across: by the front hubs, else by the rails."""
    rails = [_rail(there, left=side) for side in (True, False)]
    if {310, 311} <= there:
        for number in (310, 311):
            yield Hold("the front hubs", ((number, 0, 1.0),), 0.0, HUB_MM)
        yield Hold("the front hubs", ((310, 1, 0.5), (311, 1, 0.5)), 0.0, HUB_MM)
        if {312, 313} <= there:
            yield Hold("the rear hubs", ((312, 1, 0.5), (313, 1, 0.5)), 0.0, 3 * HUB_MM)
    elif all(len(rail) > 1 for rail in rails):
        for rail in rails:
            yield Hold("the rails", ((rail[0], 1, 1.0), (rail[-1], 1, -1.0)), 0.0, RAIL_MM)
        yield Hold("the rails", ((rails[0][0], 1, 0.5), (rails[1][0], 1, 0.5)), 0.0, RAIL_MM)


def _of(job: TagJob, numbers: Iterable[int]) -> list[int]:
    """The tags of one job, in order."""
    return sorted(n for n in numbers if (its := job_of(n)) and its.job == job)


def _rail(numbers: Iterable[int], *, left: bool) -> list[int]:
    """The tags of one rail, in order."""
    return [n for n in _of("rail", numbers) if is_left(n) == left]


def _lacking(holds: Sequence[Hold], there: set[int]) -> str:
    held = {axis: {n for hold in holds for n, a, _ in hold.shares if a == axis} for axis in range(3)}
    if len(held[2]) < 3:
        return (
            "nothing says what is level and how high: stick three floor tags (290 on) where the wheels stand, or "
            "rail tags (270 on) with their heights typed, or type where three tags are"
        )
    if not held[0]:
        return "nothing says where the front axle is: stick hub tags 310 and 311, or type where a tag is"
    if len(held[1]) < 1 or len(held[1] | held[0]) < 2:
        return "nothing says which way is back: stick both front hub tags, or rail tags on both rails"
    return ""


def gauged(at: PoseEstimate, table: Table, places: Places, holds: Sequence[Hold]) -> Datum:
    """The standing in the vehicle's frame, by its holds. Raises InputError where they leave a way open."""
    numbers = sorted({n for hold in holds for n, _, _ in hold.shares})
    own = {n: place_of(at, table, n, places) for n in numbers}
    turn, shift = _roughly(at, table, holds, {n: where for n, (where, _) in own.items()})
    for _ in range(ROUNDS):
        left, by = _left(holds, {n: turn @ where + shift for n, (where, _) in own.items()})
        step = -np.linalg.lstsq(by, left, rcond=None)[0]
        spin = Rotation.from_rotvec(step[:3]).as_matrix()
        turn, shift = spin @ turn, spin @ shift + step[3:]
        if np.abs(step[:3]).max() < 1e-12:
            break
    moved = _carried(at, turn, shift)
    left, by = _left(holds, {n: turn @ where + shift for n, (where, _) in own.items()})
    if np.linalg.svd(by / np.array([LEVER_MM] * 3 + [1.0] * 3), compute_uv=False)[-1] < WEAKEST:
        raise InputError(
            "what is known leaves a way open: the tags it is known of lie nearly in one line, type one more"
        )
    rows = np.zeros((len(holds), places.count))
    now = {n: place_of(moved, table, n, places)[1] for n in numbers}
    for k, hold in enumerate(holds):
        for number, axis, share in hold.shares:
            rows[k] += share / hold.doubt * now[number][axis]
    off: dict[str, float] = {}
    for hold, miss in zip(holds, left, strict=True):
        off[hold.what] = max(off.get(hold.what, 0.0), abs(float(miss)) * hold.doubt)
    return Datum(moved, by.T @ rows, tuple(off), tuple(off.items()), np.asarray(np.linalg.inv(by.T @ by)))


def _left(holds: Sequence[Hold], where: Mapping[int, Vector]) -> tuple[Vector, Vector]:
    """Return the residual of each datum, in its doubts (m,), and its derivative by a turn and a shift of the whole (m,
    6).
    """
    left, by = np.zeros(len(holds)), np.zeros((len(holds), 6))
    for k, hold in enumerate(holds):
        left[k] = -hold.value / hold.doubt
        for number, axis, share in hold.shares:
            p = where[number]
            left[k] += share * p[axis] / hold.doubt
            lever = np.zeros(3)
            lever[axis] = 1.0
            by[k, :3] += share / hold.doubt * np.cross(p, lever)
            by[k, 3 + axis] += share / hold.doubt
    return left, by


def _roughly(at: PoseEstimate, table: Table, holds: Sequence[Hold], own: Mapping[int, Vector]) -> tuple[Vector, Vector]:
    """A first turn and shift: by three typed places, else by what faces down and what is left and right."""
    typed = {hold.shares[0][0]: np.zeros(3) for hold in holds if hold.typed}
    for hold in holds:
        if hold.typed:
            typed[hold.shares[0][0]][hold.shares[0][1]] = hold.value
    if len(typed) >= 3:
        a, b = (np.array([source[n] for n in typed]) for source in (own, typed))
        u, _, vt = np.linalg.svd((a - a.mean(axis=0)).T @ (b - b.mean(axis=0)))  # Kabsch 1976
        turn = vt.T @ np.diag([1.0, 1.0, np.sign(np.linalg.det(vt.T @ u.T))]) @ u.T
        return turn, b.mean(axis=0) - turn @ a.mean(axis=0)
    up = _upward(at, table)
    if len(typed) == 2 and not all(_sides(own)):
        return _by_two(up, *((own[n], typed[n]) for n in typed))
    left, right = (np.mean([own[n] for n in own if n in side], axis=0) for side in _sides(own))
    across = right - left
    across = unit(across - (across @ up) * up)
    turn = np.array([np.cross(across, up), across, up])
    return turn, -turn @ ((left + right) / 2)


def _by_two(up: Vector, first: tuple[Vector, Vector], second: tuple[Vector, Vector]) -> tuple[Vector, Vector]:
    """By what is up and two places, each as it stands and as it is typed."""
    ways = [second[k] - first[k] for k in (0, 1)]
    frames = []
    for way, above in zip(ways, (up, np.array([0.0, 0.0, 1.0])), strict=True):
        along = unit(way - (way @ above) * above)
        frames.append(np.column_stack([along, np.cross(above, along), above]))
    turn = frames[1] @ frames[0].T
    return turn, first[1] - turn @ first[0]


def _sides(own: Mapping[int, Vector]) -> tuple[set[int], set[int]]:
    if {310, 311} <= set(own):
        return {310}, {311}
    return set(_rail(own, left=True)), set(_rail(own, left=False))


def _upward(at: PoseEstimate, table: Table) -> Vector:
    """Which way is up, roughly: the floor's tags look up, the rails' and most others down."""
    total = np.zeros(3)
    for k, number in enumerate(table.bodies):
        job = job_of(number)
        if job and job.job == "floor":
            total += 10.0 * at.body_turn[k][:, 2]
        elif job and job.job in ("rail", "face", "bolt", "low point"):
            total -= at.body_turn[k][:, 2]
    return unit(total)


def _carried(at: PoseEstimate, turn: Vector, shift: Vector) -> PoseEstimate:
    """The same standing with the world turned and shifted."""
    photo_turn = at.photo_turn @ turn.T
    return replace(
        at,
        photo_turn=photo_turn,
        photo_shift=at.photo_shift - photo_turn @ shift,
        body_turn=turn @ at.body_turn,
        body_place=at.body_place @ turn.T + shift,
    )
