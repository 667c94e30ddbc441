"""Close it: every distinct way from one pose to another with zero to three bends.

The end meets the target in position and direction; its reference is free, since a round pipe can be rolled. With the
legs l_i >= the shortest straight, n bends leave 3n + 1 free values for 5 conditions:
    0 and 1 bend   closed form
    2, 3 bends, angles from a set   directions from intersecting cones, legs from linear equations (`set_angles`)
    2, 3 bends, any angle   bounded Gauss-Newton from many starts, then moved along the solutions toward a lower cost
The cost of an answer [mm] is its length and what its bends cost (`cost`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..laying import NO_RIGID, angle_between
from ..records import Bend, Piece, Straight
from ..space import Pose, Vector, chain, pose_from_matrix, wrapped
from ..units import LONGEST_MM, Length
from . import set_angles
from .cost import bend_cost, degree_cost
from .slivers import LEAST_ANGLE_DEG, MEETS_MM, without_slivers

END_MM = MEETS_MM  # an answer that misses by more is thrown away; the promise to the outside is 1e-6
NO_LEG_MM = 1e-7  # a straight of less is none
ODD_ANGLES = 60.0  # what an answer off the shop's set must save to be shown before one from it
LOOP_DEG = 300.0  # common practice, no source


@dataclass(frozen=True)
class BendOptions:
    """The bends an answer may be made of. Angles empty = any angle; `free` also tries any angle beside the set."""

    clr_mm: tuple[float, ...]
    angles_deg: tuple[float, ...] = ()
    free: bool = True
    shortest_mm: float = 0.0
    most_bends: int = 3
    starts: int = 64


@dataclass(frozen=True)
class Answer:
    """One way: alternating legs and bends as kernel steps (2n + 1, 4), exact at its end."""

    steps: Vector = field(compare=False)
    from_set: bool

    @property
    def bends(self) -> Vector:
        bends: Vector = self.steps[self.steps[:, 0] == chain.BEND]
        return bends

    @property
    def angles_deg(self) -> Vector:
        return self.bends[:, 1]

    @property
    def radii_mm(self) -> Vector:
        return self.bends[:, 2]

    @property
    def legs(self) -> Vector:
        legs: Vector = self.steps[self.steps[:, 0] == chain.LEG, 1]
        return legs

    @property
    def length_mm(self) -> float:
        return float(self.legs.sum() + (np.radians(self.angles_deg) * self.radii_mm).sum())

    @property
    def cost(self) -> float:
        return self.length_mm + float(sum(bend_cost(float(deg)) for deg in self.angles_deg))

    @property
    def rank(self) -> float:
        """Cost for putting answers in order: angles of the shop's set come first among equals."""
        return self.cost + (0.0 if self.from_set else ODD_ANGLES)

    @property
    def goes_round(self) -> bool:
        """Whether it turns about once round to come where it goes: no way that a fabricator would build."""
        return float(self.angles_deg.sum()) >= LOOP_DEG

    def pieces(self, first: int = 1, prefix: str = "p") -> tuple[Piece, ...]:
        """Records for a run, ids counted from `first`. A straight is left out when there is none: even a hundredth of a
        millimetre less would move the end by as much.
        """
        out: list[Piece] = []
        for kind, a, clr, roll in self.steps:
            name = f"{prefix}{first + len(out)}"
            if kind == chain.LEG and a > NO_LEG_MM:
                out.append(Straight(id=name, length_mm=Length(a)))
            elif kind == chain.BEND:
                out.append(Bend(id=name, angle_deg=float(a), clr_mm=Length(clr), roll_deg=wrapped(roll)))
        return tuple(out)


def close(start: Pose, target: Pose, ways: BendOptions) -> list[Answer]:
    """Every distinct answer, gentlest first; empty when there is none.

    Same input, same answers: the starts of the search are a fixed low-discrepancy sequence.
    """
    found: list[Answer] = []
    for made in _all(start, target, ways):
        answer = _without_slivers(start, target, made) if made else None
        if answer is not None and _ends_there(start, target, answer) and _lawful(answer, ways):
            found.append(answer)
    return _distinct(start, found)


