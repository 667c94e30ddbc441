"""Corrections of the open pieces from where things really are: the least change first.

A slip joint takes it up; then all joints that give (slips, joints that turn until they are tightened, and flexes
set a little askew) do together; straights are cut longer or shorter; then clocks are turned; then faces are trimmed
askew; then one bend is cut shorter; then one is another bend. What is tacked stays as it was found. The kernel is the
one that holds a finish (`space/chain`).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..space import Vector, chain
from .built import ERRORS, Chain, at_point, built, joint_turns, twists, with_tilts

LEAST_ANGLE_DEG, MOST_ANGLE_DEG, LONGEST_MM, MOST_CLOCK_DEG = 2.0, 180.0, 6000.0, 45.0
LITTLE_MM, LITTLE_DEG = 0.05, 0.02
ARM_MM, DAMP = 300.0, 1e-6  # of a radian beside a millimetre
ROUNDS, TRIM_ROUNDS = 120, 8
MOST_TRIM_DEG, MM_A_DEG = 5.0, 8.0  # a face askew by so much still fits up; what it weighs against a cut's millimetre
LEFT_OUT = (0.05, 0.15, 0.3)  # shares of the lever that is used most
MADE_MM = 40.0  # what it weighs that a piece that is cut already is cut again: the same
PIECE_MM = 15.0  # what one more piece to cut again weighs: common practice, no source
CLOCK_MM_A_DEG = 4.0  # what a degree of clock weighs: it is taped and marked again
SLIP_IN_MM = 15.0  # how much further a pipe goes into a socket before it stands at its bottom: common practice
GIVEN_MM_A_DEG = 1.0  # a flex, or a joint that turns, gives without anything being cut or marked again
TURN = 5  # the column of what is turned in a joint, behind those of the errors
CorrectionKind = Literal[
    "as planned",
    "a slip joint",
    "joints that give",
    "lengths",
    "clocks",
    "trimmed faces",
    "one bend cut shorter",
    "another bend",
]


@dataclass(frozen=True)
class Change:
    """One value of a piece (from 0) that changes: what, from and to [mm or deg]; of a clock, how far round the tube
    [mm], clockwise seen against the flow; of a trim of the face ahead of it, what comes off at most [mm] and at which
    clock; of a flex, how far askew it stands and toward which clock; of a turn in a joint, clockwise seen against the
    flow, with how far round the tube.
    """

    piece: int
    what: Literal["length", "overlap", "clock", "angle", "trim", "flex", "turn"]
    was: float
    now: float
    round_mm: float = 0.0
    at_deg: float = 0.0
    made: bool = False


@dataclass(frozen=True)
class Gives:
    """Play in joints that takes nothing cut again, by piece (from 0): straights that slip, with how far each
    may come out of its joint [mm]; flexes, with how far askew each may stand [deg]; those behind a joint that turns.
    """

    slips: Mapping[int, float] = field(default_factory=dict)
    flexes: Mapping[int, float] = field(default_factory=dict)
    turning: frozenset[int] = frozenset()


NOTHING_GIVES = Gives()
IN_JOINTS: tuple[CorrectionKind, ...] = ("a slip joint", "joints that give")


@dataclass(frozen=True)
class Correction:
    """One answer: how, the chain of what is open with it, what changes, how far the end then misses [mm, deg]."""

    way: CorrectionKind
    rest: Chain
    changes: tuple[Change, ...]
    miss_mm: float
    miss_deg: float
    fits: bool


def corrections(
    rest: Chain,
    target: Vector,
    shortest_mm: float,
    gives: Gives = NOTHING_GIVES,
    *,
    closing: bool = False,
    fits: tuple[float, float] = (0.8, 0.5),
) -> list[Correction]:
    """Answers for what is open (it starts where the last tacked piece was found), so that its end meets `target`
    (3, 4): the least change first, up to the first that fits, with those that do not before it. What gives in a joint
    may give as well where that is not enough.

    `closing`: what comes
    behind is tacked too, so the last face can be trimmed as well: then the last step is a straight of nothing. `fits`:
    what a joint takes up when it is tacked [mm, deg] (common practice, no source).
    """
    out: list[Correction] = []
    bases = [rest]
    for way, sets in _ways(rest, gives.slips):
        if way == "joints that give":
            levers = _joints(rest, gives)
            answers = [_least_levers(rest, target, way, levers, fits)] if levers else []
            uncut = _joints(rest, replace(gives, slips={}))
            bases += [_levered(rest, target, uncut)] if uncut else []
        elif way == "trimmed faces":
            answers = [
                _least_levers(base, target, way, _trims(base, shortest_mm, closing=closing), fits) for base in bases
            ]
        else:
            answers = [
                _fewest(base, target, way, free, shortest_mm, gives.slips, fits) for base in bases for free in sets
            ]
        # what is turned or bent in a joint already is a change too
        answers = [replace(one, changes=tuple(_changes(rest, one.rest, way))) for one in answers]
        if answers:
            out.append(min(answers, key=_least))
        if out and out[-1].fits:
            break
    return out


def rest_of(plan: Chain, start: Vector, first: int, past: int | None = None) -> Chain:
    """Return the open pieces, from one step to one past its last, as a chain that starts at a frame. A clock that is
    changed on purpose turns its own bend alone: what is behind is marked from the line as before.
    """
    cut = slice(first, past)
    return replace(
        plan,
        start=np.ascontiguousarray(start),
        steps=plan.steps[cut],
        piece=plan.piece[cut],
        od_mm=plan.od_mm[cut],
        trims=plan.trims[cut],
        line_to_line=False,
    )


def with_rest(plan: Chain, rest: Chain, first: int) -> Chain:
    """A whole plan with what is open exchanged."""
    past = first + len(rest.steps)
    return replace(
        plan,
        steps=np.concatenate([plan.steps[:first], rest.steps, plan.steps[past:]]),
        trims=np.concatenate([plan.trims[:first], rest.trims, plan.trims[past:]]),
    )


def _least(one: Correction) -> tuple[bool, float, float]:
    """Of answers that fit the one that changes least, of those alike the first, else the one that misses least."""
    return not one.fits, round(_weight(one), 1) if one.fits else 0.0, 0.0 if one.fits else one.miss_mm + one.miss_deg


def _weight(one: Correction) -> float:
    """How much an answer changes: a piece that is cut again counts beside the millimetres it changes by."""
    sizes = {
        "length": 1.0,
        "overlap": 1.0,
        "clock": CLOCK_MM_A_DEG,
        "angle": CLOCK_MM_A_DEG,
        "trim": MM_A_DEG,
        "flex": GIVEN_MM_A_DEG,
        "turn": GIVEN_MM_A_DEG,
    }
    again = {change.piece for change in one.changes if change.made and change.what in ("length", "angle")}
    return MADE_MM * len(again) + sum(
        PIECE_MM + sizes[change.what] * abs(change.now - change.was) for change in one.changes
    )


def _ways(plan: Chain, slips: Mapping[int, float]) -> Iterator[tuple[CorrectionKind, list[list[tuple[int, int]]]]]:
    """Yield the levers, ever more of them: each way with the sets of (step, column) it is tried with."""
    whole = [k for k in range(len(plan.steps)) if plan.whole(k)]  # slices of a bend are one piece
    legs = [(k, 1) for k in whole if plan.steps[k, 0] == chain.LEG and plan.steps[k, 1] > 0]
    single = [k for k in whole if plan.steps[k, 0] == chain.BEND]
    both = legs + [(k, 3) for k in single]
    yield "as planned", [[]]
    if not len(plan.steps):
        return
    yield "a slip joint", [[leg] for leg in legs if plan.piece[leg[0]] in slips]
    yield "joints that give", []
    yield "lengths", [*([leg] for leg in legs), legs] if legs else []
    yield "clocks", [both] if single else []
    yield "trimmed faces", []
    yield "one bend cut shorter", [[*both, (k, 1)] for k in single]
    yield "another bend", [[*both, (k, 1)] for k in single]


Bounded = tuple[NDArray[Any], Vector, Vector]
Fits = tuple[float, float]


def _bounded(
    plan: Chain, free: list[tuple[int, int]], shortest_mm: float, slips: Mapping[int, float], way: CorrectionKind
) -> Bounded:
    low, high = [], []
    for k, column in free:
        value = float(plan.steps[k, column])
        if way == "a slip joint":
            low.append(max(0.0, value - SLIP_IN_MM))
            high.append(value + slips[plan.piece[k]])
        elif plan.steps[k, 0] == chain.LEG:
            low.append(min(shortest_mm, value))
            high.append(value if plan.piece[k] in plan.made else LONGEST_MM)  # what is cut only gets shorter
        elif column == 1:
            low.append(min(LEAST_ANGLE_DEG, value))
            high.append(MOST_ANGLE_DEG if way == "another bend" and plan.piece[k] not in plan.made else value)
        else:
            low.append(value - MOST_CLOCK_DEG)
            high.append(value + MOST_CLOCK_DEG)
    return np.array(free, dtype=np.intp).reshape(-1, 2), np.array(low), np.array(high)


def _fewest(
    plan: Chain,
    target: Vector,
    way: CorrectionKind,
    free: list[tuple[int, int]],
    shortest_mm: float,
    slips: Mapping[int, float],
    fits: Fits,
) -> Correction:
    """The answer with as few values changed as will do: what changes least is left as it was, one by one, while it
    still fits and less is changed in all.
    """
    best = _closed(plan, target, way, _bounded(plan, free, shortest_mm, slips, way), fits)
    if not best.fits or len(free) < 2:
        return best
    left = list(free)
    for one in sorted(free, key=lambda one: _moved(plan, best.rest, one)):
        fewer = [other for other in left if other != one]
        if not fewer:
            break
        tried = _closed(plan, target, way, _bounded(plan, fewer, shortest_mm, slips, way), fits)
        if _well_within(tried, fits) and _weight(tried) < _weight(best):
            best, left = tried, fewer
    return best


def _well_within(one: Correction, fits: Fits) -> bool:
    """Whether an answer leaves half of what a joint takes up to the hand that makes it."""
    return one.miss_mm <= fits[0] / 2 and one.miss_deg <= fits[1] / 2


def _moved(was: Chain, now: Chain, one: tuple[int, int]) -> float:
    """How much one value changed [mm, or deg as millimetres]."""
    step, column = one
    scale = 1.0 if was.steps[step, 0] == chain.LEG else CLOCK_MM_A_DEG
    return float(abs(now.steps[step, column] - was.steps[step, column])) * scale


def _closed(plan: Chain, target: Vector, way: CorrectionKind, bounded: Bounded, fits: Fits) -> Correction:
    """The free values moved until the end meets its target; faces that are trimmed stay so, as steps of their own."""
    free, low, high = bounded
    if not len(free):
        return _answer(plan, target, way, plan, fits)
    steps, rigid = with_tilts(plan)
    arm = max(200.0, float(np.linalg.norm(target[:, 3] - plan.start[:, 3])) / 3)
    own = free * [2, 1] + [1, 0]
    moved, _ = chain.close_chain(plan.start, steps, rigid, target, own, low, high, arm, ROUNDS)
    return _answer(plan, target, way, replace(plan, steps=moved[1::2]), fits)


@dataclass(frozen=True)
class Lever:
    """A value that may give: the step, its column of the errors, what a unit of it weighs [mm], and from what to what
    it may go [mm or deg].
    """

    step: int
    column: int
    weight: float
    low: float
    high: float


def _joints(plan: Chain, gives: Gives) -> list[Lever]:
    """Return the levers in the joints of the open pieces."""
    out: list[Lever] = []
    for k, step in enumerate(plan.steps):
        piece, size = plan.piece[k], float(step[1])
        if piece in gives.slips and step[0] == chain.LEG and plan.whole(k):
            out.append(Lever(k, 0, 1.0, max(0.0, size - SLIP_IN_MM), size + gives.slips[piece]))
        if piece in gives.flexes and k == plan.first_of(piece):
            each = gives.flexes[piece] / 2**0.5
            out += [Lever(k, column, GIVEN_MM_A_DEG, -each, each) for column in (3, 4)]
        if piece in gives.turning and k == plan.first_of(piece):
            was = float(plan.trims[k, 2])
            out.append(Lever(k, TURN, GIVEN_MM_A_DEG, was - MOST_CLOCK_DEG, was + MOST_CLOCK_DEG))
    return out


def _trims(plan: Chain, shortest_mm: float, *, closing: bool) -> list[Lever]:
    """Straights as they go, clocks, and faces of joints cut askew."""
    n = len(plan.steps)
    # a part's face is as its maker made it: only pipe is trimmed
    joints = [k for k in range(n) if (k == 0 or plan.piece[k] != plan.piece[k - 1]) and plan.steps[k, 0] != chain.RIGID]
    whole = [k for k in range(n) if plan.whole(k) and not (closing and k == n - 1)]
    out: list[Lever] = []
    for k in whole:
        size, clock = float(plan.steps[k, 1]), float(plan.steps[k, 3])
        if plan.steps[k, 0] == chain.LEG:
            longest = size if plan.piece[k] in plan.made else LONGEST_MM
            out.append(Lever(k, 0, 1.0, min(shortest_mm, size), longest))
        if plan.steps[k, 0] == chain.BEND:
            out.append(Lever(k, 2, CLOCK_MM_A_DEG, clock - MOST_CLOCK_DEG, clock + MOST_CLOCK_DEG))
    return out + [Lever(k, column, MM_A_DEG, -MOST_TRIM_DEG, MOST_TRIM_DEG) for k in joints for column in (3, 4)]


def _least_levers(plan: Chain, target: Vector, way: CorrectionKind, free: list[Lever], fits: Fits) -> Correction:
    """The least of all levers together (Gauss and Newton, least norm); what hardly helps is left as it was."""
    best = _levered(plan, target, free)
    answer = _answer(plan, target, way, best, fits)
    if not answer.fits:
        return answer
    used = [_used(plan, best, one) for one in free]
    for share in LEFT_OUT:
        fewer = [one for one, much in zip(free, used, strict=True) if much > share * max(used)]
        tried = _answer(plan, target, way, _levered(plan, target, fewer), fits)
        if _well_within(tried, fits) and _weight(tried) < _weight(answer):
            answer = tried
    return answer


def _levered(plan: Chain, target: Vector, free: list[Lever]) -> Chain:
    """The chain with some values moved the least that takes its end to the target, each within its bounds."""
    new, none = plan, np.zeros((len(plan.steps), len(ERRORS)))
    for _ in range(TRIM_ROUNDS if free else 0):
        end = built(new, none)[-1]
        lack = np.concatenate([target[:, 3] - end[:, 3], (target[:, 0] - end[:, 0]) * ARM_MM])
        if np.linalg.norm(lack) < LITTLE_MM / 10:
            break
        moves = np.concatenate([twists(new, none), joint_turns(new)[:, None]], axis=1)
        by = np.array([moves[one.step, one.column] / one.weight for one in free]).T
        by = np.vstack([at_point(by, end[:, 3]), np.cross(by[:3].T, end[:, 0]).T * ARM_MM])
        step = by.T @ np.linalg.solve(by @ by.T + DAMP * np.eye(6), lack)
        steps, trims = new.steps.copy(), new.trims.copy()
        for one, much in zip(free, step, strict=True):
            values, column = _value_of(one, steps, trims)
            values[one.step, column] = np.clip(values[one.step, column] + much / one.weight, one.low, one.high)
        new = replace(new, steps=steps, trims=trims)
    return new


def _value_of(one: Lever, steps: Vector, trims: Vector) -> tuple[Vector, int]:
    """Where the value of a lever stands: in which table, and which column of it."""
    return (trims, one.column - 3) if one.column >= 3 else (steps, 1 if one.column == 0 else 3)


def _used(was: Chain, now: Chain, one: Lever) -> float:
    """How much of a lever was used [mm]."""
    old, column = _value_of(one, was.steps, was.trims)
    new, _ = _value_of(one, now.steps, now.trims)
    return float(abs(new[one.step, column] - old[one.step, column])) * one.weight


def _answer(plan: Chain, target: Vector, way: CorrectionKind, new: Chain, fits: Fits) -> Correction:
    end = built(new, np.zeros((len(new.steps), len(ERRORS))))[-1]
    miss = float(np.linalg.norm(end[:, 3] - target[:, 3]))
    tilt = float(np.degrees(np.arccos(np.clip(end[:, 0] @ target[:, 0], -1.0, 1.0))))
    return Correction(way, new, tuple(_changes(plan, new, way)), miss, tilt, miss <= fits[0] and tilt <= fits[1])


def _changes(was: Chain, now: Chain, way: CorrectionKind) -> Iterator[Change]:
    for k in range(len(was.steps)):
        old, new, made = was.steps[k], now.steps[k], was.piece[k] in was.made
        if old[0] == chain.LEG and abs(new[1] - old[1]) > LITTLE_MM:
            what: Literal["overlap", "length"] = "overlap" if way in IN_JOINTS else "length"
            yield Change(was.piece[k], what, float(old[1]), float(new[1]), made=made)
        if old[0] == chain.BEND and abs(new[1] - old[1]) > LITTLE_DEG:
            yield Change(was.piece[k], "angle", float(old[1]), float(new[1]), made=made)
        if old[0] == chain.BEND and abs(new[3] - old[3]) > LITTLE_DEG:
            round_mm = float(np.radians(new[3] - old[3]) * was.od_mm[k] / 2)
            yield Change(was.piece[k], "clock", float(old[3]), float(new[3]), round_mm)
        if abs(now.trims[k, 2] - was.trims[k, 2]) > LITTLE_DEG:
            turned = float(was.trims[k, 2] - now.trims[k, 2])
            yield Change(was.piece[k], "turn", 0.0, turned, float(np.radians(turned) * was.od_mm[k] / 2))
        tilt = float(np.hypot(*now.trims[k, :2]))
        if tilt > LITTLE_DEG and not np.allclose(now.trims[k, :2], was.trims[k, :2]):
            # what lies behind tilts toward the side where most comes off
            at = float(np.degrees(np.arctan2(now.trims[k, 0], -now.trims[k, 1])))
            if old[0] == chain.RIGID:
                yield Change(was.piece[k], "flex", 0.0, tilt, at_deg=at)
                continue
            yield Change(was.piece[k], "trim", 0.0, tilt, float(np.radians(tilt) * was.od_mm[k]), at)