def _all(start: Pose, target: Pose, ways: BendOptions) -> Iterator[Answer | None]:
    yield no_bend(start, target, ways)
    if ways.most_bends >= 1:
        yield from (one_bend(start, target, clr, ways) for clr in ways.clr_mm)
    for n in (2, 3):
        if ways.most_bends < n:
            return
        if ways.angles_deg:
            for steps in set_angles.answers(start, target, n, ways.clr_mm, ways.angles_deg, ways.shortest_mm):
                yield Answer(steps, from_set=True)
        if ways.free or not ways.angles_deg:
            yield from _free_answers(start, target, n, ways)


def _without_slivers(start: Pose, target: Pose, made: Answer) -> Answer:
    """An answer without straights that nobody cuts, where there is one beside it."""
    return Answer(without_slivers(start, target, made.steps, keep_angles=made.from_set), made.from_set)


def _ends_there(start: Pose, target: Pose, answer: Answer) -> bool:
    """Laid again from its own steps, the answer ends on the target."""
    end = pose_from_matrix(chain.lay_frames(start.matrix(), answer.steps, NO_RIGID)[-1])
    return bool(np.linalg.norm(end.point - target.point) < END_MM and angle_between(end.flow, target.flow) < END_MM)


def _lawful(answer: Answer, ways: BendOptions) -> bool:
    legs_ok = bool(((answer.legs >= ways.shortest_mm - 1e-6) & (answer.legs <= LONGEST_MM)).all())
    angles = answer.angles_deg
    if len(angles) == 0:
        return legs_ok
    in_set = ways.free or not ways.angles_deg or all(_in_set(a, ways.angles_deg) for a in angles)
    return legs_ok and in_set and bool((angles >= LEAST_ANGLE_DEG - 1e-6).all())


def _in_set(angle: float, angles: Sequence[float]) -> bool:
    return any(abs(angle - a) < 1e-6 for a in angles)


def no_bend(start: Pose, target: Pose, ways: BendOptions) -> Answer | None:
    """Straight ahead, or nothing."""
    ahead = target.point - start.point
    along = float(ahead @ start.flow)
    if angle_between(start.flow, target.flow) > END_MM or np.linalg.norm(ahead - along * start.flow) > END_MM:
        return None
    if along < max(ways.shortest_mm, 0.0) - 1e-9:
        return None
    return Answer(np.array([[chain.LEG, max(along, 0.0), 0.0, 0.0]]), from_set=True)


def one_bend(start: Pose, target: Pose, clr: float, ways: BendOptions) -> Answer | None:
    """The one bend between two lines that meet, or the 180 between two that run back side by side."""
    ahead = target.point - start.point
    angle = angle_between(start.flow, target.flow)
    if angle > 180.0 - 1e-9:
        return _u_turn(start, ahead, clr, ways.shortest_mm)
    normal = np.cross(start.flow, target.flow)
    if np.linalg.norm(normal) < 1e-9 or abs(ahead @ normal) / np.linalg.norm(normal) > END_MM:
        return None
    # corner C = start + x f = target - y g, solved in the plane of the two lines
    pair = np.column_stack([start.flow, target.flow])
    x, y = np.linalg.lstsq(pair, ahead, rcond=None)[0]
    tangent = clr * math.tan(math.radians(angle) / 2)
    legs = np.array([x - tangent, y - tangent])
    if (legs < ways.shortest_mm - 1e-9).any():
        return None
    roll = start.roll_of(target.flow - (target.flow @ start.flow) * start.flow)
    return _one_bend_answer(legs, angle, clr, roll, ways)


def _u_turn(start: Pose, ahead: Vector, clr: float, shortest: float) -> Answer | None:
    along = float(ahead @ start.flow)
    side = ahead - along * start.flow
    if abs(float(np.linalg.norm(side)) - 2 * clr) > END_MM:
        return None
    legs = np.array([max(shortest, shortest + along), max(shortest, shortest - along)])
    steps = [[chain.LEG, legs[0], 0, 0], [chain.BEND, 180.0, clr, start.roll_of(side)], [chain.LEG, legs[1], 0, 0]]
    return Answer(np.array(steps, dtype=float), from_set=True)


def _one_bend_answer(legs: Vector, angle: float, clr: float, roll: float, ways: BendOptions) -> Answer:
    steps = [[chain.LEG, max(legs[0], 0.0), 0, 0], [chain.BEND, angle, clr, roll], [chain.LEG, max(legs[1], 0.0), 0, 0]]
    return Answer(np.array(steps, dtype=float), from_set=_in_set(angle, ways.angles_deg))


# --- any angle ------------------------------------------------------------------------------------------------


def _free_answers(start: Pose, target: Pose, n: int, ways: BendOptions) -> Iterator[Answer]:
    """Gauss-Newton from spread starts; each hit as found, half-way and all the way down in cost."""
    distance = float(np.linalg.norm(target.point - start.point))
    arm = max(distance / 3.0, 2.0 * max(ways.clr_mm))
    longest = distance * 1.5 + 8.0 * max(ways.clr_mm) + 4.0 * ways.shortest_mm
    free, low, high = _bounds(n, ways.shortest_mm, longest)
    hits = 0
    for steps in _starts(n, ways, distance):
        closed, error = chain.close_chain(start.matrix(), steps, NO_RIGID, target.matrix(), free, low, high, arm, 80)
        if error > END_MM / 2:
            continue
        hits += 1
        if hits <= 4:
            yield Answer(closed, from_set=False)
        gentler = _descend(start, target, closed, (free, low, high, arm))
        yield Answer(gentler, from_set=False)
        if hits >= (6 if n == 2 else 8):
            return


def _bounds(n: int, shortest: float, longest: float) -> tuple[Vector, Vector, Vector]:
    free, low, high = [], [], []
    for i in range(2 * n + 1):
        columns = ((1, shortest, longest),) if i % 2 == 0 else ((1, LEAST_ANGLE_DEG, 180.0), (3, -1080.0, 1080.0))
        for column, least, most in columns:
            free.append((i, column))
            low.append(least)
            high.append(most)
    return np.array(free), np.array(low), np.array(high)


def _starts(n: int, ways: BendOptions, distance: float) -> Iterator[Vector]:
    """Starting chains spread evenly over legs, angles, rolls and radii."""
    count = ways.starts if n == 2 else 3 * ways.starts
    mixes = len(ways.clr_mm) ** n
    for i, u in enumerate(_spread(count, 4 * n + 1)):
        steps = np.zeros((2 * n + 1, 4))
        mix = i % mixes
        for k in range(2 * n + 1):
            if k % 2 == 0:
                steps[k] = chain.LEG, ways.shortest_mm + u[k] ** 2 * distance, 0.0, 0.0
            else:
                j = k // 2
                mix, which = divmod(mix, len(ways.clr_mm))
                angle = LEAST_ANGLE_DEG + u[2 * n + 1 + j] * (178.0 if i % 3 == 0 else 90.0)
                steps[k] = chain.BEND, angle, ways.clr_mm[which], 360.0 * u[3 * n + 1 + j]
        yield steps


def _spread(count: int, dimensions: int) -> Vector:
    """Evenly spread points of the unit cube (count, dimensions): an additive recurrence, the same every time.

    The steps are powers of the root of x^(d+1) = x + 1, which generalises the golden ratio (Roberts 2018, from memory).
    """
    root = 2.0
    for _ in range(60):
        root = (1.0 + root) ** (1.0 / (dimensions + 1))
    steps = root ** -np.arange(1.0, dimensions + 1)
    points: Vector = (0.5 + np.outer(np.arange(1, count + 1), steps)) % 1.0
    return points


Frame = tuple[Vector, Vector, Vector, float]


def _descend(start: Pose, target: Pose, steps: Vector, bounds: Frame, rounds: int = 12) -> Vector:
    """Slide along the solutions toward a lower cost: a step down in cost, then closed again."""
    free, low, high, arm = bounds
    best, best_cost, stride = steps, Answer(steps, False).cost, 0.25
    for _ in range(rounds):
        trial = best.copy()
        for k, (i, column) in enumerate(free):
            if column == 3:
                continue
            slope = 1.0 if trial[i, 0] == chain.LEG else _angle_slope(trial[i])
            room = trial[i, column] - low[k]
            pull = stride * room if trial[i, 0] == chain.LEG else stride * min(room, 10.0 * slope)
            trial[i, column] = min(max(trial[i, column] - pull, low[k]), high[k])
        closed, error = chain.close_chain(start.matrix(), trial, NO_RIGID, target.matrix(), free, low, high, arm, 60)
        cost = Answer(closed, False).cost
        if error < END_MM / 2 and cost < best_cost - 0.01:
            best, best_cost = closed, cost
        else:
            stride *= 0.5
            if stride < 0.03:
                break
    return best


def _angle_slope(step: Vector) -> float:
    """Cost of one more degree of this bend."""
    return degree_cost(float(step[1])) + math.radians(step[2])


# --- telling answers apart --------------------------------------------------------------------------------------


def _distinct(start: Pose, answers: list[Answer]) -> list[Answer]:
    """One of each kind (bend count, angles to 5 deg, sides to 30 deg), the gentlest of its kind, gentlest first."""
    seen: dict[tuple[object, ...], Answer] = {}
    for answer in sorted(answers, key=lambda a: a.rank):
        seen.setdefault(kind_of(start, answer), answer)
    return list(seen.values())


def kind_of(start: Pose, answer: Answer) -> tuple[object, ...]:
    """Return the key by which two answers are the same to a fabricator."""
    frames = chain.lay_frames(start.matrix(), answer.steps, NO_RIGID)
    sides = []
    for frame, step in zip(frames, answer.steps, strict=False):
        if step[0] == chain.BEND:
            side = pose_from_matrix(frame).side(step[3])
            sides.append(tuple(np.round(side * 2).astype(int)))
    return (
        len(answer.bends),
        answer.from_set,
        tuple(np.round(answer.angles_deg / 5).astype(int)),
        tuple(answer.radii_mm),
        tuple(sides),
    )


# --- when there is none -------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Change:
    """A change that was solved and closes: in words, the ways it used, and the aim it used [mm further along]."""

    words: str
    ways: BendOptions
    aim_shift_mm: float = 0.0


def changes_that_work(start: Pose, target: Pose, ways: BendOptions, od_mm: float) -> list[Change]:
    """Changes, each solved here, that make an unclosable end closable; the smallest change of each sort."""
    sorts: list[list[Change]] = []
    if ways.angles_deg and not ways.free:
        sorts.append([Change("allow any angle, not only the set", replace(ways, free=True))])
    if ways.shortest_mm > 0:
        lengths = [ways.shortest_mm * share for share in (0.5, 0.25, 0.0)]
        sorts.append(
            [Change(f"let the shortest straight be {mm:.0f} mm", replace(ways, shortest_mm=mm)) for mm in lengths]
        )
    tighter = [share * od_mm for share in (1.5, 1.0) if share * od_mm < min(ways.clr_mm) - 0.5]
    sorts.append(
        [Change(f"use bends of {mm:.1f} mm radius as well", replace(ways, clr_mm=(*ways.clr_mm, mm))) for mm in tighter]
    )
    for sign, word in ((1.0, "further along"), (-1.0, "back")):
        shifts = (25, 50, 100, 200, 400)
        sorts.append([Change(f"move the finish {mm} mm {word} its own line", ways, sign * mm) for mm in shifts])
    return [works for changes in sorts for works in _first(start, target, changes)]


def _first(start: Pose, target: Pose, changes: list[Change]) -> list[Change]:
    for change in changes:
        moved = replace(target, point=target.point + change.aim_shift_mm * target.flow)
        if close(start, moved, replace(change.ways, starts=32)):
            return [change]
    return []


def why_not(start: Pose, target: Pose, ways: BendOptions) -> str:
    """Why no answer exists, in the trade's words, with the figures that decide it."""
    ahead = target.point - start.point
    along = float(ahead @ start.flow)
    aside = float(np.linalg.norm(ahead - along * start.flow))
    turn = angle_between(start.flow, target.flow)
    place = f"the finish lies {along:.0f} mm ahead and {aside:.0f} mm to the side, turned {turn:.0f}°"
    radius = min(ways.clr_mm)
    need = f"bends of {radius:.0f} mm radius with straights of at least {ways.shortest_mm:.0f} mm between them"
    kinds = "angles from the set" if ways.angles_deg and not ways.free else "any angle"
    return f"No way with up to {ways.most_bends} bends: {place}; {need} do not fit in there with {kinds}."
